import { fork } from 'node:child_process';
import { constants, setPriority } from 'node:os';
import { fileURLToPath } from 'node:url';
import { Logger } from '@nestjs/common';
import type { Health, Loudness, Patch, Rate, RenderQuality } from '@idle-bend/core';
import { MediaError, type ChunkJob, type JoinOrder, type MediaFiles } from '@idle-bend/media';
import type { InspectedFile } from './inspect-file.js';

/** Where motion between frames is kept, and how much of it. */
export interface MotionPlace {
  readonly folder: string;
  readonly mostBytes: number;
}

export type Job =
  | { readonly kind: 'sequence'; readonly folder: string; readonly pictures: string; readonly rate: Rate; readonly file: string; readonly name: string }
  | { readonly kind: 'fields'; readonly original: string; readonly name: string; readonly file: string }
  | { readonly kind: 'inspect'; readonly file: string; readonly name: string }
  | { readonly kind: 'proxy'; readonly original: string; readonly name: string; readonly proxy: string; readonly strip: string }
  | { readonly kind: 'motion'; readonly proxy: string; readonly name: string; readonly repeats: readonly number[]; readonly file: string }
  | { readonly kind: 'track'; readonly proxy: string; readonly name: string; readonly from: number; readonly to: number; readonly patch: Patch }
  | { readonly kind: 'listen'; readonly original: string; readonly name: string; readonly sound: string; readonly peaks: string; readonly heard: string }
  | { readonly kind: 'chunk'; readonly motion: MotionPlace; readonly chunk: ChunkJob; readonly files: MediaFiles; readonly folder: string }
  | {
      readonly kind: 'join';
      readonly document: string;
      readonly quality: RenderQuality;
      readonly join: JoinOrder;
      readonly files: MediaFiles;
      readonly folder: string;
    };

/** What a job is told. */
export type JobOrder = { readonly kind: 'begin'; readonly job: Job } | { readonly kind: 'cancel' };

export type JobMessage =
  | { readonly kind: 'progress'; readonly done: number; readonly total: number }
  | { readonly kind: 'health'; readonly health: Health }
  | { readonly kind: 'places'; readonly places: readonly (readonly [number, number])[] }
  | { readonly kind: 'loudness'; readonly loudness: Loudness }
  | { readonly kind: 'inspected'; readonly inspected: InspectedFile }
  | { readonly kind: 'done' }
  /** `refused`: the file is at fault, and the message may be told. */
  | { readonly kind: 'failed'; readonly message: string; readonly refused: boolean };

/** What a job found: of a proxy's, how its pictures are; of a render's, how loud it is; of a patch's, where it was. */
export interface JobFindings {
  readonly health?: Health;
  readonly loudness?: Loudness;
  readonly inspected?: InspectedFile;
  readonly places?: readonly (readonly [number, number])[];
}

export interface RunningJob {
  /** Resolves when the job is done, with what it found; rejects with its sentence when it failed or was cancelled. */
  readonly result: Promise<JobFindings>;
  cancel(): void;
}

const PROGRAM = fileURLToPath(new URL('./worker.js', import.meta.url));

/**
 * Runs one job in a process of its own, which stands back behind the one that answers people, and takes nothing along when it dies: in a
 * thread of this process it would hold locks of the memory both share while it waits for its turn.
 */
export function runJob(job: Job, onProgress: (done: number, total: number) => void): RunningJob {
  const child = fork(PROGRAM, { serialization: 'advanced', execArgv: [] });
  standBack(child.pid, job.kind);
  const result = new Promise<JobFindings>((resolve, reject) => {
    let found: JobFindings = {};
    child.on('message', (message: JobMessage) => {
      if (message.kind === 'progress') onProgress(message.done, message.total);
      else if (message.kind === 'health') found = { ...found, health: message.health };
      else if (message.kind === 'places') found = { ...found, places: message.places };
      else if (message.kind === 'loudness') found = { ...found, loudness: message.loudness };
      else if (message.kind === 'inspected') found = { ...found, inspected: message.inspected };
      else if (message.kind === 'done') resolve(found);
      else reject(message.refused ? new MediaError(message.message) : new Error(message.message));
    });
    child.once('error', reject);
    child.once('exit', () => reject(new Error('the job ended before it was done')));
  });
  child.send({ kind: 'begin', job });
  return { result, cancel: () => void (child.connected && child.send({ kind: 'cancel' })) };
}

const { PRIORITY_BELOW_NORMAL, PRIORITY_LOW } = constants.priority;

/** What nobody waits for comes last of all. Programs the job starts are as patient as it is. */
function standBack(pid: number | undefined, kind: Job['kind']): void {
  try {
    if (pid !== undefined) setPriority(pid, kind === 'motion' || kind === 'listen' ? PRIORITY_LOW : PRIORITY_BELOW_NORMAL);
  } catch {
    // It then shares alike.
  }
}

/** Jobs one after another: two at once would only share the same cores. */
export class JobQueue {
  private readonly logger = new Logger('jobs');
  private last: Promise<unknown> = Promise.resolve();

  add(task: () => Promise<void>): void {
    // What a task cannot write down (the disk is full) is made up for after the next start.
    this.last = this.last.then(task).catch((error: Error) => this.logger.warn(error.message));
  }
}
