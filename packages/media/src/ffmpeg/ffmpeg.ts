import { spawn, type ChildProcess, type StdioOptions } from 'node:child_process';
import { accessSync, constants } from 'node:fs';
import { delimiter, join, resolve } from 'node:path';
import { MediaError } from './media-error.js';

/** The one place that starts ffmpeg and ffprobe: argument lists, never a shell; no network; no other file; bounded time and memory. */

/** Containers that are read. Playlists, concatenation scripts, image patterns and devices are not among them. */
const DEMUXERS =
  'mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mpegts,mpeg,mpegvideo,m4v,h264,hevc,av1,obu,ivf,ogg,wav,w64,flac,mp3,aac,ac3,aiff,au,caf,flv,asf,mxf,gif,apng,yuv4mpegpipe,nut,dv,vc1,rm';

/** Address space of a decoding process, bytes: room for 8K pictures and their reference frames. */
const MEMORY_LIMIT = 8 * 1024 ** 3;
/** Pictures above this many pixels are refused by the decoder: 16384 × 8192. */
const MAX_PIXELS = 16384 * 8192;

function find(name: string, override: string | undefined): string {
  const candidates = override
    ? [resolve(override)]
    : (process.env['PATH'] ?? '').split(delimiter).map((folder) => join(folder, name));
  for (const candidate of candidates) {
    try {
      accessSync(candidate, constants.X_OK);
      return candidate;
    } catch {
      continue;
    }
  }
  if (override) throw new MediaError(`${override} cannot be run; correct IDLE_BEND_${name.toUpperCase()}.`);
  throw new MediaError(
    `${name} was not found; install it (Debian: apt-get install ffmpeg) or name it in IDLE_BEND_${name.toUpperCase()}.`,
  );
}

const found = new Map<string, string>();

/** Path of the program: the explicit one (IDLE_BEND_FFMPEG, IDLE_BEND_FFPROBE), else the system's. Throws `MediaError`. */
export function programPath(name: 'ffmpeg' | 'ffprobe' | 'prlimit'): string {
  let path = found.get(name);
  if (!path) found.set(name, (path = find(name, process.env[`IDLE_BEND_${name.toUpperCase()}`])));
  return path;
}

/** The version of a program, as far as it says one; builds without a release have none. Throws `MediaError` where it is missing or does not run. */
export async function programVersion(name: 'ffmpeg' | 'ffprobe'): Promise<number | undefined> {
  const { stdout } = await collect(name, ['-version'], {
    seconds: 20,
    explain: () => `${name} was found but does not run; install it again.`,
  });
  const version = /version n?(\d+\.\d+)/.exec(stdout.toString())?.[1];
  return version === undefined ? undefined : Number(version);
}

/** Options that make opening `file` safe; they stand before the input. */
export function safeInput(file: string): string[] {
  return [
    '-protocol_whitelist',
    'file',
    '-format_whitelist',
    DEMUXERS,
    '-max_pixels',
    String(MAX_PIXELS),
    '-i',
    `file:${resolve(file)}`,
  ];
}

export interface StartOptions {
  readonly stdio?: StdioOptions;
  /** CPU seconds after which the kernel ends the process; none for work that is bounded by watching its output. */
  readonly cpuSeconds?: number;
}

/** Starts ffmpeg or ffprobe under memory (and, where asked, CPU) limits. */
export function start(
  program: 'ffmpeg' | 'ffprobe',
  args: readonly string[],
  { stdio = ['ignore', 'pipe', 'pipe'], cpuSeconds }: StartOptions = {},
): ChildProcess {
  const path = programPath(program);
  // Nothing of this server's environment (tokens, proxies, preload paths) reaches a decoder.
  const env = {
    PATH: process.env['PATH'] ?? '',
    LC_ALL: 'C',
    ...(program === 'ffmpeg' && { AV_LOG_FORCE_NOCOLOR: '1' }),
  };
  let limiter: string | undefined;
  try {
    limiter = programPath('prlimit');
  } catch {
    limiter = undefined;
  }
  const child = limiter
    ? spawn(
        limiter,
        [`--as=${MEMORY_LIMIT}`, '--core=0', ...(cpuSeconds ? [`--cpu=${cpuSeconds}`] : []), '--', path, ...args],
        { stdio, env },
      )
    : spawn(path, args, { stdio, env });
  running.add(child);
  child.once('close', () => running.delete(child));
  if (isHeld) child.kill('SIGSTOP');
  return child;
}

let isHeld = false;

/** Has all programs of this process stand still where they are, those too that start meanwhile, or go on: somebody waits for the processor. */
export function holdPrograms(hold: boolean): void {
  if (hold === isHeld) return;
  isHeld = hold;
  running.forEach((child) => child.kill(hold ? 'SIGSTOP' : 'SIGCONT'));
}

/** Whether programs of this process stand still. */
export const areHeld = (): boolean => isHeld;

/** Calls back after so many seconds, to within one, of which those that programs stand still do not count; answers what ends the waiting. */
export function afterWorking(seconds: number, then: () => void): () => void {
  let past = 0;
  const timer = setInterval(() => {
    if (isHeld || ++past < seconds) return;
    clearInterval(timer);
    then();
  }, 1000);
  return () => clearInterval(timer);
}

const running = new Set<ChildProcess>();
// A parent that ends takes its children along; without this a killed command would leave a decoder behind.
process.once('exit', () => running.forEach((child) => child.kill('SIGKILL')));

export interface Collected {
  readonly stdout: Buffer;
  readonly stderr: string;
}

/**
 * Runs a program to its end and returns what it printed. Throws `MediaError` when it fails, takes longer than
 * `seconds`, or prints more than `maxBytes`; `explain` turns its complaint into a sentence.
 */
export async function collect(
  program: 'ffmpeg' | 'ffprobe',
  args: readonly string[],
  {
    seconds,
    maxBytes = 256 * 1024 * 1024,
    explain,
    signal,
  }: { seconds: number; maxBytes?: number; explain: (complaint: string) => string; signal?: AbortSignal },
): Promise<Collected> {
  const child = start(program, args, { cpuSeconds: Math.ceil(seconds * 4) });
  const chunks: Buffer[] = [];
  let stderr = '';
  let bytes = 0;
  let tooLong = false;
  const stop = () => child.kill('SIGKILL');
  const endTimer = afterWorking(seconds, () => {
    tooLong = true;
    stop();
  });
  signal?.addEventListener('abort', stop, { once: true });
  child.stdout!.on('data', (chunk: Buffer) => {
    bytes += chunk.length;
    if (bytes > maxBytes) stop();
    else chunks.push(chunk);
  });
  child.stderr!.on('data', (chunk: Buffer) => (stderr = (stderr + chunk.toString('utf8')).slice(-65536)));
  const code = await ended(child).finally(() => {
    endTimer();
    signal?.removeEventListener('abort', stop);
  });
  signal?.throwIfAborted();
  if (tooLong) throw new MediaError(explain(`took longer than ${seconds} s`));
  if (bytes > maxBytes) throw new MediaError(explain('has more packets than can be listed'));
  if (code !== 0) throw new MediaError(explain(stderr));
  return { stdout: Buffer.concat(chunks), stderr };
}

/** The end of what a program complained of, without its own prefixes and without paths; empty when it said nothing. */
export function lastComplaint(text: string): string {
  const line = text.trim().split('\n').pop() ?? '';
  return line
    .replace(/^(\[[^\]]*\]\s*)+/, '')
    .replace(/file:\/.*?: /g, '')
    .slice(0, 200);
}

/** The exit code once a process has closed its pipes; rejects when it could not be started. A signal counts as −1. */
export function ended(child: ChildProcess): Promise<number> {
  return new Promise((resolvePromise, reject) => {
    child.once('error', (error) => reject(new MediaError(`ffmpeg could not be started: ${error.message}.`)));
    child.once('close', (code) => resolvePromise(code ?? -1));
  });
}
