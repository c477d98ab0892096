import { isDownbeat } from '../beats/grid.js';
import { InvalidInput } from '../errors.js';
import { landClip } from '../landing/land-clip.js';
import { tie } from '../project/edit.js';
import { clipSlope, placeItems, sourceOf, type Clip, type Project, type SpeedLimits } from '../project/project.js';
import { pinClip, settleReel, stretchClip } from '../project/reel-edit.js';
import { cueOnSound, frameOfSecond } from '../project/sounds.js';
import { positionOfFrame, usableFrames } from '../repeats/skip.js';
import { clipFrameCount } from '../clip/clip-frames.js';
import { positionAt } from '../time-map/evaluate.js';

/** How clips are laid on music. */
export interface LayChoice {
  readonly soundId: string;
  /** Lengths a clip may have, in beats. */
  readonly lengths: readonly number[];
  /** Speeds a clip may be given, as magnitudes (1 = 100 %). */
  readonly limits: SpeedLimits;
  /** Cuts fall on first beats of bars wherever that does not ask for much. */
  readonly onBars: boolean;
  /** Lengths of clips the editor has decided, in beats, by clip. */
  readonly kept: Readonly<Record<string, number>>;
  /** How strong what begins at a beat is, 0…1, by beat: strong moments go to strong beats. Without it first beats of bars are the strong ones. */
  readonly strengths?: readonly number[];
}

/** One clip of a plan. Beats count those of the sound. */
export interface LaidClip {
  readonly clipId: string;
  /** The beats its first frame falls on, and its end. The first clip begins where it is. */
  readonly from: number;
  readonly to: number;
  /** Timeline frames it gets. */
  readonly frames: number;
  /** The mean speed that asks for (1 = 100 %). */
  readonly speed: number;
  /** The beats its moments land on. */
  readonly landings: readonly { readonly momentId: string; readonly beat: number }[];
  readonly cost: number;
}

export interface LayPlan {
  readonly clips: readonly LaidClip[];
  readonly cost: number;
}

/** What a doubling or halving of speed costs as much as: a cut that does not fall on a bar where it might. */
const OFF_BAR = 0.35;
/** What a landing on the strongest beat is worth against one on the weakest. */
const STRONG = 0.6;
/** How much a change of speed within a clip counts against the change of speed itself. */
const UNEVEN = 0.35;
/** A moment nearer than this many frames to a cut cannot be seen to land. */
const CLEAR = 4;

interface Candidate {
  readonly clip: Clip;
  /** Source positions of its first and last frame, and how many source frames a timeline frame is at 100 %. */
  readonly first: number;
  readonly last: number;
  readonly slope: number;
  readonly moments: readonly { readonly id: string; readonly at: number }[];
}

/**
 * The best way to lay neighbouring clips on the beats of a sound: for every clip a number of beats, for every moment a beat, so
 * that the sum over clips of squared changes of log speed, uneven speeds within a clip, cuts off the bar and moments on weak
 * beats is least. Found by dynamic programming over (clip, beat it begins on), with another over (moment, beat) inside each
 * (R. Bellman, "Dynamic Programming", 1957): nothing is chosen before all is compared. `undefined` when the limits or
 * the music leave no way. Throws `InvalidInput` for clips that are not neighbours, or a sound without beats.
 */
export function planLay(project: Project, clipIds: readonly string[], choice: LayChoice): LayPlan | undefined {
  const sound = project.reel.sounds.find(({ id }) => id === choice.soundId);
  if (!sound?.beats || sound.beats.times.length < 2) throw new InvalidInput('sound', 'has no beats yet');
  const placed = placeItems(project);
  const indices = clipIds.map((id) => placed.findIndex(({ item }) => item.id === id));
  if (indices.some((at, i) => at < 0 || (i > 0 && at !== indices[i - 1]! + 1))) throw new InvalidInput('clips', 'must be neighbours on the reel');
  const begin = placed[indices[0]!]!.start;
  const beats = sound.beats.times.map((second) => frameOfSecond(project, sound, second));
  const bars = beats.map((_, i) => isDownbeat(sound.beats!, i));
  const strengths = choice.strengths ?? bars.map((down) => (down ? 1 : 0.4));
  const candidates = clipIds.map((id) => candidateOf(project, placed.find(({ item }) => item.id === id)!.item as Clip));
  // The first clip begins at the beat it is nearest to, wherever it is.
  const first = beats.findIndex((frame) => Math.round(frame) >= begin - 1e-9);
  if (first < 0) return undefined;
  const n = candidates.length;
  const best: (Map<number, { readonly cost: number; readonly from: number; readonly laid: LaidClip }> | undefined)[] = [];
  let reached = new Map([[first, 0]]);
  for (let i = 0; i < n; i++) {
    const next = new Map<number, { cost: number; from: number; laid: LaidClip }>();
    const candidate = candidates[i]!;
    const lengths = choice.kept[candidate.clip.id] !== undefined ? [choice.kept[candidate.clip.id]!] : choice.lengths;
    for (const [from, before] of reached)
      for (const length of lengths) {
        const to = from + length;
        if (to >= beats.length) continue;
        const start = i === 0 ? begin : Math.round(beats[from]!);
        const laid = layOne(candidate, { from, to, start, end: Math.round(beats[to]!), beats, strengths, choice });
        if (!laid) continue;
        const cost = before + laid.cost + (choice.onBars && !bars[to] ? OFF_BAR : 0);
        const known = next.get(to);
        if (!known || cost < known.cost - 1e-12) next.set(to, { cost, from, laid });
      }
    if (next.size === 0) return undefined;
    best.push(next);
    reached = new Map([...next].map(([to, { cost }]) => [to, cost]));
  }
  let to = [...reached].reduce((a, b) => (b[1] < a[1] ? b : a))[0];
  const cost = reached.get(to)!;
  const clips: LaidClip[] = [];
  for (let i = n - 1; i >= 0; i--) {
    const step = best[i]!.get(to)!;
    clips.unshift(step.laid);
    to = step.from;
  }
  return { clips, cost };
}

function candidateOf(project: Project, clip: Clip): Candidate {
  const source = sourceOf(project, clip);
  const frames = clipFrameCount(clip.map, usableFrames(source));
  const [first, last] = [positionAt(clip.map, 0), positionAt(clip.map, frames - 1)];
  const [low, high] = [Math.min(first, last), Math.max(first, last)];
  const moments = source.moments
    .map(({ id, frame }) => ({ id, at: positionOfFrame(source, frame) }))
    .filter(({ at }) => at > low && at < high)
    .sort((a, b) => (a.at - b.at) * Math.sign(last - first || 1));
  return { clip, first, last, slope: clipSlope(project, clip), moments };
}

interface Slot {
  readonly from: number;
  readonly to: number;
  /** Timeline frames. */
  readonly start: number;
  readonly end: number;
  readonly beats: readonly number[];
  readonly strengths: readonly number[];
  readonly choice: LayChoice;
}

/** One clip in one slot: its moments on the beats that cost least, in order; a moment no beat suits stays free. */
function layOne({ clip, first, last, slope, moments }: Candidate, { from, to, start, end, beats, strengths, choice }: Slot): LaidClip | undefined {
  const frames = end - start;
  if (frames < 2) return undefined;
  const speed = Math.abs(last - first) / (frames - 1) / slope;
  if (!within(speed, choice.limits)) return undefined;
  // The speed the clip is given against 100 %, and of that against what it is laid at on the whole.
  const whole = Math.log(speed) ** 2;
  const places: { readonly beat: number; readonly frame: number }[] = [];
  for (let beat = from; beat <= to; beat++) {
    const frame = Math.round(beats[beat]!);
    if (frame - start >= CLEAR && end - frame >= CLEAR) places.push({ beat, frame });
  }
  // States: which moment came last, on which place; −1 for the clip's beginning.
  type State = {
    readonly cost: number;
    readonly frame: number;
    readonly at: number;
    readonly speed: number | undefined;
    readonly landings: LaidClip['landings'];
  };
  let states: State[] = [{ cost: 0, frame: start, at: first, speed: undefined, landings: [] }];
  const along = (state: State, frame: number, at: number): { cost: number; speed: number } | undefined => {
    const v = Math.abs(at - state.at) / (frame - state.frame) / slope;
    if (!within(v, choice.limits)) return undefined;
    const off = (Math.log(v / speed) ** 2 * (frame - state.frame)) / frames;
    return { cost: off + (state.speed === undefined ? 0 : UNEVEN * Math.log(v / state.speed) ** 2), speed: v };
  };
  for (const moment of moments) {
    const landed = states.flatMap((state) =>
      places.flatMap(({ beat, frame }): State[] => {
        if (frame <= state.frame) return [];
        const way = along(state, frame, moment.at);
        const worth = STRONG * (strengths[beat] ?? 0.4);
        return way
          ? [{ cost: state.cost + way.cost - worth, frame, at: moment.at, speed: way.speed, landings: [...state.landings, { momentId: moment.id, beat }] }]
          : [];
      }),
    );
    states = cheapest([...states, ...landed]);
  }
  const done = states.flatMap((state) => {
    const way = along(state, end - 1, last);
    return way ? [{ ...state, cost: state.cost + way.cost }] : [];
  });
  if (done.length === 0) return undefined;
  const { cost, landings } = done.reduce((a, b) => (b.cost < a.cost ? b : a));
  return { clipId: clip.id, from, to, frames, speed, landings, cost: whole + cost };
}

/** Of states at the same place the cheapest. */
function cheapest<T extends { readonly cost: number; readonly frame: number; readonly at: number }>(states: readonly T[]): T[] {
  const kept = new Map<string, T>();
  for (const state of states) {
    const key = `${state.frame} ${state.at}`;
    const known = kept.get(key);
    if (!known || state.cost < known.cost) kept.set(key, state);
  }
  return [...kept.values()];
}

const within = (speed: number, { slowest, fastest }: SpeedLimits) => speed >= slowest - 1e-9 && speed <= fastest + 1e-9;

/**
 * The project with a plan carried out: every cut but the first pinned to its beat, every clip stretched into its room, its
 * moments landed on their beats. `newId` makes ids of cues. `missed` names the clips whose moments could not all be landed exactly.
 */
export function layClips(
  project: Project,
  plan: LayPlan,
  { soundId, limits }: Pick<LayChoice, 'soundId' | 'limits'>,
  newId: () => string,
): { readonly project: Project; readonly missed: readonly string[] } {
  const second = (beat: number) => project.reel.sounds.find(({ id }) => id === soundId)!.beats!.times[beat]!;
  let laid = project;
  for (const { clipId, frames } of plan.clips) laid = stretchClip(laid, clipId, frames);
  plan.clips.forEach(({ clipId, from }, i) => {
    if (i === 0) return;
    const cue = cueOnSound(laid, soundId, second(from), newId());
    laid = pinClip(cue.project, clipId, cue.cueId);
  });
  // What comes after the last clip stays where the music says it begins.
  const items = laid.reel.items;
  const after = items[items.findIndex(({ id }) => id === plan.clips.at(-1)!.clipId) + 1];
  if (after?.kind === 'clip') {
    const cue = cueOnSound(laid, soundId, second(plan.clips.at(-1)!.to), newId());
    laid = pinClip(cue.project, after.id, cue.cueId);
  }
  const missed: string[] = [];
  for (const { clipId, landings } of plan.clips) {
    let tied = withLimits(laid, clipId, limits);
    for (const { momentId, beat } of landings) {
      const cue = cueOnSound(tied, soundId, second(beat), newId());
      tied = tie(cue.project, clipId, momentId, cue.cueId);
    }
    const { project: landed, conflicts } = landClip(tied, clipId);
    if (conflicts.length > 0) missed.push(clipId);
    laid = landed;
  }
  return { project: settleReel(withoutLooseCues(project, laid)), missed };
}

/** Without the cues on music that only what was laid anew had used. */
function withoutLooseCues(before: Project, after: Project): Project {
  const used = ({ reel }: Project) => new Set(reel.items.flatMap((item) => (item.kind === 'clip' ? [...item.ties.map((t) => t.cueId), item.pin] : [])));
  const [then, now] = [used(before), used(after)];
  const cues = after.reel.cues.filter(({ id, beat }) => beat === null || now.has(id) || !then.has(id));
  return { ...after, reel: { ...after.reel, cues } };
}

function withLimits(project: Project, clipId: string, limits: SpeedLimits): Project {
  const items = project.reel.items.map((item) => (item.id === clipId && item.kind === 'clip' ? { ...item, ties: [], limits } : item));
  return { ...project, reel: { ...project.reel, items } };
}
