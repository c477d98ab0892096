import { setReelRange } from '../edit/reel-edit.js';
import type { Size } from '../framing/framing.js';
import type { FlowLevel } from '../model/interpolation.js';
import type { Project } from '../model/project.js';
import type { Stretch } from '../model/reel.js';
import { type ProxyLines, USUAL_LINES } from '../proxy/size.js';
import { placeItems, reelFrames } from '../reel/places.js';
import { framesPerSecond } from '../time/rate.js';
import type { RenderFormatName } from './format.js';

/** What a render does with high dynamic range: as it is, with its tags, or tone-mapped to the standard range (BT.709). */
export const RENDER_RANGES = ['keep', 'standard'] as const;

export type RenderRange = (typeof RENDER_RANGES)[number];

/** Full: from the originals, at the reel's size. Draft: from the proxies, at the size and with the quality that the bench shows. */
export const RENDER_QUALITIES = ['full', 'draft'] as const;

export type RenderQuality = (typeof RENDER_QUALITIES)[number];

/** The whole reel, the range that is set on it, one clip of it, or a file for every clip. */
export const RENDER_PARTS = ['reel', 'range', 'clip', 'clips'] as const;

export type RenderPart = (typeof RENDER_PARTS)[number];

export const RENDER_DEPTHS = ['source', 8, 10] as const;

export type RenderDepth = (typeof RENDER_DEPTHS)[number];

/** Where the timecode written into a file begins: nowhere, at the reel's, or at the source's of the first frame shown. */
export const RENDER_TIMECODES = ['none', 'reel', 'source'] as const;

export type RenderTimecode = (typeof RENDER_TIMECODES)[number];

export interface RenderSettings {
  readonly format: RenderFormatName;
  readonly quality: RenderQuality;
  readonly depth: RenderDepth;
  readonly range: RenderRange;
  /** Quality of Flow's in-betweens. */
  readonly level: FlowLevel;
  readonly timecode: RenderTimecode;
  /** Cues become chapters. */
  readonly chapters: boolean;
}

export const DEFAULT_SETTINGS: RenderSettings = {
  format: 'h264',
  quality: 'full',
  depth: 'source',
  range: 'keep',
  level: 'default',
  timecode: 'none',
  chapters: false,
};

/** A piece of the reel that becomes a file: its frames, and the clip it is named after. */
export interface RenderPiece {
  readonly stretch: Stretch;
  readonly clipName: string | null;
}

/** The pieces a part stands for; none where there is nothing to render. */
export function renderPieces(project: Project, part: RenderPart, clipId?: string): RenderPiece[] {
  const end = reelFrames(project);
  const whole = { from: 0, to: end };
  const { range } = project.reel;
  if (part === 'reel') return end > 0 ? [{ stretch: whole, clipName: null }] : [];
  if (part === 'range') {
    const to = range ? Math.min(range.to, end) : 0;
    return range && to > range.from ? [{ stretch: { from: range.from, to }, clipName: null }] : [];
  }
  return placeItems(project)
    .filter(({ item }) => item.kind === 'clip' && (part === 'clips' || item.id === clipId))
    .map(({ item, start, frames }) => ({
      stretch: { from: start, to: start + frames },
      clipName: item.kind === 'clip' ? item.name : null,
    }));
}

/** The document a render keeps: as it is, with the piece as its range. */
export const renderDocument = (project: Project, { stretch }: RenderPiece): Project => setReelRange(project, stretch);

/** The size of what the bench shows of proxies of so many lines, and of a draft: the reel's, or smaller and of its shape, even where it is smaller. */
export function draftSize({ width, height }: Size, lines: ProxyLines = USUAL_LINES): Size {
  const scale = Math.min(1, (lines * 16) / 9 / Math.max(width, height), lines / Math.min(width, height));
  if (scale === 1) return { width, height };
  const even = (x: number) => Math.max(2, 2 * Math.round((x * scale) / 2));
  return { width: even(width), height: even(height) };
}

/** The document at a render's quality. */
export function atQuality(project: Project, quality: RenderQuality): Project {
  if (quality === 'full') return project;
  const { reel } = project;
  return { ...project, reel: { ...reel, ...draftSize(reel) } };
}

/** About how many seconds of the reel are made at a time. */
const CHUNK_SECONDS = 4;

/** Stretches that follow one another and together are the given one; each is made by itself, wherever there is a free core. They depend on nothing but the stretch and the rate, so a render is cut alike on every machine. */
export function chunksOf({ from, to }: Stretch, { reel }: Project): Stretch[] {
  const length = Math.max(1, Math.round(CHUNK_SECONDS * framesPerSecond(reel.rate)));
  const count = Math.max(1, Math.ceil((to - from) / length));
  return Array.from({ length: count }, (_, i) => ({
    from: from + i * length,
    to: Math.min(to, from + (i + 1) * length),
  }));
}
