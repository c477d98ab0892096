import type { ChildProcess } from 'node:child_process';
import { readdir, rename, rm } from 'node:fs/promises';
import { basename, dirname, join, resolve } from 'node:path';
import { once } from 'node:events';
import type { Frame, FrameFormat } from '@idle-bend/core/frame';
import { formatRate, type Rate } from '@idle-bend/core/time';
import { codecOptions, evenOnly, type OutputKind } from './codec.js';
import { ended, lastComplaint, start } from '../ffmpeg/ffmpeg.js';
import { MediaError } from '../ffmpeg/media-error.js';
import { holdScratch, mkdirInOneGo, releaseScratch } from '../ffmpeg/scratch.js';

export interface EncodeTo {
  readonly file: string;
  readonly kind: OutputKind;
  readonly rate: Rate;
  readonly format: FrameFormat;
  /** What the encoder takes as it is, or the planar equal of it (see `handedAs`). */
  readonly pixelFormat: string;
  readonly threads?: number;
  /** The number the first of numbered pictures has. */
  readonly firstNumber?: number;
}

/** Ticks of a second in the files we write: whole numbers of them make a frame. */
export const timescaleOf = ({ num }: Rate): number => num * (num < 1000 ? 100 : 1);

/**
 * Times are written as they are. A sound coder begins before time zero with what players leave out; a muxer that will have no time below
 * zero would move the picture instead.
 */
export const DEFAULT_TIMES = ['-avoid_negative_ts', 'disabled'] as const;

/** The tags as ffmpeg spells them, for the input and the output side alike. */
export function colourArgs({ colour }: Pick<FrameFormat, 'colour'>): string[] {
  const args: string[] = [];
  if (colour.range) args.push('-color_range', colour.range === 'full' ? 'pc' : 'tv');
  if (colour.matrix) args.push('-colorspace', colour.matrix === 'gbr' ? 'rgb' : colour.matrix);
  if (colour.primaries) args.push('-color_primaries', colour.primaries);
  if (colour.transfer) args.push('-color_trc', colour.transfer);
  if (colour.chromaLocation) args.push('-chroma_sample_location', colour.chromaLocation);
  return args;
}

/**
 * Writes frames to a file through ffmpeg. What is written stands beside the target under another name until `finish`,
 * so a stop, a crash or a full disk never leaves half a file where the result belongs.
 */
export class Encoder {
  private readonly child: ChildProcess;
  private readonly exit: Promise<number>;
  private readonly part: string;
  private complaint = '';
  private broken = false;
  frames = 0;

  private constructor(private readonly to: EncodeTo) {
    const { kind, format, rate } = to;
    const file = resolve(to.file);
    const sequence = kind.muxer === 'image2';
    this.part = holdScratch(
      join(dirname(file), `.${basename(file).replace(/%/g, '_')}.${process.pid}.${Date.now().toString(36)}.part`),
    );
    const { args, pixelFormat } = codecOptions(kind.codec, to.pixelFormat, format);
    const even = evenOnly(kind.codec) && (format.width % 2 === 1 || format.height % 2 === 1);
    const filters = [
      ...(even ? [`crop=trunc(iw/2)*2:trunc(ih/2)*2`] : []),
      `setsar=${format.pixelAspect.num}/${format.pixelAspect.den}`,
    ];
    this.child = start(
      'ffmpeg',
      [
        ...['-hide_banner', '-nostats', '-nostdin', '-loglevel', 'error', '-y'],
        // Told once more, since of a time base alone ffmpeg takes 119.88 for 120.
        ...[
          '-f',
          'rawvideo',
          '-pix_fmt',
          to.pixelFormat,
          '-s',
          `${format.width}x${format.height}`,
          '-framerate',
          formatRate(rate),
          '-r',
          formatRate(rate),
        ],
        ...colourArgs(format),
        ...[
          '-i',
          'pipe:0',
          '-vf',
          filters.join(','),
          ...args,
          '-pix_fmt',
          pixelFormat,
          ...(pixelFormat.startsWith('rgb') ? [] : colourArgs(format)),
        ],
        ...(to.threads ? ['-threads', String(to.threads)] : []),
        ...(kind.muxer === 'mp4' || kind.muxer === 'mov'
          ? ['-video_track_timescale', String(timescaleOf(rate)), '-movflags', '+faststart+write_colr']
          : []),
        ...[
          '-f',
          kind.muxer,
          ...(sequence
            ? ['-start_number', String(to.firstNumber ?? 0), `file:${join(this.part, basename(file))}`]
            : [`file:${this.part}`]),
        ],
      ],
      { stdio: ['pipe', 'ignore', 'pipe'] },
    );
    this.child.stderr!.on(
      'data',
      (chunk: Buffer) => (this.complaint = (this.complaint + chunk.toString('utf8')).slice(-4000)),
    );
    this.child.stdin!.on('error', () => (this.broken = true));
    this.exit = ended(this.child);
    this.exit.catch(() => (this.broken = true));
  }

  static async open(to: EncodeTo): Promise<Encoder> {
    const folder = dirname(resolve(to.file));
    try {
      mkdirInOneGo(folder);
    } catch (error) {
      throw new MediaError(`${folder} cannot be written: ${(error as Error).message}.`);
    }
    const encoder = new Encoder(to);
    if (to.kind.muxer === 'image2') mkdirInOneGo(encoder.part);
    return encoder;
  }

  /** Hands over one frame. Its buffer may be reused once this resolves. */
  async write(frame: Frame): Promise<void> {
    if (this.broken) return this.fail();
    const stdin = this.child.stdin!;
    await new Promise<void>((resolvePromise, reject) => {
      stdin.write(frame.data, (error) => (error ? reject(error) : resolvePromise()));
      this.exit.then(() => resolvePromise(), reject);
    }).catch(() => (this.broken = true));
    if (this.broken) return this.fail();
    this.frames++;
  }

  /** Closes the file and puts it in its place. */
  async finish(): Promise<void> {
    this.child.stdin!.end();
    const code = await this.exit;
    if (code !== 0) return this.fail();
    const file = resolve(this.to.file);
    if (this.to.kind.muxer !== 'image2') {
      await rename(this.part, file);
      return releaseScratch(this.part);
    }
    for (const picture of await readdir(this.part))
      await rename(join(this.part, picture), join(dirname(file), picture));
    await rm(this.part, { recursive: true, force: true });
    releaseScratch(this.part);
  }

  /** Ends the encoder and removes what it wrote. */
  async discard(): Promise<void> {
    this.broken = true;
    this.child.kill('SIGKILL');
    if (this.child.exitCode === null && this.child.signalCode === null)
      await once(this.child, 'close').catch(() => undefined);
    await rm(this.part, { recursive: true, force: true });
    releaseScratch(this.part);
  }

  private async fail(): Promise<never> {
    await this.exit.catch(() => -1);
    await this.discard();
    const reason = lastComplaint(this.complaint);
    throw new MediaError(
      `${this.to.file} could not be written: ${/No space left/i.test(this.complaint) ? 'the disk is full' : reason || 'the encoder stopped'}.`,
    );
  }
}
