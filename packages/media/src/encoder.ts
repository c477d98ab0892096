import type { ChildProcess } from 'node:child_process';
import { mkdir, readdir, rename, rm } from 'node:fs/promises';
import { basename, dirname, extname, join, resolve } from 'node:path';
import { once } from 'node:events';
import { formatRate, InvalidInput, parsePixelFormat, type Frame, type FrameFormat, type Rate } from '@idle-bend/core';
import { ended, start } from './ffmpeg.js';
import { MediaError } from './media-error.js';

export const CODECS = ['h264', 'vp9', 'prores', 'ffv1', 'png'] as const;
/** `proxy` is H.264 made for editing: short groups of pictures, nothing reordered. */
export type Codec = (typeof CODECS)[number] | 'proxy';

interface Container {
  readonly muxer: string;
  readonly codecs: readonly Codec[];
}

const CONTAINERS: Readonly<Record<string, Container>> = {
  '.mp4': { muxer: 'mp4', codecs: ['h264'] },
  '.mov': { muxer: 'mov', codecs: ['prores', 'h264'] },
  '.webm': { muxer: 'webm', codecs: ['vp9'] },
  '.mkv': { muxer: 'matroska', codecs: ['ffv1', 'h264', 'vp9', 'prores'] },
  '.png': { muxer: 'image2', codecs: ['png'] },
};

export interface OutputKind {
  readonly muxer: string;
  readonly codec: Codec;
}

/** What an output name asks for; its first codec unless another is named. Throws `InvalidInput` naming the option. */
export function outputKind(file: string, codec?: string): OutputKind {
  const container = CONTAINERS[extname(file).toLowerCase()];
  if (!container) throw new InvalidInput('-o', `${file} ends in none of ${Object.keys(CONTAINERS).join(', ')}`);
  if (container.muxer === 'image2' && !/%0?\d*d/.test(basename(file)))
    throw new InvalidInput('-o', 'numbered pictures need a place for the number, such as frames/%05d.png');
  if (codec === undefined) return { muxer: container.muxer, codec: container.codecs[0]! };
  if (!container.codecs.includes(codec as Codec))
    throw new InvalidInput('--codec', `"${codec}" does not go into ${extname(file)}; use ${container.codecs.join(' or ')}`);
  return { muxer: container.muxer, codec: codec as Codec };
}

/** ffmpeg's encoder options, and the pixel format it is given: the source's own wherever the codec has it. */
export function codecOptions(codec: Codec, pixelFormat: string): { readonly args: readonly string[]; readonly pixelFormat: string } {
  const layout = parsePixelFormat(pixelFormat)!;
  const deep = layout.bitDepth > 8;
  switch (codec) {
    case 'h264': {
      const kept = pixelFormat === 'yuv420p' || pixelFormat === 'yuvj420p';
      return { args: ['-c:v', 'libx264', '-preset', 'medium', '-crf', '18'], pixelFormat: kept ? pixelFormat : deep ? 'yuv420p10le' : 'yuv420p' };
    }
    case 'proxy':
      return {
        args: [
          '-c:v',
          'libx264',
          '-preset',
          'veryfast',
          '-tune',
          'fastdecode',
          '-crf',
          '20',
          '-g',
          '12',
          '-keyint_min',
          '12',
          '-sc_threshold',
          '0',
          '-bf',
          '0',
        ],
        pixelFormat,
      };
    case 'vp9':
      return {
        args: ['-c:v', 'libvpx-vp9', '-crf', '24', '-b:v', '0', '-row-mt', '1', '-deadline', 'good', '-cpu-used', '4'],
        pixelFormat: deep ? 'yuv420p10le' : 'yuv420p',
      };
    case 'prores':
      return { args: ['-c:v', 'prores_ks', '-profile:v', '3', '-vendor', 'apl0'], pixelFormat: 'yuv422p10le' };
    case 'png':
      return { args: ['-c:v', 'png', '-pred', 'mixed'], pixelFormat: deep ? 'rgb48be' : 'rgb24' };
    case 'ffv1':
      return { args: ['-c:v', 'ffv1', '-level', '3', '-g', '1', '-slicecrc', '1'], pixelFormat };
  }
}

export interface EncodeTo {
  readonly file: string;
  readonly kind: OutputKind;
  readonly rate: Rate;
  readonly format: FrameFormat;
  readonly pixelFormat: string;
  readonly threads?: number;
}

/** The tags as ffmpeg spells them, for the input and the output side alike. */
function colourArgs({ colour }: FrameFormat): string[] {
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
    this.part = join(dirname(file), `.${basename(file).replace(/%/g, '_')}.${process.pid}.${Date.now().toString(36)}.part`);
    const { args, pixelFormat } = codecOptions(kind.codec, to.pixelFormat);
    const inputLayout = parsePixelFormat(to.pixelFormat)!;
    const even = kind.codec === 'h264' && (format.width % 2 === 1 || format.height % 2 === 1);
    // A conversion out of RGB needs a matrix to be named; without one the picture would be tagged as nothing.
    const fromRgb = inputLayout.model === 'rgb' && !/^(gbr|rgb)/.test(pixelFormat);
    const filters = [
      ...(even ? [`crop=trunc(iw/2)*2:trunc(ih/2)*2`] : []),
      ...(pixelFormat === to.pixelFormat
        ? []
        : [`scale=flags=bicubic+accurate_rnd+full_chroma_int+full_chroma_inp${fromRgb ? ':out_color_matrix=bt709:out_range=tv' : ''}`]),
      `setsar=${format.pixelAspect.num}/${format.pixelAspect.den}`,
    ];
    const tags = fromRgb ? ['-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709', '-color_range', 'tv'] : colourArgs(format);
    this.child = start(
      'ffmpeg',
      [
        ...['-hide_banner', '-nostats', '-nostdin', '-loglevel', 'error', '-y'],
        ...['-f', 'rawvideo', '-pix_fmt', to.pixelFormat, '-s', `${format.width}x${format.height}`, '-framerate', formatRate(rate)],
        ...colourArgs(format),
        ...['-i', 'pipe:0', '-vf', filters.join(','), ...args, '-pix_fmt', pixelFormat, ...(pixelFormat.startsWith('rgb') ? [] : tags)],
        ...(to.threads ? ['-threads', String(to.threads)] : []),
        ...(kind.muxer === 'mp4' || kind.muxer === 'mov'
          ? ['-video_track_timescale', String(rate.num * (rate.num < 1000 ? 100 : 1)), '-movflags', '+faststart+write_colr']
          : []),
        ...['-f', kind.muxer, ...(sequence ? ['-start_number', '0', `file:${join(this.part, basename(file))}`] : [`file:${this.part}`])],
      ],
      { stdio: ['pipe', 'ignore', 'pipe'] },
    );
    this.child.stderr!.on('data', (chunk: Buffer) => (this.complaint = (this.complaint + chunk.toString('utf8')).slice(-4000)));
    this.child.stdin!.on('error', () => (this.broken = true));
    this.exit = ended(this.child);
    this.exit.catch(() => (this.broken = true));
  }

  static async open(to: EncodeTo): Promise<Encoder> {
    const folder = dirname(resolve(to.file));
    await mkdir(folder, { recursive: true }).catch((error: Error) => {
      throw new MediaError(`${folder} cannot be written: ${error.message}.`);
    });
    const encoder = new Encoder(to);
    if (to.kind.muxer === 'image2') await mkdir(encoder.part, { recursive: true });
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
    if (this.to.kind.muxer !== 'image2') return rename(this.part, file);
    for (const picture of await readdir(this.part)) await rename(join(this.part, picture), join(dirname(file), picture));
    await rm(this.part, { recursive: true, force: true });
  }

  /** Ends the encoder and removes what it wrote. */
  async discard(): Promise<void> {
    this.broken = true;
    this.child.kill('SIGKILL');
    if (this.child.exitCode === null && this.child.signalCode === null) await once(this.child, 'close').catch(() => undefined);
    await rm(this.part, { recursive: true, force: true });
  }

  private async fail(): Promise<never> {
    await this.exit.catch(() => -1);
    await this.discard();
    const reason = this.complaint.trim().split('\n').pop()?.replace(/^\[[^\]]*\]\s*/, ''); // prettier-ignore
    throw new MediaError(
      `${this.to.file} could not be written: ${/No space left/i.test(this.complaint) ? 'the disk is full' : reason || 'the encoder stopped'}.`,
    );
  }
}
