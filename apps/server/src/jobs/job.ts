import { Worker } from 'node:worker_threads';
import type { Health, Loudness, Patch, Rate, RenderQuality } from '@idle-bend/core';
import type { ChunkJob, JoinOrder, MediaFiles } from '@idle-bend/media';

/** Where motion between frames is kept, and how much of it. */
export interface MotionPlace {
  readonly folder: string;
  readonly mostBytes: number;
}

export type Job =
  | { readonly kind: 'sequence'; readonly folder: string; readonly pictures: string; readonly rate: Rate; readonly file: string; readonly name: string }
  | { readonly kind: 'fields'; readonly original: string; readonly name: string; readonly file: string }
  | { readonly kind: 'proxy'; readonly original: string; readonly name: string; readonly proxy: string; readonly strip: string }
  | { readonly kind: 'motion'; readonly proxy: string; readonly name: string; readonly repeats: readonly number[]; readonly file: string }
  | { readonly kind: 'track'; readonly proxy: string; readonly name: string; readonly from: number; readonly to: number; readonly patch: Patch }
  | { readonly kind: 'listen'; readonly original: string; readonly name: string; readonly sound: string; readonly peaks: string; readonly heard: string }
  | { readonly kind: 'chunk'; readonly motion: MotionPlace; readonly chunk: ChunkJob; readonly files: MediaFiles; readonly folder: string }
  | { readonly kind: 'join'; readonly document: string; readonly quality: RenderQuality; readonly join: JoinOrder; readonly files: MediaFiles; readonly folder: string };

export type JobMessage =
  | { readonly kind: 'progress'; readonly done: number; readonly total: number }
  | { readonly kind: 'health'; readonly health: Health }
  | { readonly kind: 'places'; readonly places: readonly (readonly [number, number])[] }
  | { readonly kind: 'loudness'; readonly loudness: Loudness }
  | { readonly kind: 'done' }
  | { readonly kind: 'failed'; readonly message: string };

/** What a job found: of a proxy's, how its pictures are; of a render's, how loud it is; of a patch's, where it was. */
export interface JobFindings {
  readonly health?: Health;
  readonly loudness?: Loudness;
  readonly places?: readonly (readonly [number, number])[];
}

export interface RunningJob {
  /** Resolves when the job is done, with what it found; rejects with its sentence when it failed or was cancelled. */
  readonly result: Promise<JobFindings>;
  cancel(): void;
}

/** Runs one job in a thread of its own. */
export function runJob(job: Job, onProgress: (done: number, total: number) => void): RunningJob {
  const worker = new Worker(new URL('./worker.js', import.meta.url), { workerData: job });
  const result = new Promise<JobFindings>((resolve, reject) => {
    let found: JobFindings = {};
    worker.on('message', (message: JobMessage) => {
      if (message.kind === 'progress') onProgress(message.done, message.total);
      else if (message.kind === 'health') found = { ...found, health: message.health };
      else if (message.kind === 'places') found = { ...found, places: message.places };
      else if (message.kind === 'loudness') found = { ...found, loudness: message.loudness };
      else if (message.kind === 'done') resolve(found);
      else reject(new Error(message.message));
    });
    worker.once('error', reject);
    worker.once('exit', () => reject(new Error('the job ended before it was done')));
  });
  return { result, cancel: () => worker.postMessage('cancel') };
}

/** Jobs one after another: two at once would only share the same cores. */
export class JobQueue {
  private last: Promise<unknown> = Promise.resolve();

  add(task: () => Promise<void>): void {
    this.last = this.last.then(task, task);
  }
}
