import { rename, rm, stat, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import type { FlowLevel, Project, Stretch } from '@idle-bend/core/model';
import { RENDER_FORMATS, type RenderFormatName } from '@idle-bend/core/render';
import type { Codec, OutputKind } from '../encode/codec.js';
import type { FlowStore } from '../flow-store.js';
import type { OpenedSource } from '../probe/source.js';
import { mkdirInOneGo } from '../ffmpeg/scratch.js';
import { writeReel } from '../encode/write-reel.js';

/** A part of a render that is made by itself. */
export interface ChunkOrder {
  readonly index: number;
  /** Frames of the reel. */
  readonly stretch: Stretch;
  /** The first frame of the whole render: numbered pictures count from it. */
  readonly first: number;
  readonly format: RenderFormatName;
  /** Bits a sample, and whether transparency is kept. */
  readonly depth: number;
  readonly alpha: boolean;
  readonly toneMap: boolean;
  readonly level: FlowLevel;
  /** Source pictures keep their own size until they are laid, as on the bench. */
  readonly ownSize: boolean;
}

export interface ChunkWork {
  readonly signal?: AbortSignal;
  readonly onFrame?: (done: number, total: number) => void;
  readonly store?: FlowStore;
}

/** Threads an encoder of a chunk has; part of what decides its bytes, so the same on every machine. */
const ENCODER_THREADS = 2;

/** How the pictures of a chunk are kept until all are there. Small moving pictures choose their colours from the whole, so theirs are kept lossless. */
export function chunkKind(format: RenderFormatName): OutputKind {
  const { picture } = RENDER_FORMATS[format];
  if (picture?.kind === 'numbered') return { muxer: 'image2', codec: picture.codec as Codec };
  const codec = picture?.kind === 'film' ? (picture.codec as Codec) : 'ffv1';
  // Where its colour tags are kept whole.
  return { muxer: codec === 'ffv1' ? 'matroska' : codec.startsWith('prores') ? 'mov' : 'mp4', codec };
}

/** The name of a finished chunk in a render's folder: a file, or a folder of numbered pictures. */
export function chunkName(format: RenderFormatName, index: number): string {
  const { muxer } = chunkKind(format);
  const extension = { image2: '', matroska: '.mkv' }[muxer] ?? `.${muxer}`;
  return `chunk-${String(index).padStart(6, '0')}${extension}`;
}

/**
 * Makes one chunk of a render in `folder`, under another name until it is whole. Made twice, or on two machines, it has the same bytes.
 * Returns how many they are. Throws `MediaError`, and leaves nothing.
 */
export async function writeChunk(
  project: Project,
  order: ChunkOrder,
  open: (sourceId: string) => Promise<OpenedSource>,
  folder: string,
  { signal, onFrame, store }: ChunkWork = {},
): Promise<number> {
  const kind = chunkKind(order.format);
  const target = join(folder, chunkName(order.format, order.index));
  const numbered = kind.muxer === 'image2';
  // Two that make the same chunk do not meet in one place.
  const making = join(folder, `.making-${order.index}-${process.pid}-${Math.random().toString(36).slice(2)}`);
  mkdirInOneGo(making);
  try {
    const file = join(making, numbered ? `%08d.${kind.codec}` : 'chunk');
    const { depth, alpha, toneMap, level, stretch, ownSize } = order;
    await writeReel(project, open, file, kind, {
      ...{ signal, onFrame, store, depth, alpha, toneMap, level, stretch, ownSize },
      threads: ENCODER_THREADS,
      firstNumber: stretch.from - order.first,
    });
    await rm(target, { recursive: true, force: true });
    await rename(numbered ? making : file, target);
  } finally {
    await rm(making, { recursive: true, force: true });
  }
  return bytesOf(target);
}

/** Bytes of a file, or of the files in a folder. */
async function bytesOf(path: string): Promise<number> {
  const info = await stat(path);
  if (!info.isDirectory()) return info.size;
  const sizes = await Promise.all((await readdir(path)).map(async (name) => (await stat(join(path, name))).size));
  return sizes.reduce((sum, size) => sum + size, 0);
}
