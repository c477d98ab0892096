import { createReadStream } from 'node:fs';
import { mkdtemp, readdir, rm, stat } from 'node:fs/promises';
import { randomUUID } from 'node:crypto';
import { hostname, tmpdir } from 'node:os';
import { basename, delimiter, join, resolve } from 'node:path';
import { Readable } from 'node:stream';
import { InvalidInput } from '@idle-bend/core/foundation';
import {
  CHUNK_QUEUE,
  chunkName,
  FlowStore,
  kernelsDigest,
  makeScratchFolder,
  MediaError,
  runChunk,
  type ChunkTicket,
  type MediaFile,
  type MediaFiles,
  type MediaTicket,
} from '@idle-bend/media';
import { DelayedError, UnrecoverableError, Worker, type Job } from 'bullmq';
import { Redis } from 'ioredis';
import { ChunkLeft } from './chunk-left.js';
import { MediaCache } from './media-cache.js';
import { countOption, readOptions, text, texts, UsageError, type OptionKind } from './options.js';
import { OwnMedia } from './own-media.js';

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  data: { type: 'string', help: 'DIR  the server’s data folder, mounted here' },
  server: {
    type: 'string',
    help: 'URL  of the server: media are fetched from it and chunks brought to it; its token in IDLE_BEND_TOKEN',
  },
  redis: { type: 'string', help: 'URL  of the queue; IDLE_BEND_REDIS without it' },
  media: {
    type: 'string',
    multiple: true,
    help: 'DIR  a folder of this machine where footage lies that was taken in where it lies: known by what is in it; may be given several times (or IDLE_BEND_MEDIA)',
  },
  cache: { type: 'string', help: 'DIR  for fetched media; a temporary one without it' },
  'cache-size': { type: 'string', help: 'MIB  the most that is kept of fetched media; 65536 without it' },
  'motion-cache': { type: 'string', help: 'MIB  the most that is kept of the motion between frames; 4096 without it' },
};

/** A worker that is silent for so long is taken for dead, and its chunk given to another. */
const LOCK_MS = 15_000;
const LOOK_MS = 5_000;
/** A chunk that a worker of another version refused is offered again after so long. */
const REFUSED_MS = 2_000;
/** A chunk may be taken over so many times: machines that die are not the chunk's fault. */
const MAX_TAKEN_OVER = 100;

/** Where a worker's media come from and its chunks go. */
interface Workplace {
  /** Throws `ChunkLeft` where the chunk cannot be brought from here, and what says that nobody waits for it: before it is made. */
  wanted(ticket: ChunkTicket, signal: AbortSignal): Promise<void>;
  /** Throws `ChunkLeft` where they cannot be had here. */
  files(media: ChunkTicket['media'], signal: AbortSignal): Promise<MediaFiles>;
  /** Runs `make` with the folder a chunk is made in, and brings what was made to where it belongs. */
  deliver(ticket: ChunkTicket, make: (folder: string) => Promise<unknown>): Promise<void>;
  readonly motion: string;
}

export const worker = {
  usage: 'idle-bend worker (--data DIR | --server URL) [--redis URL] [options]',
  about:
    'Makes chunks of renders for a server, until it is stopped. Any number may run, on any machine; each may end at any time.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void, progress: (text: string) => void): Promise<number> {
    const { values } = readOptions(args, OPTIONS, []);
    const [data, server] = [text(values, 'data'), text(values, 'server')];
    if ((data === undefined) === (server === undefined)) throw new UsageError('either --data or --server is needed');
    const redis = text(values, 'redis') ?? process.env['IDLE_BEND_REDIS'];
    if (!redis || !/^rediss?:\/\//.test(redis))
      throw new UsageError('--redis: needs a redis:// address (or IDLE_BEND_REDIS)');
    const maxBytes = (countOption(values, 'motion-cache', 9_999_999) ?? 4096) * 2 ** 20;
    const cacheBytes = (countOption(values, 'cache-size', 999_999_999) ?? 65_536) * 2 ** 20;
    const own = new OwnMedia(await mediaFolders(texts(values, 'media')));
    const scratch = makeScratchFolder(join(tmpdir(), 'idle-bend-worker-'));
    const place =
      data === undefined
        ? fetched(
            server!,
            own,
            { folder: resolve(text(values, 'cache') ?? join(scratch, 'media')), cacheBytes },
            scratch,
          )
        : mounted(resolve(data), own, scratch);
    const store = new FlowStore(place.motion, maxBytes);
    const stop = new AbortController();
    const connection = new Redis(redis, { maxRetriesPerRequest: null });
    const working = new Worker<ChunkTicket>(
      CHUNK_QUEUE,
      (job, token) => work(job, token, place, store, stop.signal, progress),
      {
        connection,
        // Redis takes no spaces in names, and a client without one is not counted as a worker.
        name: `${hostname().replace(/[^\w.-]/g, '-')}-${process.pid}`,
        lockDuration: LOCK_MS,
        stalledInterval: LOOK_MS,
        maxStalledCount: MAX_TAKEN_OVER,
      },
    );
    let complained = false;
    working.on('error', (error) => {
      if (!complained) progress(`the queue does not answer (${error.message}); waiting for it`);
      complained = true;
    });
    await working.waitUntilReady();
    print(`waiting for chunks at ${new URL(redis).host}`);
    await new Promise<void>((ended) => {
      process.once('SIGINT', ended);
      process.once('SIGTERM', ended);
    });
    // What is under way goes back to the queue at once, rather than when its lock has run out.
    stop.abort(new Error('this worker is stopping'));
    await working.close();
    connection.disconnect();
    await rm(scratch, { recursive: true, force: true });
    return 0;
  },
};

/** The folders themselves. Throws `UsageError` for what is not a folder. */
async function mediaFolders(given: readonly string[]): Promise<string[]> {
  const named = given.length > 0 ? given : (process.env['IDLE_BEND_MEDIA'] ?? '').split(delimiter).filter(Boolean);
  const folders = named.map((folder) => resolve(folder));
  for (const folder of folders)
    if (!(await stat(folder).catch(() => undefined))?.isDirectory())
      throw new UsageError(`--media: ${folder} is not a folder`);
  return folders;
}

/** What was said of renders whose chunks were left to others: they are offered again and again. */
const left = new Set<string>();

async function work(
  job: Job<ChunkTicket>,
  token: string | undefined,
  place: Workplace,
  store: FlowStore,
  signal: AbortSignal,
  progress: (text: string) => void,
): Promise<void> {
  const { renderId, job: chunk, media, kernels } = job.data;
  const what = `chunk ${chunk.order.index} of ${renderId.slice(0, 8)}`;
  let reported = 0;
  try {
    if (kernels !== kernelsDigest())
      throw new ChunkLeft('this worker is of another version than the server; update it');
    await place.wanted(job.data, signal);
    const files = await place.files(media, signal);
    const before = await stampsOf(files);
    await place.deliver(job.data, async (folder) => {
      try {
        await runChunk(chunk, files, folder, {
          signal,
          store,
          onFrame: (done) => {
            if (Date.now() - reported < 300) return;
            reported = Date.now();
            void job.updateProgress(done).catch(() => undefined);
          },
        });
      } finally {
        await refuseChanged(files, before, join(folder, chunkName(chunk.order.format, chunk.order.index)));
      }
    });
    progress(`${what} done`);
  } catch (error) {
    if (error instanceof ChunkLeft) {
      if (!left.has(renderId + error.message)) progress(`${what}: left to others: ${error.message}`);
      left.add(renderId + error.message);
      await job.updateProgress({ left: error.message });
      await job.moveToDelayed(Date.now() + REFUSED_MS, token);
      throw new DelayedError();
    }
    progress(`${what}: ${(error as Error).message}`);
    // The same media would fail the same way elsewhere; anything else is worth another try.
    if (error instanceof MediaError || error instanceof InvalidInput) throw new UnrecoverableError(error.message);
    throw error;
  }
}

/** What tells that a file is still the same, by footage. */
async function stampsOf(files: MediaFiles): Promise<Map<string, string>> {
  const stamps = Object.entries(files).map(async ([id, { file }]) => {
    const stats = await stat(file).catch(() => undefined);
    return [id, stats ? `${stats.ino} ${stats.size} ${stats.mtimeMs}` : ''] as const;
  });
  return new Map(await Promise.all(stamps));
}

/** Throws where a file is not there any more, or another, and removes the chunk: it may be made of both. Another try finds the right one. */
async function refuseChanged(files: MediaFiles, before: ReadonlyMap<string, string>, made: string): Promise<void> {
  const now = await stampsOf(files);
  const changed = Object.entries(files).find(([id]) => now.get(id) === '' || now.get(id) !== before.get(id));
  if (!changed) return;
  await rm(made, { recursive: true, force: true });
  throw new Error(`${changed[1].name} was changed on the disk while the chunk was made`);
}

/** The data folder is seen from here; footage that does not lie in it is looked for in folders of this machine. */
function mounted(data: string, own: OwnMedia, scratch: string): Workplace {
  const find = async (id: string, { name, fileName, bytes, fingerprint }: MediaTicket): Promise<MediaFile> => {
    const file = join(data, 'media', basename(id), basename(fileName));
    if ((await stat(file).catch(() => undefined))?.size === bytes) return { file, name };
    const found = await own.find(bytes, fingerprint);
    if (found === undefined)
      throw new ChunkLeft(`"${name}" does not lie in the data folder; name the folder it lies in with --media`);
    return { file: found, name, own: join(scratch, fingerprint) };
  };
  return {
    motion: join(data, 'motion'),
    // The render's folder is there as long as it is wanted.
    wanted: async ({ renderId }) => {
      if (!(await stat(join(data, 'renders', basename(renderId))).catch(() => undefined)))
        throw new ChunkLeft(`${data} is not the data folder of the server that renders this`);
    },
    files: async (media) =>
      Object.fromEntries(
        await Promise.all(Object.entries(media).map(async ([id, ticket]) => [id, await find(id, ticket)] as const)),
      ),
    deliver: async ({ renderId }, make) => void (await make(join(data, 'renders', basename(renderId)))),
  };
}

class ServerRefused extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

/** Everything goes over HTTP, but for footage that lies in folders of this machine. */
function fetched(
  server: string,
  own: OwnMedia,
  { folder, cacheBytes }: { readonly folder: string; readonly cacheBytes: number },
  scratch: string,
): Workplace {
  const token = process.env['IDLE_BEND_TOKEN'];
  const call = async (path: string, options: RequestInit = {}) => {
    const headers = { ...options.headers, ...(token && { Authorization: `Bearer ${token}` }) };
    const response = await fetch(new URL(`/api/work/${path}`, server), { ...options, headers }).catch(
      (error: Error) => {
        options.signal?.throwIfAborted();
        // Others may reach it, and this one later.
        throw new ChunkLeft(
          `${server} does not answer (${(error.cause as Error | undefined)?.message ?? error.message})`,
        );
      },
    );
    if (response.ok) return response;
    const { message } = (await response.json().catch(() => ({}))) as { message?: string };
    throw new ServerRefused(`${server}: ${message ?? response.status}`, response.status);
  };
  const cache = new MediaCache(folder, cacheBytes, async (id, fileName, { from, to }, signal) => {
    const response = await call(`media/${encodeURIComponent(id)}/${encodeURIComponent(fileName)}`, {
      signal,
      headers: { Range: `bytes=${from}-${to - 1}` },
    });
    if (response.status === 206) return response;
    await response.body?.cancel();
    throw new Error(`${server}: does not answer with parts of ${fileName}`);
  });
  return {
    motion: join(scratch, 'motion'),
    wanted: async ({ renderId, job: { order } }, signal) => {
      try {
        await call(`${renderId}/${order.index}`, { signal });
      } catch (error) {
        if (!(error instanceof ServerRefused)) throw error;
        if (error.status === 404)
          throw new ChunkLeft(`${server} does not know this render: another server asks for it`);
        if (error.status === 410) throw new UnrecoverableError(error.message);
        throw error;
      }
    },
    files: async (media, signal) => {
      const files: Record<string, MediaFile> = {};
      const elsewhere: Record<string, MediaTicket> = {};
      for (const [id, ticket] of Object.entries(media)) {
        const found = await own.find(ticket.bytes, ticket.fingerprint);
        if (found === undefined) elsewhere[id] = ticket;
        else files[id] = { file: found, name: ticket.name, own: join(scratch, ticket.fingerprint) };
      }
      for (const [id, file] of await cache.files(elsewhere, signal)) files[id] = { file, name: media[id]!.name };
      return files;
    },
    deliver: async ({ renderId, job: { order } }, make) => {
      const folder = await mkdtemp(join(scratch, 'chunk-'));
      try {
        await make(folder);
        const name = chunkName(order.format, order.index);
        const path = `${renderId}/${order.index}/${randomUUID()}`;
        const made = join(folder, name);
        const files = (await stat(made)).isDirectory()
          ? (await readdir(made)).map((n) => [n, join(made, n)] as const)
          : [[name, made] as const];
        for (const [n, file] of files)
          await call(`${path}/${n}`, {
            method: 'PUT',
            body: Readable.toWeb(createReadStream(file)) as never,
            duplex: 'half',
          } as never);
        await call(`${path}/done`, { method: 'POST' });
      } finally {
        await rm(folder, { recursive: true, force: true });
      }
    },
  };
}
