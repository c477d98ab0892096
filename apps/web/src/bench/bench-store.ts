import {
  clipFrameCount,
  clipSlope,
  framesPerSecond,
  placeItems,
  sourceOf,
  type Clip,
  type Keep,
  type Project,
  type Source,
  type SpeedMeasure,
} from '@idle-bend/core';
import { create } from 'zustand';
import type { FromPreview } from '../preview/messages.ts';

export type Selection =
  | { readonly kind: 'clip' }
  /** The stretch between the in and the out point. */
  | { readonly kind: 'range' }
  | { readonly kind: 'reach'; readonly index: number }
  /** An interior vertex is where a bend sits; the first and the last are the clip's ends. */
  | { readonly kind: 'vertex'; readonly index: number }
  | { readonly kind: 'moment'; readonly id: string }
  | { readonly kind: 'cue'; readonly id: string };

export type Shown = Extract<FromPreview, { kind: 'shown' }>;

interface BenchState {
  /** Timeline frame of the playhead, from the clip's start. */
  readonly k: number;
  /** How fast the clock runs: 1 forward, −1 backward, 0 still, 2 and 4 on repeated J or L. */
  readonly clock: number;
  /** The stretch playback goes round in, both frames included. */
  readonly loop: { readonly from: number; readonly to: number } | undefined;
  readonly selection: Selection;
  /** A stretch of the clip picked for an edit, in timeline frames; `to` is where it ends, past its last frame. */
  readonly range: { readonly from: number; readonly to: number } | undefined;
  /** What setting a speed keeps. */
  readonly keep: Keep;
  /** The frame the picture shows now. */
  readonly shown: Shown | undefined;
  /** The address of the current frame made from the original, while it is looked at. */
  readonly original: string | undefined;
  /** What the drag under way keeps, said in the hint line. */
  readonly dragHint: string | undefined;
  /** The chart keeps the scales a drag began with. */
  readonly scalesHeld: boolean;
  /** Advice the editor does not want to see again, by its id. */
  readonly dismissed: readonly string[];
  /** The searchable list of actions is open. */
  readonly actionsOpen: boolean;
}

export const useBench = create<BenchState>(() => ({
  k: 0,
  clock: 0,
  loop: undefined,
  range: undefined,
  selection: { kind: 'clip' },
  keep: 'content',
  shown: undefined,
  original: undefined,
  dragHint: undefined,
  scalesHeld: false,
  dismissed: [],
  actionsOpen: false,
}));

export const select = (selection: Selection) => useBench.setState({ selection });

/** The clip on the bench with everything one needs to speak of it. */
export interface BenchClip {
  readonly project: Project;
  readonly clip: Clip;
  readonly source: Source;
  /** Reel frame of the clip's first frame. */
  readonly start: number;
  readonly frames: number;
  /** k₀ */
  readonly slope: number;
}

export function benchClip(project: Project | undefined): BenchClip | undefined {
  const placed = project && placeItems(project).find(({ item }) => item.kind === 'clip');
  if (!project || placed?.item.kind !== 'clip') return undefined;
  const { item: clip, start } = placed;
  const source = sourceOf(project, clip);
  return { project, clip, source, start, frames: clipFrameCount(clip.map, source.frames), slope: clipSlope(project, clip) };
}

/** Moves the playhead, inside the clip, and stops looking at the original. */
export function goTo(k: number, frames: number): void {
  useBench.setState({ k: Math.max(0, Math.min(frames - 1, Math.round(k))), original: undefined });
}

/** The selection, unless what it names is gone (an undo may have taken it): then the clip. */
export function validSelection(selection: Selection, { clip, source, project }: BenchClip): Selection {
  const there =
    selection.kind === 'clip' ||
    (selection.kind === 'range' && useBench.getState().range !== undefined) ||
    (selection.kind === 'reach' && selection.index < clip.map.vertices.length - 1) ||
    (selection.kind === 'vertex' && selection.index < clip.map.vertices.length) ||
    (selection.kind === 'moment' && source.moments.some((m) => m.id === selection.id)) ||
    (selection.kind === 'cue' && project.reel.cues.some((c) => c.id === selection.id));
  return there ? selection : { kind: 'clip' };
}

/** What a speed typed for a stretch of the clip is measured by. */
export function speedMeasure({ source, project }: BenchClip, frames: number, speed: number): SpeedMeasure {
  return { sourceFps: framesPerSecond(source.readAs), reelFps: framesPerSecond(project.reel.rate), frames, speed };
}
