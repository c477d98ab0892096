import { basename, extname } from 'node:path';
import { InvalidInput } from '@idle-bend/core/foundation';
import { deepened, parsePixelFormat, reduced, type PixelLayout } from '@idle-bend/core/frame';
import type { Size } from '@idle-bend/core/framing';

export const CODECS = [
  'h264',
  'hevc',
  'vp9',
  'av1',
  'prores-422',
  'prores-hq',
  'prores-4444',
  'ffv1',
  'png',
  'tiff',
] as const;
/** `proxy` is H.264 made for editing: short groups of pictures, nothing reordered. */
export type Codec = (typeof CODECS)[number] | 'proxy';

interface Container {
  readonly muxer: string;
  readonly codecs: readonly Codec[];
}

const CONTAINERS: Readonly<Record<string, Container>> = {
  '.mp4': { muxer: 'mp4', codecs: ['h264', 'hevc', 'vp9', 'av1'] },
  '.mov': { muxer: 'mov', codecs: ['prores-hq', 'prores-422', 'prores-4444', 'h264', 'hevc', 'ffv1'] },
  '.webm': { muxer: 'webm', codecs: ['vp9', 'av1'] },
  '.mkv': {
    muxer: 'matroska',
    codecs: ['ffv1', 'h264', 'hevc', 'vp9', 'av1', 'prores-hq', 'prores-422', 'prores-4444'],
  },
  '.png': { muxer: 'image2', codecs: ['png'] },
  '.tif': { muxer: 'image2', codecs: ['tiff'] },
  '.tiff': { muxer: 'image2', codecs: ['tiff'] },
};

export interface OutputKind {
  readonly muxer: string;
  readonly codec: Codec;
}

/** Whether a name stands for numbered pictures, such as `frames/%05d.png`. */
export const isNumbered = (file: string): boolean => /%0?\d*d/.test(basename(file));

/** What an output name asks for; its first codec unless another is named. Throws `InvalidInput` naming the option. */
export function outputKind(file: string, codec?: string): OutputKind {
  const container = CONTAINERS[extname(file).toLowerCase()];
  if (!container) throw new InvalidInput('-o', `${file} ends in none of ${Object.keys(CONTAINERS).join(', ')}`);
  if (container.muxer === 'image2' && !isNumbered(file))
    throw new InvalidInput('-o', `numbered pictures need a place for the number, such as frames/%05d${extname(file)}`);
  if (codec === undefined) return { muxer: container.muxer, codec: container.codecs[0]! };
  const named = codec === 'prores' ? 'prores-hq' : codec;
  if (!container.codecs.includes(named as Codec))
    throw new InvalidInput(
      '--codec',
      `"${codec}" does not go into ${extname(file)}; use ${container.codecs.join(' or ')}`,
    );
  return { muxer: container.muxer, codec: named as Codec };
}

export interface CodecOptions {
  readonly args: readonly string[];
  /** What the encoder is given. */
  readonly pixelFormat: string;
}

/** FFV1 need not cut pictures up to this size into slices, and cannot cut the smallest. */
const WHOLE_SLICE: Size = { width: 352, height: 288 };
const MIN_SLICED = 16;
/** The most that a slice of FFV1 may hold: samples × (bits + 1), which is what the encoder itself goes by. */
const MAX_IN_SLICE = 8 * 2 ** 24;

/** Into how many slices FFV1 cuts a picture: four, more where those would be too large. */
function ffv1Slices({ model, bitDepth, alpha }: PixelLayout, size: Size | undefined): number {
  if (!size) return 4;
  const { width, height } = size;
  if (Math.min(width, height) < MIN_SLICED && width <= WHOLE_SLICE.width && height <= WHOLE_SLICE.height) return 1;
  const perSample = (bitDepth + 1) * ((model === 'gray' ? 1 : 3) + (alpha ? 1 : 0));
  let across = 2;
  while (Math.ceil(width / across) * Math.ceil(height / across) * perSample > MAX_IN_SLICE) across++;
  return across ** 2;
}

/** A group of pictures that never reaches over 250 pictures, the encoder's own habit; slices and threads that do not depend on the machine. */
const X265 = 'log-level=error:frame-threads=1';

/** What an encoder is asked: the layout of the pictures, the name of their format, and their size where it is known. */
interface Pictures {
  readonly layout: PixelLayout;
  readonly pixelFormat: string;
  readonly size: Size | undefined;
}

/** One codec, all of it. */
interface CodecDefinition {
  /** Its pictures have even sizes only. */
  readonly isEven?: boolean;
  /** Its pictures have a place for transparency. */
  readonly alpha?: boolean;
  /** ffmpeg's options, and the pixel format it is given: the source's own wherever the codec has it. */
  encode(pictures: Pictures): CodecOptions;
}

/** Four samples of brightness for one of colour, 8 bits or 10. */
const usual = ({ layout }: Pictures) => (layout.bitDepth > 8 ? 'yuv420p10le' : 'yuv420p');

const prores = (profile: string): CodecDefinition => ({
  encode: () => ({ args: ['-c:v', 'prores_ks', '-profile:v', profile, '-vendor', 'apl0'], pixelFormat: 'yuv422p10le' }),
});

const packed = (args: readonly string[], byteOrder: 'be' | 'le'): CodecDefinition => ({
  alpha: true,
  encode({ layout }) {
    const isDeep = layout.bitDepth > 8;
    const name = layout.alpha ? 'rgba' : 'rgb';
    return {
      args,
      pixelFormat: isDeep ? `${name}${layout.alpha ? 64 : 48}${byteOrder}` : layout.alpha ? 'rgba' : 'rgb24',
    };
  },
});

/** To add a codec: its entry here, and the containers it goes into above. */
const DEFINITIONS: Readonly<Record<Codec, CodecDefinition>> = {
  h264: {
    isEven: true,
    encode: (pictures) => ({
      args: ['-c:v', 'libx264', '-preset', 'medium', '-crf', '18'],
      pixelFormat: usual(pictures),
    }),
  },
  hevc: {
    isEven: true,
    encode: (pictures) => ({
      // The tag that players of MP4 look for.
      args: ['-c:v', 'libx265', '-preset', 'medium', '-crf', '20', '-x265-params', X265, '-tag:v', 'hvc1'],
      pixelFormat: usual(pictures),
    }),
  },
  proxy: {
    isEven: true,
    encode: ({ pixelFormat }) => ({
      args: [
        ...['-c:v', 'libx264', '-preset', 'veryfast', '-tune', 'fastdecode', '-crf', '20'],
        ...['-g', '12', '-keyint_min', '12', '-sc_threshold', '0', '-bf', '0'],
      ],
      pixelFormat,
    }),
  },
  vp9: {
    encode: (pictures) => ({
      args: ['-c:v', 'libvpx-vp9', '-crf', '24', '-b:v', '0', '-row-mt', '1', '-deadline', 'good', '-cpu-used', '4'],
      pixelFormat: usual(pictures),
    }),
  },
  av1: {
    isEven: true,
    encode: (pictures) => ({
      args: ['-c:v', 'libsvtav1', '-crf', '26', '-preset', '8', '-svtav1-params', 'lp=2'],
      pixelFormat: usual(pictures),
    }),
  },
  'prores-422': prores('2'),
  'prores-hq': prores('3'),
  'prores-4444': {
    alpha: true,
    encode: ({ layout: { alpha } }) => ({
      args: ['-c:v', 'prores_ks', '-profile:v', '4', '-vendor', 'apl0', ...(alpha ? ['-alpha_bits', '16'] : [])],
      pixelFormat: alpha ? 'yuva444p10le' : 'yuv444p10le',
    }),
  },
  png: packed(['-c:v', 'png', '-pred', 'mixed'], 'be'),
  tiff: packed(['-c:v', 'tiff', '-compression_algo', 'deflate'], 'le'),
  ffv1: {
    alpha: true,
    encode: ({ layout, pixelFormat, size }) => ({
      args: ['-c:v', 'ffv1', '-level', '3', '-g', '1', '-slices', String(ffv1Slices(layout, size)), '-slicecrc', '1'],
      pixelFormat,
    }),
  },
};

/** Codecs whose pictures have even sizes only. */
export const evenOnly = (codec: Codec): boolean => DEFINITIONS[codec].isEven ?? false;

/** Whether a codec's pictures have a place for transparency. */
export const carriesAlpha = (codec: Codec): boolean => DEFINITIONS[codec].alpha ?? false;

/**
 * ffmpeg's encoder options, and the pixel format it is given: the source's own wherever the codec has it. What is written depends on the
 * frames and `threads` alone, not on the machine.
 */
export const codecOptions = (codec: Codec, pixelFormat: string, size?: Size): CodecOptions =>
  DEFINITIONS[codec].encode({ layout: parsePixelFormat(pixelFormat)!, pixelFormat, size });

/** The planar format that holds what a packed one does. */
const PLANAR: Readonly<Record<string, string>> = {
  rgb24: 'gbrp',
  rgba: 'gbrap',
  rgb48le: 'gbrp16le',
  rgb48be: 'gbrp16le',
  rgba64le: 'gbrap16le',
  rgba64be: 'gbrap16le',
};

/** The planar format in which an encoder is handed pictures of a format, so that it changes no code of them. */
export function handedAs(codec: Codec, pixelFormat: string): string {
  const wanted = codecOptions(codec, pixelFormat).pixelFormat;
  return PLANAR[wanted] ?? wanted;
}

/** The pixel format like a source's that has the wanted depth, and transparency where both it and the codec may have it. */
export const formatWith = (pixelFormat: string, bitDepth: number, alpha: boolean): string =>
  reduced(deepened(pixelFormat, bitDepth, alpha), bitDepth, alpha);
