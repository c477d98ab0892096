import type { ChildProcess } from 'node:child_process';
import { createInterface } from 'node:readline';
import type { Readable } from 'node:stream';
import { MediaError, missingFile } from '../ffmpeg/media-error.js';
import { areHeld, ended, lastComplaint, safeInput, start } from '../ffmpeg/ffmpeg.js';
import type { VideoFacts } from '../probe/probe.js';

/** A picture as it leaves the decoder, with the time that tells which frame it is. */
export interface DecodedPicture {
  /** Presentation time in ticks of the stream's time base. */
  readonly time: number;
  readonly data: Uint8Array;
}

export interface StreamRequest {
  readonly file: string;
  readonly name: string;
  readonly video: VideoFacts;
  /** Where the demuxer is sent to, seconds from the file's start; none to begin at the beginning. */
  readonly seekSeconds: number | undefined;
  /** Only pictures with from ≤ time ≤ to come out, in ticks. */
  readonly from: number;
  readonly to: number | undefined;
  /** Filters after decoding, such as a scale; they must keep every picture. */
  readonly filters: readonly string[];
  readonly pixelFormat: string;
  readonly frameBytes: number;
  readonly threads?: number;
  /** What the same process writes besides, of pictures as `filters` leave them. */
  readonly besides?: Besides;
}

/** A second output of a decoder. */
interface Besides {
  /** Filters of the pictures that are handed over, and of those that are written. */
  readonly handed: readonly string[];
  readonly written: readonly string[];
  /** Options of what is written; where they name `pipe:3`, lines that come there are told. */
  readonly args: readonly string[];
  readonly onLine: (line: string) => void;
}

/** Buffers of one size that go back and forth between a decoder and its user, so that a long clip allocates a few. */
export class BufferPool {
  private readonly free: Uint8Array[] = [];
  constructor(readonly bytes: number) {}
  take(): Uint8Array {
    return this.free.pop() ?? new Uint8Array(this.bytes);
  }
  give(buffer: Uint8Array): void {
    this.free.push(buffer);
  }
}

/** How many pictures may wait between the decoder and its user: some, and of small ones as many as take so many bytes. */
const MAX_WAITING = 3;
const WAITING_BYTES = 8 * 2 ** 20;
/** A decoder that says nothing for this long is stuck on its input. */
const SILENCE_SECONDS = 120;

function commandOf({ besides, ...request }: StreamRequest): string[] {
  const { from, to, video } = request;
  const window = `trim=start_pts=${from}${to === undefined ? '' : `:end_pts=${to + 1}`}`;
  const filters = [window, 'showinfo=checksum=0', ...request.filters].join(',');
  const graph = besides
    ? `[0:${video.stream}]${filters},split[a][b];[a]${besides.handed.join(',')}[handed];[b]${besides.written.join(',')}[written]`
    : '';
  return [
    ...['-hide_banner', '-nostats', '-nostdin', '-loglevel', 'info', '-copyts', '-noaccurate_seek'],
    ...(request.threads ? ['-threads', String(request.threads)] : []),
    ...(request.seekSeconds === undefined ? [] : ['-ss', request.seekSeconds.toFixed(6)]),
    ...safeInput(request.file),
    ...(besides
      ? ['-filter_complex', graph, '-map', '[handed]']
      : ['-map', `0:${video.stream}`, '-an', '-sn', '-dn', '-vf', filters]),
    ...['-fps_mode', 'passthrough', '-pix_fmt', request.pixelFormat, '-f', 'rawvideo', 'pipe:1'],
    ...(besides ? ['-map', '[written]', '-fps_mode', 'passthrough', ...besides.args] : []),
  ];
}

/**
 * ffmpeg decoding one stretch of a file into raw pictures. Each is known by its presentation time, read from the
 * decoder's own log beside the pixels: never by counting, which a broken or open group of pictures would put off.
 */
export class RawStream {
  private readonly child: ChildProcess;
  private readonly mayWait: number;
  private readonly times: number[] = [];
  private readonly ready: Uint8Array[] = [];
  private filling: Uint8Array | undefined;
  private filled = 0;
  private log = '';
  private complaint = '';
  private over = false;
  private failure: Error | undefined;
  private wake: (() => void) | undefined;

  constructor(
    private readonly request: StreamRequest,
    private readonly pool: BufferPool,
  ) {
    this.mayWait = Math.max(MAX_WAITING, Math.floor(WAITING_BYTES / request.frameBytes));
    this.child = start('ffmpeg', commandOf(request), {
      stdio: ['ignore', 'pipe', 'pipe', ...(request.besides ? (['pipe'] as const) : [])],
    });
    const { stdout, stderr } = this.child;
    if (request.besides) createInterface({ input: this.child.stdio[3] as Readable }).on('line', request.besides.onLine);
    stdout!.on('data', (chunk: Buffer) => this.accept(chunk));
    stderr!.on('data', (chunk: Buffer) => this.readLog(chunk.toString('latin1')));
    const watch = setInterval(() => {
      if (!stdout!.isPaused() && !areHeld() && ++silent > SILENCE_SECONDS)
        this.fail(`the decoder said nothing for ${SILENCE_SECONDS} s`);
    }, 1000);
    let silent = 0;
    stdout!.on('data', () => (silent = 0));
    ended(this.child).then(
      (code) => {
        clearInterval(watch);
        if (code !== 0)
          this.failure ??= new MediaError(
            missingFile(request.file, request.name) ??
              `${request.name} could not be decoded: ${lastComplaint(this.complaint) || 'the decoder stopped'}.`,
          );
        this.over = true;
        this.wake?.();
      },
      (error: Error) => {
        clearInterval(watch);
        this.failure = error;
        this.over = true;
        this.wake?.();
      },
    );
  }

  /** The next picture, or `undefined` at the end of the stretch. Its buffer is the caller's to give back to the pool. */
  async next(): Promise<DecodedPicture | undefined> {
    for (;;) {
      if (this.ready.length > 0 && this.times.length > 0) {
        const data = this.ready.shift()!;
        if (this.ready.length < this.mayWait) this.child.stdout!.resume();
        return { time: this.times.shift()!, data };
      }
      if (this.over) {
        if (this.failure) throw this.failure;
        return undefined;
      }
      await new Promise<void>((resolve) => (this.wake = resolve));
    }
  }

  /** Ends the decoder; what it had ready goes back to the pool. */
  close(): void {
    this.failure ??= new MediaError('closed');
    this.child.kill('SIGKILL');
    // Paused, it would never be seen to end.
    this.child.stdout!.destroy();
    for (const data of this.ready.splice(0)) this.pool.give(data);
    if (this.filling) this.pool.give(this.filling);
    this.filling = undefined;
  }

  private accept(chunk: Buffer): void {
    if (this.failure) return;
    let offset = 0;
    while (offset < chunk.length) {
      this.filling ??= this.pool.take();
      const length = Math.min(chunk.length - offset, this.request.frameBytes - this.filled);
      this.filling.set(chunk.subarray(offset, offset + length), this.filled);
      this.filled += length;
      offset += length;
      if (this.filled === this.request.frameBytes) {
        this.ready.push(this.filling);
        this.filling = undefined;
        this.filled = 0;
      }
    }
    if (this.ready.length >= this.mayWait) this.child.stdout!.pause();
    this.wake?.();
  }

  private readLog(text: string): void {
    const lines = (this.log + text).split('\n');
    this.log = lines.pop()!;
    for (const line of lines) {
      const shown = /^\[Parsed_showinfo[^\]]*\] n: *\d+ pts: *(-?\d+) /.exec(line);
      if (shown) this.times.push(Number(shown[1]));
      else if (!line.includes('Parsed_showinfo')) this.complaint = (this.complaint + line + '\n').slice(-4000);
    }
    this.wake?.();
  }

  private fail(problem: string): void {
    this.failure = new MediaError(`${this.request.name}: ${problem}.`);
    this.child.kill('SIGKILL');
  }
}
