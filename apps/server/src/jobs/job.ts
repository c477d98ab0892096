import { fork, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { constants, setPriority } from 'node:os';
import { fileURLToPath } from 'node:url';
import { MediaError } from '@idle-bend/media';
import { JOBS, type InputOf, type JobName, type OutputOf } from './registry.js';

/** What a job's process is told. */
export type JobOrder =
  | { readonly kind: 'begin'; readonly name: JobName; readonly input: unknown }
  | { readonly kind: 'cancel' }
  /** Its programs stand still until the other comes. */
  | { readonly kind: 'hold' | 'go-on' };

/** What it says. */
export type JobMessage =
  | { readonly kind: 'progress'; readonly done: number; readonly total: number }
  | { readonly kind: 'done'; readonly output: unknown }
  /** `refused`: the file is at fault, and the message may be shown. */
  | { readonly kind: 'failed'; readonly message: string; readonly refused: boolean };

export interface RunningJob<Output> {
  /** Rejects with its sentence when the job failed or was cancelled: `MediaError` where the file is at fault. */
  readonly result: Promise<Output>;
  cancel(): void;
  /** Has its programs stand still, or go on. */
  hold(hold: boolean): void;
}

/** A process that has nothing to do yet, so that work somebody waits for need not wait for one to start. */
let ready: { readonly child: ChildProcess; readonly idle: NodeJS.Timeout } | undefined;

/** Nobody came for so long: it is not kept. */
const IDLE_MS = 60_000;

/** Starts a process for the next work that somebody waits for. */
export function readyForWork(): void {
  if (ready) return void ready.idle.refresh();
  const child = started();
  const idle = setTimeout(() => child.kill(), IDLE_MS).unref();
  ready = { child, idle };
  child.unref();
  child.channel?.unref();
  const forget = () => {
    clearTimeout(idle);
    if (ready?.child === child) ready = undefined;
  };
  child.once('exit', forget);
  // Where none can be started now, the next work tries again, and says so.
  child.once('error', forget);
}

function takeReady(): ChildProcess {
  const taken = ready;
  ready = undefined;
  if (!taken?.child.connected) return started();
  clearTimeout(taken.idle);
  taken.child.ref();
  taken.child.channel?.ref();
  return taken.child;
}

const started = () => fork(PROGRAM, { serialization: 'advanced', execArgv: [] });

const PROGRAM = fileURLToPath(new URL('./worker.js', import.meta.url));

/**
 * Runs one job in a process of its own, at a lower priority than the one that answers people, and takes nothing along when it dies: a
 * thread of this process would hold locks of the memory that both share while it waits for its turn. An idle one comes last of all.
 */
export function runJob<Name extends JobName>(
  name: Name,
  input: InputOf<Name>,
  onProgress: (done: number, total: number) => void = () => undefined,
  isIdle = JOBS[name].isIdle ?? false,
): RunningJob<OutputOf<Name>> {
  const child = JOBS[name].isAwaited ? takeReady() : started();
  lowerPriority(child.pid, isIdle);
  let rejectWith: (error: Error) => void = () => undefined;
  const result = new Promise<OutputOf<Name>>((resolve, reject) => {
    rejectWith = reject;
    child.on('message', (message: JobMessage) => {
      if (message.kind === 'progress') onProgress(message.done, message.total);
      else if (message.kind === 'done') resolve(message.output as OutputOf<Name>);
      else reject(message.refused ? new MediaError(message.message) : new Error(message.message));
    });
    child.once('error', reject);
    child.once('exit', () => reject(new Error('the job ended before it was done')));
  });
  const of = 'name' in input ? input.name : 'The job';
  const watch = watched(child, of, JOBS[name].silentSeconds, (reason) => rejectWith(reason));
  child.once('exit', watch.end);
  const order: JobOrder = { kind: 'begin', name, input };
  child.send(order);
  const tell = (order: JobOrder) => void (child.connected && child.send(order));
  return {
    result,
    cancel: () => tell({ kind: 'cancel' }),
    hold(hold) {
      watch.hold(hold);
      tell({ kind: hold ? 'hold' : 'go-on' });
    },
  };
}

/** Resident memory of a job's process; its decoders have a limit of their own. */
const MAX_MEMORY = 6 * 1024 ** 3;
const LOOK_MS = 2000;

/** Ends a job that stalls, or takes more memory than there is for one: a file that stalls its decoder delays what waits behind it no longer. */
function watched(child: ChildProcess, name: string, silentSeconds: number, fail: (error: Error) => void): Watch {
  let heard = performance.now();
  let isHeld = false;
  child.on('message', () => (heard = performance.now()));
  const end = (problem: string) => {
    fail(new MediaError(`${name}: ${problem}.`));
    child.kill('SIGKILL');
  };
  const timer = setInterval(() => {
    if (!isHeld && performance.now() - heard > silentSeconds * 1000)
      return end(
        `nothing came of it for ${Math.round(silentSeconds / 60)} minutes, so it was given up; the file may be damaged`,
      );
    const memory = memoryOf(child.pid);
    if (memory !== undefined && memory > MAX_MEMORY)
      end(`takes more than the ${MAX_MEMORY / 1024 ** 3} GiB of memory a job may have`);
  }, LOOK_MS).unref();
  return {
    end: () => clearInterval(timer),
    hold: (hold) => ([isHeld, heard] = [hold, performance.now()]),
  };
}

interface Watch {
  end(): void;
  /** A job that is told to stand still may say nothing. */
  hold(hold: boolean): void;
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

/** What nobody waits for comes last of all. Programs the job starts inherit its priority. */
function lowerPriority(pid: number | undefined, isIdle: boolean): void {
  try {
    if (pid !== undefined) setPriority(pid, isIdle ? PRIORITY_LOW : PRIORITY_BELOW_NORMAL);
  } catch {
    // It then shares alike.
  }
}
