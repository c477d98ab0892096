import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, mkdtemp, readdir, rename, rm, stat } from 'node:fs/promises';
import { randomUUID } from 'node:crypto';
import { hostname, tmpdir } from 'node:os';
import { basename, join, resolve } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { InvalidInput } from '@idle-bend/core/foundation';
import {
  CHUNK_QUEUE,
  chunkName,
  FlowStore,
  kernelsDigest,
  MediaError,
  runChunk,
  type ChunkTicket,
  type MediaFiles,
} from '@idle-bend/media';
import { DelayedError, UnrecoverableError, Worker, type Job } from 'bullmq';
import { Redis } from 'ioredis';
import { countOption, readOptions, text, UsageError, type OptionKind } from './options.js';

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  data: { type: 'string', help: 'DIR  the server’s data folder, mounted here' },
  server: {
    type: 'string',
    help: 'URL  of the server: media are fetched from it and chunks brought to it; its token in IDLE_BEND_TOKEN',
  },
  redis: { type: 'string', help: 'URL  of the queue; IDLE_BEND_REDIS without it' },
  cache: { type: 'string', help: 'DIR  for fetched media; a temporary one without it' },
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
    const scratch = await mkdtemp(join(tmpdir(), 'idle-bend-worker-'));
    const place =
      data === undefined
        ? fetched(server!, resolve(text(values, 'cache') ?? join(scratch, 'media')), scratch)
        : mounted(resolve(data));
    const store = new FlowStore(place.motion, maxBytes);
    const stop = new AbortController();
    const connection = new Redis(redis, { maxRetriesPerRequest: null });
    const working = new Worker<ChunkTicket>(
      CHUNK_QUEUE,
      (job, token) => work(job, token, place, store, stop.signal, progress),
      {
        connection,
        name: `${hostname()} ${process.pid}`,
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
  if (kernels !== kernelsDigest()) {
    progress(`${what}: left to others, for this worker is of another version than the server; update it`);
    await job.moveToDelayed(Date.now() + REFUSED_MS, token);
    throw new DelayedError();
  }
  try {
    const files = await place.files(media, signal);
    await place.deliver(job.data, (folder) =>
      runChunk(chunk, files, folder, {
        signal,
        store,
        onFrame: (done) => {
          if (Date.now() - reported < 300) return;
          reported = Date.now();
          void job.updateProgress(done).catch(() => undefined);
        },
      }),
    );
    progress(`${what} done`);
  } catch (error) {
    progress(`${what}: ${(error as Error).message}`);
    // The same media would fail the same way elsewhere; anything else is worth another try.
    if (error instanceof MediaError || error instanceof InvalidInput) throw new UnrecoverableError(error.message);
    throw error;
  }
}

/** The data folder is seen from here. */
function mounted(data: string): Workplace {
  return {
    motion: join(data, 'motion'),
    files: (media) =>
      Promise.resolve(
        Object.fromEntries(
          Object.entries(media).map(([id, { name, fileName }]) => [
            id,
            { name, file: join(data, 'media', basename(id), basename(fileName)) },
          ]),
        ),
      ),
    deliver: async ({ renderId }, make) => void (await make(join(data, 'renders', basename(renderId)))),
  };
}

/** Everything goes over HTTP. */
function fetched(server: string, cache: string, scratch: string): Workplace {
  const token = process.env['IDLE_BEND_TOKEN'];
  const call = async (path: string, options: RequestInit = {}) => {
    const response = await fetch(new URL(`/api/work/${path}`, server), {
      ...options,
      headers: token ? { Authorization: `Bearer ${token}` } : {},
    });
    if (response.ok) return response;
    const { message } = (await response.json().catch(() => ({}))) as { message?: string };
    throw new Error(`${server}: ${message ?? response.status}`);
  };
  const fetchOne = async (id: string, fileName: string, signal: AbortSignal): Promise<string> => {
    const file = join(cache, basename(id), basename(fileName));
    if (
      await stat(file).then(
        () => true,
        () => false,
      )
    )
      return file;
    await mkdir(join(cache, basename(id)), { recursive: true });
    const part = `${file}.${randomUUID()}.part`;
    const response = await call(`media/${encodeURIComponent(id)}/${encodeURIComponent(fileName)}`, { signal });
    await pipeline(Readable.fromWeb(response.body as never), createWriteStream(part), { signal });
    await rename(part, file);
    return file;
  };
  return {
    motion: join(scratch, 'motion'),
    files: async (media, signal) => {
      const all = Object.entries(media).map(
        async ([id, { name, fileName }]) => [id, { name, file: await fetchOne(id, fileName, signal) }] as const,
      );
      return Object.fromEntries(await Promise.all(all));
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
