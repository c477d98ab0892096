import type { LandingFreedom } from '@idle-bend/core/landing';
import type { Clip, Method, Project, SteadyKeeps } from '@idle-bend/core/model';
import { clipSlope, placeItems, reelFrames, sourceOf } from '@idle-bend/core/reel';
import { framesPerSecond, type SpeedMeasure } from '@idle-bend/core/time';
import type { Keep } from '@idle-bend/core/time-map';
import type { Level } from '@idle-bend/pipeline';
import { createStore } from 'zustand/vanilla';
import type { FromPreview, Look } from '../preview/messages.ts';
import type { BenchClip } from './bench-clip.ts';
import { kindOf, type Selection } from './selections.ts';

export type { BenchClip, Selection };

export type Shown = Extract<FromPreview, { kind: 'shown' }>;

/** A way to do what was asked of a clip: to land, to last so long. */
export interface Way {
  /** What it is called where it can be taken. */
  readonly name: string;
  /** What it did, in a line. */
  readonly sentence: string;
  /** How many frames are whole source frames, and of how many. */
  readonly real: { readonly after: number; readonly of: number };
}

/** The way that was not taken, to be looked at and taken instead. */
export interface OtherWay extends Way {
  readonly of: Project;
  readonly clipId: string;
  readonly project: Project;
  /** What was done instead. */
  readonly taken: Way;
}

/** Both speeds beside it, the source frame it sits at, or neither: it goes along the reach before it. */
export type BendKeeps = 'speeds' | 'source' | 'neither';

/** What has a menu. */
export type MenuPlace = 'clip' | 'chart' | 'reel' | 'cue' | 'sound';

export interface BenchState {
  /** The clip on the bench; the reel's first when no clip has this id. */
  readonly activeId: string | undefined;
  /** Clips picked together for one edit, besides the one on the bench. */
  readonly picked: readonly string[];
  /** Timeline frame of the playhead, from the clip's start. */
  readonly k: number;
  /** The reel frame of the playhead while it stands in a gap, where no clip is. */
  readonly gapAt: number | undefined;
  /** How fast the clock runs: 1 forward, −1 backward, 0 still, 2 and 4 on repeated J or L. */
  readonly clock: number;
  /** How many seconds of reel a second of playing takes: 1, or less for a slower look. */
  readonly pace: number;
  /** The timeline frame under the pointer on the chart. */
  readonly pointerAt: number | undefined;
  /** What the clip is compared with, while it is. */
  readonly compare: Compare | undefined;
  /** The stretch playback goes round in, both frames included. */
  readonly loop: { readonly from: number; readonly to: number } | undefined;
  /** Playback goes round the reel's range. */
  readonly reelLoop: boolean;
  readonly selection: Selection;
  /** A stretch of the clip picked for an edit, in timeline frames; `to` is where it ends, past its last frame. */
  readonly range: { readonly from: number; readonly to: number } | undefined;
  /** What moving a bend through time keeps. */
  readonly bendKeeps: BendKeeps;
  /** How wide the bends at both ends of a range are, timeline frames. */
  readonly rangeRamps: number;
  /** Still frames of a hold, and frames its ramps take before and after it. */
  readonly holdFrames: number;
  readonly holdRamps: number;
  /** What setting a speed keeps. */
  readonly keep: Keep;
  /** What of the clip a landing may change. */
  readonly gives: LandingFreedom;
  /** The other way the last landing or stretch could have been done, and the document it belongs to: an edit ends the offer. */
  readonly otherWay: OtherWay | undefined;
  /** The frame the picture shows now. */
  readonly shown: Shown | undefined;
  /** How many frames of playback were left out, because this machine could not make them in time. */
  readonly dropped: number;
  /** What is shown of a frame besides its picture. */
  readonly look: Look;
  /** The picture is over the whole window, the curve a strip below it. */
  readonly isPictureLarge: boolean;
  /** The stretch whose frames were made, or are being made, ahead; as the clip was then. */
  readonly smooth: Smooth | undefined;
  /** The address of the current frame made from the originals, and the document it is of: after an edit it shows no more. */
  readonly original: { readonly address: string; readonly of: Project } | undefined;
  /** What the drag under way keeps, said in the hint line. */
  readonly dragHint: string | undefined;
  /** The chart keeps the scales a drag began with. */
  readonly scalesHeld: boolean;
  /** Advice the editor does not want to see again, by its id. */
  readonly dismissed: readonly string[];
  /** The document as it was when the bench was opened, to compare with. */
  readonly opened: Project | undefined;
  /** Which of its pages the clip's panel shows. */
  readonly clipPage: string;
  /** The next press on the picture chooses a patch to be held. */
  readonly picking: { readonly keeps: SteadyKeeps; readonly aspect: number } | undefined;
  /** The searchable list of actions is open. */
  readonly actionsOpen: boolean;
  /** The menu that is open, and where: pixels of the window. */
  readonly menu: { readonly of: MenuPlace; readonly x: number; readonly y: number } | undefined;
}

/** What the bench shows of the open project; nothing of it is saved. */
export const benchStore = createStore<BenchState>(() => ({
  activeId: undefined,
  picked: [],
  k: 0,
  gapAt: undefined,
  pace: 1,
  look: 'picture',
  isPictureLarge: false,
  smooth: undefined,
  pointerAt: undefined,
  compare: undefined,
  clock: 0,
  loop: undefined,
  reelLoop: false,
  range: undefined,
  selection: { kind: 'clip' },
  bendKeeps: 'speeds',
  rangeRamps: 12,
  holdFrames: 12,
  holdRamps: 0,
  keep: 'content',
  gives: 'places',
  otherWay: undefined,
  shown: undefined,
  dropped: 0,
  original: undefined,
  dragHint: undefined,
  scalesHeld: false,
  dismissed: [],
  opened: undefined,
  clipPage: 'speed',
  picking: undefined,
  actionsOpen: false,
  menu: undefined,
}));

export const select = (selection: Selection) => benchStore.setState({ selection });

/** A stretch of a clip made smooth: frames `from` to `to`, both included, `done` of `total` made so far. */
interface Smooth {
  readonly clip: Clip;
  readonly from: number;
  readonly to: number;
  readonly done: number;
  readonly total: number;
}

/** Two curves of one clip, or two ways of making its frames, looked at together. */
export interface Compare {
  /** The other: the curve at 100 %, a named version, the clip as it was when the bench was opened, or made another way. */
  readonly other:
    | { readonly kind: 'plain' }
    | { readonly kind: 'opened' }
    | { readonly kind: 'version'; readonly id: string }
    | ComparedMethod;
  readonly how: 'side' | 'wipe' | 'blink' | 'difference';
  /** In step by the frame of the timeline, or by what of the source shows. */
  readonly by: 'time' | 'source';
  /** Where the wipe's edge is, as a share of the width. */
  readonly edge: number;
}

/** The same curve with its in-betweens made another way. */
export interface ComparedMethod {
  readonly kind: 'method';
  readonly method: Method;
  /** Of Flow. */
  readonly level: Level | undefined;
}

/** Brings a clip to the bench, at its frame k. */
export function activate(clipId: string, k = 0): void {
  const { activeId, selection } = benchStore.getState();
  const same = activeId === clipId;
  // What belongs to the reel stays selected.
  const kept: Selection = kindOf(selection).ofReel ? selection : { kind: 'clip' };
  benchStore.setState({
    activeId: clipId,
    k,
    gapAt: undefined,
    original: undefined,
    ...(!same && { loop: undefined, range: undefined, compare: undefined, selection: kept }),
  });
}

export function benchClip(
  project: Project | undefined,
  activeId = benchStore.getState().activeId,
): BenchClip | undefined {
  const clips = project ? benchClips(project) : [];
  return clips.find(({ clip }) => clip.id === activeId) ?? clips[0];
}

const known = new WeakMap<Project, readonly BenchClip[]>();

/** Every clip of the reel, in order. The same values for the same project. */
export function benchClips(project: Project): readonly BenchClip[] {
  let clips = known.get(project);
  if (!clips) {
    clips = placeItems(project).flatMap(({ item: clip, start, frames }) =>
      clip.kind === 'clip'
        ? [{ project, clip, source: sourceOf(project, clip), start, frames, slope: clipSlope(project, clip) }]
        : [],
    );
    known.set(project, clips);
  }
  return clips;
}

/** Where the playhead stands on the reel. */
export const reelFrameOf = ({ start, frames }: BenchClip, { k, gapAt } = benchStore.getState()): number =>
  gapAt ?? start + Math.min(k, frames - 1);

/** Moves the playhead to a frame of the reel; the clip there comes to the bench. In a gap the clip before it stays. */
export function goToReelFrame(project: Project, frame: number): void {
  const clips = benchClips(project);
  const at = Math.max(0, Math.round(frame));
  const before = clips.findLast(({ start }) => start <= at) ?? clips[0];
  if (!before) return;
  const inside = at >= before.start && at < before.start + before.frames;
  const last = clips.at(-1)!;
  // Past the last clip, where the reel ends, its last frame shows.
  const beyond =
    before === last &&
    at >= last.start + last.frames &&
    !project.reel.items.slice(-1).some(({ kind }) => kind === 'gap');
  activate(before.clip.id, Math.max(0, Math.min(before.frames - 1, at - before.start)));
  if (!inside && !beyond) benchStore.setState({ gapAt: Math.min(at, reelFrames(project) - 1) });
}

/** Picks a clip for edits of several at once, or lets it go. The clip on the bench is always one of them. */
export function togglePicked(clipId: string): void {
  const { picked, activeId } = benchStore.getState();
  if (clipId === activeId) return;
  benchStore.setState({ picked: picked.includes(clipId) ? picked.filter((id) => id !== clipId) : [...picked, clipId] });
}

/** Moves the playhead, inside the clip, and stops looking at the original. */
export function goTo(k: number, frames: number): void {
  benchStore.setState({ gapAt: undefined, k: Math.max(0, Math.min(frames - 1, Math.round(k))), original: undefined });
}

/** The selection, unless what it names is gone (an undo may have taken it): then the clip. */
export const validSelection = (selection: Selection, bench: BenchClip): Selection =>
  kindOf(selection).isThere(selection, bench, benchStore.getState().range) ? selection : { kind: 'clip' };

/** What actions are for: what is selected and is still there. */
export const selected = (bench: BenchClip): Selection => validSelection(benchStore.getState().selection, bench);

/** What a speed typed for a stretch of the clip is measured by. */
export function speedMeasure({ source, project }: BenchClip, frames: number, speed: number): SpeedMeasure {
  return { sourceFps: framesPerSecond(source.readAs), reelFps: framesPerSecond(project.reel.rate), frames, speed };
}
