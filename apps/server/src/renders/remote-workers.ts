import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import {
  CHUNK_QUEUE,
  fingerprintOf,
  kernelsDigest,
  MediaError,
  type ChunkJob,
  type ChunkTicket,
  type MediaFile,
  type MediaFiles,
  type MediaTicket,
} from '@idle-bend/media';
import { Logger } from '@nestjs/common';
import { Queue, QueueEvents } from 'bullmq';
import { Redis } from 'ioredis';
import type { ChunkMaker, MakingChunk, WantedChunk } from './makers.js';

/** More than any number of workers: they take from the queue what they can. */
const SLOTS = 256;
/** Times a chunk is tried that failed for another reason than its media. */
const ATTEMPTS = 5;
/** How often it is asked who is there. */
const LET_GO_MS = 2000;
const LOOK_MS = 2000;
/** A render of which nothing was made for so long is not being made. */
const BELIEVED_MS = 20_000;

/**
 * Chunks made by workers on other machines (or this one), through a BullMQ queue on Redis. This server's database stays the truth: a
 * chunk is done when it stands in its render's folder, whoever put it there, and however often. A worker that dies loses its lock, and
 * another takes the chunk.
 */
export class RemoteWorkers implements ChunkMaker {
  readonly slots = SLOTS;
  private readonly logger = new Logger('workers');
  private readonly connection: Redis;
  private readonly eventConnection: Redis;
  private readonly queue: Queue<ChunkTicket>;
  private readonly events: QueueEvents;
  private readonly reported = new Map<string, (done: number) => void>();
  /** Takes chunks back that were cancelled while a worker had them. */
  private readonly takenBack = new Map<string, () => void>();
  /** Why workers left chunks to others, by render. */
  private readonly left = new Map<string, string>();
  /** When a frame of a render was last made, by render. */
  private readonly progressed = new Map<string, number>();
  private readonly looking: NodeJS.Timeout;
  private workers = 0;
  /** Of files as they are: by device, number, length and time. All chunks of a render ask for them at once. */
  private readonly fingerprints = new Map<string, Promise<string>>();

  /** `onChange` is told when workers have come or gone. */
  constructor(url: string, onChange: () => void) {
    const connect = () => new Redis(url, { maxRetriesPerRequest: null });
    this.connection = connect();
    this.queue = new Queue(CHUNK_QUEUE, { connection: this.connection });
    this.eventConnection = connect();
    this.events = new QueueEvents(CHUNK_QUEUE, { connection: this.eventConnection });
    let complained = false;
    const complain = (error: Error) => {
      if (!complained)
        this.logger.warn(`The queue at ${new URL(url).host} does not answer (${error.message}); renders wait for it.`);
      complained = true;
    };
    this.connection.on('error', complain);
    this.queue.on('error', complain);
    this.events.on('error', complain);
    this.events.on('progress', ({ jobId, data }) => {
      const renderId = jobId.slice(0, jobId.lastIndexOf('_'));
      if (isLeft(data)) {
        const before = this.whyLeft(renderId);
        this.left.set(renderId, data.left);
        if (this.whyLeft(renderId) !== before) onChange();
      } else {
        this.progressed.set(renderId, Date.now());
        this.reported.get(jobId)?.(Number(data));
      }
    });
    this.events.on('delayed', ({ jobId }) => this.takenBack.get(jobId)?.());
    this.looking = setInterval(() => {
      void this.queue.getWorkers().then(
        (all) => {
          if (all.length !== this.workers) onChange();
          this.workers = all.length;
        },
        () => (this.workers = 0),
      );
    }, LOOK_MS);
  }

  isThere(): boolean {
    return this.workers > 0;
  }

  whyLeft(renderId: string): string | undefined {
    const isBeingMade = Date.now() - (this.progressed.get(renderId) ?? 0) < BELIEVED_MS;
    return isBeingMade ? undefined : this.left.get(renderId);
  }

  make({ renderId, job, files }: WantedChunk, onProgress: (done: number) => void): MakingChunk {
    const id = `${renderId}_${job.order.index}`;
    this.reported.set(id, onProgress);
    let giveUp: (error: Error) => void;
    const givenUp = new Promise<never>((_, reject) => (giveUp = reject));
    const cancelled = new AbortController();
    const waiting = this.wait(id, renderId, job, files, cancelled.signal);
    // What a worker has begun cannot be taken from it: it is awaited, until it is done or put back.
    const takeBack = () =>
      void this.queue.remove(id).then(
        (removed) => removed && giveUp(new Error('cancelled')),
        () => undefined,
      );
    return {
      result: Promise.race([waiting, givenUp]).finally(() => {
        this.reported.delete(id);
        this.takenBack.delete(id);
      }),
      cancel: () => {
        cancelled.abort(new Error('cancelled'));
        this.takenBack.set(id, takeBack);
        takeBack();
      },
    };
  }

  private async wait(
    id: string,
    renderId: string,
    job: ChunkJob,
    files: MediaFiles,
    cancelled: AbortSignal,
  ): Promise<void> {
    const tickets = Object.entries(files).map(async ([key, media]) => [key, await this.ticketOf(media)] as const);
    const media = Object.fromEntries(await Promise.all(tickets));
    const ticket: ChunkTicket = { renderId, job, media, kernels: kernelsDigest() };
    // What another run of this server asked for may still be under way; what it ended with is of no use any more.
    const before = await this.queue.getJob(id);
    if (before && ((await before.isCompleted()) || (await before.isFailed()))) await before.remove();
    const kept = { removeOnComplete: { age: 600 }, removeOnFail: { age: 600 }, attempts: ATTEMPTS, backoff: 1000 };
    cancelled.throwIfAborted();
    const work = await this.queue.add('chunk', ticket, { jobId: id, ...kept });
    await work.waitUntilFinished(this.events);
  }

  /** Throws `MediaError` for a file that is not there. */
  private async ticketOf({ file, name, own = file }: MediaFile): Promise<MediaTicket> {
    const stats = await stat(file).catch(() => {
      throw new MediaError(`${name}: there is no such file where it was.`);
    });
    const key = `${stats.dev} ${stats.ino} ${stats.size} ${stats.mtimeMs}`;
    const found = this.fingerprints.get(key) ?? fingerprintOf(file);
    this.fingerprints.set(key, found);
    found.catch(() => this.fingerprints.delete(key));
    return { name, fileName: basename(own), bytes: stats.size, fingerprint: await found };
  }

  async close(): Promise<void> {
    clearInterval(this.looking);
    // A queue that does not answer would not let go either.
    const closing = Promise.all([this.events.close(), this.queue.close()]).catch(() => undefined);
    await Promise.race([closing, new Promise((resolve) => setTimeout(resolve, LET_GO_MS).unref())]);
    this.connection.disconnect();
    this.eventConnection.disconnect();
  }
}

/** What a worker says of a chunk it leaves to others. */
const isLeft = (data: unknown): data is { readonly left: string } =>
  typeof data === 'object' && data !== null && typeof (data as { left?: unknown }).left === 'string';
