import { fork, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
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
  let rejectWith: (error: Error) => void = () => undefined;
  const result = new Promise<JobFindings>((resolve, reject) => {
    rejectWith = reject;
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
  const unwatch = watched(child, job, (reason) => rejectWith(reason));
  child.once('exit', unwatch);
  child.send({ kind: 'begin', job });
  return { result, cancel: () => void (child.connected && child.send({ kind: 'cancel' })) };
}

/** How long a job may say nothing, and those that never do may take; a file that stalls its decoder delays what waits behind it no longer. */
const SILENT_SECONDS: Readonly<Record<Job['kind'], number>> = { inspect: 900, proxy: 600, motion: 900, track: 900, listen: 3600, chunk: 1800, sequence: 6 * 3600, fields: 12 * 3600, join: 12 * 3600 }; // prettier-ignore
/** Resident memory of a job's process; its decoders have a limit of their own. */
const MOST_MEMORY = 6 * 1024 ** 3;
const LOOK_MS = 2000;

/** Ends a job that stalls, or takes more memory than there is for one. */
function watched(child: ChildProcess, job: Job, fail: (error: Error) => void): () => void {
  const name = 'name' in job ? job.name : 'The job';
  let heard = performance.now();
  child.on('message', () => (heard = performance.now()));
  const end = (problem: string) => {
    fail(new MediaError(`${name}: ${problem}.`));
    child.kill('SIGKILL');
  };
  const timer = setInterval(() => {
    const seconds = SILENT_SECONDS[job.kind];
    if (performance.now() - heard > seconds * 1000)
      return end(`nothing came of it for ${Math.round(seconds / 60)} minutes, so it was given up; the file may be damaged`);
    const memory = memoryOf(child.pid);
    if (memory !== undefined && memory > MOST_MEMORY) end(`takes more than the ${MOST_MEMORY / 1024 ** 3} GiB of memory a job may have`);
  }, LOOK_MS).unref();
  return () => clearInterval(timer);
}

/** Resident memory of a process, bytes, where the system tells. */
function memoryOf(pid: number | undefined): number | undefined {
  try {
    const kilobytes = /^VmRSS:\s*(\d+) kB/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1];
    return kilobytes === undefined ? undefined : Number(kilobytes) * 1024;
  } catch {
    return undefined;
  }
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

/** Jobs one after another, in so many lanes: more at once would only share the same cores, but one that stalls leaves the other lane free. */
export class JobQueue {
  private readonly logger = new Logger('jobs');
  private readonly waiting: (() => Promise<void>)[] = [];
  private busy = 0;

  constructor(private readonly lanes = 1) {}

  add(task: () => Promise<void>): void {
    this.waiting.push(task);
    if (this.busy < this.lanes) void this.work();
  }

  private async work(): Promise<void> {
    this.busy++;
    for (let task = this.waiting.shift(); task; task = this.waiting.shift())
      // What a task cannot write down (the disk is full) is made up for after the next start.
      await task().catch((error: Error) => this.logger.warn(error.message));
    this.busy--;
  }
}
