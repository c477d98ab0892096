/** What renders are for, in the order they are offered. */
export const RENDER_PURPOSES = {
  watch: 'To watch',
  edit: 'To edit on',
  keep: 'To keep',
  message: 'For a message, or the sound',
} as const;
export type RenderPurpose = keyof typeof RENDER_PURPOSES;

/** What a render can be written as. To add one: an entry below, and its codec in `packages/media/src/encode/codec.ts` where that is new. */
export interface RenderFormat {
  readonly title: string;
  /** What it suits, one sentence. */
  readonly suits: string;
  /** Of the file that is handed out. */
  readonly extension: string;
  /** How its pictures are coded; none: it is sound alone. */
  readonly picture: PictureCoding | null;
  readonly sound: 'aac' | 'opus' | 'pcm' | 'flac' | null;
  /** The depths its pictures can have, bits a sample, rising. */
  readonly depths: readonly number[];
  /** It can carry transparency. */
  readonly alpha: boolean;
  /** It has a place for a start timecode, and for chapters. */
  readonly timecode: boolean;
  readonly chapters: boolean;
  readonly purpose: RenderPurpose;
  /** A name that ends so is written as this, where no format is named. */
  readonly isUsual?: boolean;
  /** About how many bits a picture element takes at most, for asking whether the disk has room. */
  readonly maxBits: number;
}

/** A file with a picture track, numbered pictures in an archive, or a small moving picture for review. */
export type PictureCoding =
  /** `tag`: the name of the codec in the file, where players look for another than the muxer's own. */
  | { readonly kind: 'film'; readonly muxer: string; readonly codec: string; readonly tag?: string }
  | { readonly kind: 'numbered' | 'review'; readonly codec: string };

const film = (muxer: string, codec: string, tag?: string): PictureCoding => ({
  kind: 'film',
  muxer,
  codec,
  ...(tag && { tag }),
});

const deep = { depths: [8, 10], alpha: false, timecode: true, chapters: true } as const;

const prores = (codec: string) =>
  ({ ...deep, extension: 'mov', picture: film('mov', codec), sound: 'pcm', depths: [10] }) as const;

const pictures = (codec: string) =>
  ({
    ...deep,
    extension: 'zip',
    picture: { kind: 'numbered', codec },
    sound: null,
    depths: [8, 9, 10, 12, 14, 16],
    alpha: true,
    timecode: false,
    chapters: false,
  }) as const;

const review = (codec: string) =>
  ({
    ...deep,
    extension: codec,
    picture: { kind: 'review', codec },
    sound: null,
    depths: [8],
    timecode: false,
    chapters: false,
  }) as const;

const FORMATS = {
  h264: {
    purpose: 'watch',
    isUsual: true,
    ...deep,
    title: 'MP4 · H.264',
    suits: 'To watch and to send: small, plays everywhere.',
    extension: 'mp4',
    picture: film('mp4', 'h264'),
    sound: 'aac',
    maxBits: 4,
  },
  hevc: {
    purpose: 'watch',
    ...deep,
    title: 'MP4 · HEVC',
    suits: 'Smaller, and at home with 10 bit and high dynamic range.',
    extension: 'mp4',
    picture: film('mp4', 'hevc', 'hvc1'),
    sound: 'aac',
    maxBits: 4,
  },
  vp9: {
    purpose: 'watch',
    isUsual: true,
    ...deep,
    title: 'WebM · VP9',
    suits: 'For web pages; free to use.',
    extension: 'webm',
    picture: film('webm', 'vp9'),
    sound: 'opus',
    timecode: false,
    maxBits: 4,
  },
  av1: {
    purpose: 'watch',
    ...deep,
    title: 'WebM · AV1',
    suits: 'For web pages, the smallest.',
    extension: 'webm',
    picture: film('webm', 'av1'),
    sound: 'opus',
    timecode: false,
    maxBits: 4,
  },
  'prores-422': {
    purpose: 'edit',
    ...prores('prores-422'),
    title: 'MOV · ProRes 422',
    suits: 'To edit on: light to decode.',
    maxBits: 8,
  },
  'prores-hq': {
    purpose: 'edit',
    isUsual: true,
    ...prores('prores-hq'),
    title: 'MOV · ProRes 422 HQ',
    suits: 'To edit and grade on.',
    maxBits: 12,
  },
  'prores-4444': {
    purpose: 'edit',
    ...prores('prores-4444'),
    alpha: true,
    title: 'MOV · ProRes 4444',
    suits: 'To edit on, with transparency.',
    maxBits: 20,
  },
  ffv1: {
    purpose: 'keep',
    isUsual: true,
    ...deep,
    title: 'MKV · FFV1',
    suits: 'To work on: lossless, every frame exactly as it was made.',
    extension: 'mkv',
    picture: film('matroska', 'ffv1'),
    sound: 'flac',
    depths: [8, 9, 10, 12, 14, 16],
    alpha: true,
    maxBits: 32,
  },
  png: {
    purpose: 'keep',
    isUsual: true,
    ...pictures('png'),
    title: 'PNG pictures',
    suits: 'One numbered picture a frame, in an archive.',
    maxBits: 64,
  },
  tiff: {
    purpose: 'keep',
    ...pictures('tiff'),
    title: 'TIFF pictures',
    suits: 'One numbered picture a frame, for print and compositing.',
    maxBits: 64,
  },
  gif: {
    purpose: 'message',
    isUsual: true,
    ...review('gif'),
    title: 'GIF',
    suits: 'A small moving picture for a message.',
    maxBits: 24,
  },
  webp: {
    purpose: 'message',
    isUsual: true,
    ...review('webp'),
    title: 'WebP',
    suits: 'A moving picture for a page, in better colours.',
    maxBits: 24,
  },
  wav: {
    purpose: 'message',
    isUsual: true,
    ...deep,
    title: 'WAV',
    suits: 'The sound alone, 24 bit.',
    extension: 'wav',
    picture: null,
    sound: 'pcm',
    depths: [8],
    timecode: false,
    chapters: false,
    maxBits: 0,
  },
} as const satisfies Readonly<Record<string, RenderFormat>>;

export type RenderFormatName = keyof typeof FORMATS;

export const RENDER_FORMATS: Readonly<Record<RenderFormatName, RenderFormat>> = FORMATS;

export const RENDER_FORMAT_NAMES = Object.keys(FORMATS) as readonly RenderFormatName[];

/** Bits a sample of a picture coded so, of sources of these depths: the deepest of them where it is kept and the format has it, else the next it has. */
export function renderDepth(format: RenderFormat, wanted: 'source' | 8 | 10, sourceDepths: readonly number[]): number {
  const depth = wanted === 'source' ? Math.max(8, ...sourceDepths) : wanted;
  return format.depths.find((d) => d >= depth) ?? format.depths.at(-1)!;
}

/** The format of a name's ending, such as `.mp4`, where no format is named; `undefined` where nothing is written so. */
export const formatOfEnding = (ending: string): RenderFormatName | undefined =>
  RENDER_FORMAT_NAMES.find((name) => RENDER_FORMATS[name].isUsual && `.${RENDER_FORMATS[name].extension}` === ending);

/** The endings a format can be told by. */
export const RENDER_ENDINGS: readonly string[] = [
  ...new Set(RENDER_FORMAT_NAMES.map((name) => `.${RENDER_FORMATS[name].extension}`)),
];
