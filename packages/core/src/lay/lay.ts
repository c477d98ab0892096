import { isDownbeat } from '../beats/grid.js';
import { endedWithin, fitCleanly } from '../clean/fit.js';
import { fitToLandings } from '../clean/fit-to-landings.js';
import type { Landing } from '../clean/landing.js';
import { tie, updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { pinClip, reconcileReel } from '../edit/reel-edit.js';
import { cueOnSound } from '../edit/sounds.js';
import { InvalidInput } from '../foundation/errors.js';
import { landClip } from '../landing/land-clip.js';
import type { Clip, SpeedLimits } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { withoutJoinAndRamps } from '../reel/ramps.js';
import { putJoin } from '../join/join.js';
import { choiceOf, type RampJoin } from '../model/join.js';
import { reelDrifts } from '../landing/land-reel.js';
import { clipSlope, sourceOf } from '../reel/clips.js';
import { placeItems, placeOf } from '../reel/places.js';
import { frameOfSecond } from '../reel/sound-time.js';
import { positionOfFrame, usableFrames } from '../sampling/dropped-repeats.js';
import { clipFrameCount } from '../sampling/frame-count.js';
import { fitFrames } from '../time-map/edit.js';
import { positionAt, slopeAt } from '../time-map/evaluate.js';
import { appearances } from '../time-map/inverse.js';
import {
  type Bend,
  bendWindow,
  checkTimeMap,
  HARD,
  reachSlope,
  type TimeMap,
  type Vertex,
} from '../time-map/time-map.js';
import { type Content, type SlotFit, SlotFiller } from './slot.js';

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
interface LaidClip {
  readonly clipId: string;
  /** The beats its first frame falls on, and its end. The first clip begins where it is. */
  readonly from: number;
  readonly to: number;
  /** Timeline frames it gets. */
  readonly frames: number;
  /** The times of its own curve its first and last frame will show, timeline frames from its first frame now. */
  readonly covers: readonly [first: number, last: number];
  /** Whether it keeps its own speeds, only its content being cut or going on. */
  readonly keeps: boolean;
  /** The beats its moments land on. */
  readonly landings: readonly { readonly momentId: string; readonly beat: number }[];
  /** Moments it shows now, and will not. */
  readonly outside: readonly string[];
  readonly cost: number;
}

export interface LayPlan {
  readonly clips: readonly LaidClip[];
  readonly cost: number;
}

/** What a cut costs that does not fall on a bar where it might. */
const OFF_BAR = 0.35;

interface Candidate {
  readonly clip: Clip;
  readonly content: Content;
  readonly momentIds: readonly string[];
}

/**
 * The best way to lay neighbouring clips on the beats of a sound: for every clip a number of beats, for every moment a beat. Clips keep their
 * own speeds and are cut, or go on into spare source; only what that leaves is squeezed. The sum over clips of squared changes of log length,
 * squeezing, cuts off the bar and moments on weak beats is least. Found by dynamic programming over (clip, beat it begins on), with another over (moment, beat) inside each
 * (R. Bellman, "Dynamic Programming", 1957): nothing is chosen before all is compared. `undefined` when the limits or
 * the music leave no way. Ramps at their cuts are put back when the clips are laid; no moment lands in them. Throws `InvalidInput` for clips
 * that are not neighbours, or a sound without beats.
 */
export function planLay(joined: Project, clipIds: readonly string[], choice: LayChoice): LayPlan | undefined {
  const { project, joins } = withoutJoins(joined, clipIds);
  const sound = project.reel.sounds.find(({ id }) => id === choice.soundId);
  if (!sound?.beats || sound.beats.times.length < 2) throw new InvalidInput('sound', 'has no beats yet');
  const placed = placeItems(project);
  const indices = clipIds.map((id) => placed.findIndex(({ item }) => item.id === id));
  if (indices.some((at, i) => at < 0 || (i > 0 && at !== indices[i - 1]! + 1)))
    throw new InvalidInput('clips', 'must be neighbours on the reel');
  const begin = placed[indices[0]!]!.start;
  const beats = sound.beats.times.map((second) => frameOfSecond(project, sound, second));
  const bars = beats.map((_, i) => isDownbeat(sound.beats!, i));
  const strengths = choice.strengths ?? bars.map((down) => (down ? 1 : 0.4));
  const candidates = clipIds.map((id) =>
    candidateOf(project, placed.find(({ item }) => item.id === id)!.item as Clip, joins),
  );
  // The first clip begins at the beat it is nearest to, wherever it is.
  const first = beats.findIndex((frame) => Math.round(frame) >= begin - 1e-9);
  if (first < 0) return undefined;
  const filler = new SlotFiller({ beats: beats.map(Math.round), strengths }, choice.limits);
  const n = candidates.length;
  const best: Map<number, Step>[] = [];
  let reached = new Map([[first, 0]]);
  for (let i = 0; i < n; i++) {
    const next = new Map<number, Step>();
    const candidate = candidates[i]!;
    const lengths = choice.kept[candidate.clip.id] !== undefined ? [choice.kept[candidate.clip.id]!] : choice.lengths;
    for (const [from, before] of reached)
      for (const length of lengths) {
        const to = from + length;
        if (to >= beats.length) continue;
        const start = i === 0 ? begin : Math.round(beats[from]!);
        const filled = filler.fill(candidate.content, from, to, start, Math.round(beats[to]!));
        if (!filled) continue;
        const cost = before + filled.cost + (choice.onBars && !bars[to] ? OFF_BAR : 0);
        const known = next.get(to);
        if (!known || cost < known.cost - 1e-12) next.set(to, { cost, from, filled });
      }
    if (next.size === 0) return undefined;
    best.push(next);
    reached = new Map([...next].map(([to, { cost }]) => [to, cost]));
  }
  let to = [...reached].reduce((a, b) => (b[1] < a[1] ? b : a))[0];
  const cost = reached.get(to)!;
  const clips: LaidClip[] = [];
  for (let i = n - 1; i >= 0; i--) {
    const { from, filled } = best[i]!.get(to)!;
    clips.unshift(laidClip(candidates[i]!, from, to, filled));
    to = from;
  }
  return { clips, cost };
}

/** The cheapest way to a beat: what the clip before it is laid as, and on which beat that begins. */
interface Step {
  readonly cost: number;
  readonly from: number;
  readonly filled: SlotFit;
}

function laidClip(
  { clip, content, momentIds }: Candidate,
  from: number,
  to: number,
  { frames, covers, keeps, beats, cost }: SlotFit,
): LaidClip {
  const landings = momentIds.flatMap((momentId, i) => (beats[i]! < 0 ? [] : [{ momentId, beat: beats[i]! }]));
  const outside = momentIds.filter((_, i) => {
    const at = content.moments[i]!;
    return beats[i]! < 0 && (at < covers[0] - 1e-6 || at > covers[1] + 1e-6);
  });
  return { clipId: clip.id, from, to, frames, covers, keeps, landings, outside, cost };
}

function candidateOf(project: Project, clip: Clip, joins: readonly RampJoin[]): Candidate {
  const source = sourceOf(project, clip);
  const usable = usableFrames(source);
  const frames = clipFrameCount(clip.map, usable);
  const moments = source.moments
    .flatMap(({ id, frame }) => {
      const at = appearances(clip.map, positionOfFrame(source, frame))[0]?.from;
      return at !== undefined && at > 0 && at < frames - 1 ? [{ id, at }] : [];
    })
    .sort((a, b) => a.at - b.at);
  const [first, last] = [positionAt(clip.map, 0), positionAt(clip.map, frames - 1)];
  const [into, outOf] = [slopeAt(clip.map, 0), slopeAt(clip.map, frames - 1)];
  const content: Content = {
    frames,
    before: spare(first, -into, usable),
    after: spare(last, outOf, usable),
    racesIn: joins.find(({ after }) => after === clip.id)?.outOf ?? 0,
    racesOut: joins.find(({ before }) => before === clip.id)?.into ?? 0,
    speed: meanSpeed(clip.map) / clipSlope(project, clip),
    bent: clip.map.vertices.length > 2,
    moments: moments.map(({ at }) => at),
  };
  return { clip, content, momentIds: moments.map(({ id }) => id) };
}

/** How many timeline frames a source position can go on at a slope before its source ends. */
function spare(position: number, slope: number, usable: number): number {
  // A freeze lasts as long as one likes.
  if (Math.abs(slope) < 1e-12) return Infinity;
  return Math.max(0, (slope > 0 ? usable - 1 - position : position) / Math.abs(slope));
}

/** Source frames a timeline frame passes, either way, on the whole. */
function meanSpeed({ vertices }: TimeMap): number {
  const way = vertices.slice(1).reduce((sum, { s }, i) => sum + Math.abs(s - vertices[i]!.s), 0);
  return Math.max(way, 1e-6) / vertices.at(-1)!.t;
}

/**
 * The project with a plan carried out: every cut but the first pinned to its beat, every clip showing what the plan says in its room, its
 * moments landed on their beats, its ramp joins put back. `newId` makes ids of cues. `missed` names the clips whose moments could not all be
 * landed exactly, `unjoined` those whose ramp join into the next does not go into their slots.
 */
export function layClips(
  joined: Project,
  plan: LayPlan,
  { soundId, limits }: Pick<LayChoice, 'soundId' | 'limits'>,
  newId: () => string,
): { readonly project: Project; readonly missed: readonly string[]; readonly unjoined: readonly string[] } {
  const laidIds = plan.clips.map(({ clipId }) => clipId);
  const { project, joins } = withoutJoins(joined, laidIds);
  const sound = project.reel.sounds.find(({ id }) => id === soundId)!;
  const second = (beat: number) => sound.beats!.times[beat]!;
  const frameOf = (beat: number) => Math.round(frameOfSecond(project, sound, second(beat)));
  const begin = placeOf(project, plan.clips[0]!.clipId)!.start;
  let laid = project;
  for (const each of plan.clips) {
    const { clipId } = each;
    const start = each === plan.clips[0] ? begin : frameOf(each.from);
    const bent = updateClip(laid, clipId, (clip) => {
      const source = sourceOf(project, clip);
      const landings = each.landings.map(({ momentId, beat }) => ({
        cue: frameOf(beat) - start,
        moment: positionOfFrame(source, source.moments.find(({ id }) => id === momentId)!.frame),
      }));
      const usable = usableFrames(source);
      return withMap(clip, endedWithin(mapFor(clip, each, landings, usable), usable));
    });
    laid = updateClip(bent, clipId, (clip) => ({ ...clip, ties: [], limits: limitsWith(project, clip, limits) }));
  }
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
  const missed = new Set<string>();
  for (const { clipId, landings } of plan.clips) {
    let tied = laid;
    for (const { momentId, beat } of landings) {
      const cue = cueOnSound(tied, soundId, second(beat), newId());
      tied = tie(cue.project, clipId, momentId, cue.cueId);
    }
    const { project: landed, conflicts } = landClip(tied, clipId, { offers: false });
    if (conflicts.length > 0) missed.add(clipId);
    laid = conflicts.length > 0 ? tied : landed;
  }
  const unjoined: string[] = [];
  for (const join of joins) {
    try {
      laid = putJoin(laid, join.before, choiceOf(join), join.id);
    } catch (error) {
      if (!(error instanceof InvalidInput)) throw error;
      unjoined.push(join.before);
    }
  }
  for (const id of laidIds) if (reelDrifts(laid, id).some(({ landed }) => !landed)) missed.add(id);
  return { project: reconcileReel(withoutLooseCues(joined, laid)), missed: [...missed], unjoined };
}

/** Clips as they are without the ramps at their cuts, and the joins that made those. */
function withoutJoins(joined: Project, clipIds: readonly string[]) {
  const joins = joined.reel.joins.filter(({ before, after }) => clipIds.includes(before) || clipIds.includes(after));
  // The last first: each then finds the curves it bent.
  const project = joins.reduceRight(withoutJoinAndRamps, joined);
  return { project, joins };
}

/** The curve of a clip in its slot, as near its landings as its own speeds bring it, or as squeezing it to fit does. */
function mapFor(
  clip: Clip,
  { frames, covers: [first, last], keeps }: LaidClip,
  landings: readonly Landing[],
  usable: number,
): TimeMap {
  const isShifted = landings.length > 0 && clip.map.vertices.length > 2;
  // Bent, it moves by whole frames, so that its other reaches stay on their phase: what is left of a frame the places of change make up for.
  const from = isShifted ? wholeWithin(clip.map, first, usable) : first;
  const steps = keeps ? frames - 1 : last - from;
  const shown = windowOf(clip.map, from, steps + 1);
  if (keeps) return shown;
  const { locks: locked } = withMap(clip, shown);
  return (
    fitToLandings(shown, steps + 1, frames, { locked, landings }) ??
    fitCleanly(shown, steps + 1, frames, { locked }) ??
    fitFrames(shown, steps + 1, frames)
  );
}

/**
 * So much of a curve from one time on, each end going on as it begins or ends where that is outside. Speeds stay whole: a bend that the cut
 * would divide is narrowed, or goes where its vertex does.
 */
function windowOf(map: TimeMap, from: number, frames: number): TimeMap {
  const { vertices, bends } = map;
  const last = frames - 1;
  const isInside = (i: number) => vertices[i]!.t - from >= 1 && vertices[i]!.t - from <= last - 1;
  const inner = vertices
    .map((_, i) => i)
    .slice(1, -1)
    .filter(isInside);
  const middle = vertices.findIndex(({ t }, i) => i > 0 && (t >= from + last / 2 || i === vertices.length - 1)) - 1;
  const on = (reach: number, t: number): Vertex => ({
    t: t - from,
    s: vertices[reach]!.s + reachSlope(map, reach) * (t - vertices[reach]!.t),
  });
  const narrowed = (i: number): Bend => {
    const { from: begins, to: ends } = bendWindow(map, i);
    const { t } = vertices[i]!;
    const shares = [(t - from) / (t - begins), (last - (t - from)) / (ends - t), 1].filter((share) => share >= 0);
    return { ease: bends[i]!.ease, widthFrames: bends[i]!.widthFrames * Math.min(...shares) };
  };
  return checkTimeMap({
    vertices: [
      on(inner[0] === undefined ? middle : inner[0] - 1, from),
      ...inner.map((i) => ({ t: vertices[i]!.t - from, s: vertices[i]!.s })),
      on(inner.at(-1) ?? middle, from + frames),
    ],
    bends: [HARD, ...inner.map(narrowed), HARD],
  });
}

/** The whole time nearest to one at which the clip begins; the one after it where the source does not reach that far. */
function wholeWithin(map: TimeMap, first: number, usable: number): number {
  const { s } = windowOf(map, Math.round(first), 2).vertices[0]!;
  return s < -1e-9 || s > usable - 1 + 1e-9 ? Math.ceil(first) : Math.round(first);
}

/** The limits, as wide as the clip's own speeds ask for: what the editor gave it may stay. */
function limitsWith(project: Project, clip: Clip, { slowest, fastest }: SpeedLimits): SpeedLimits {
  const slope = clipSlope(project, clip);
  const speeds = clip.map.vertices.slice(1).map((_, i) => Math.abs(reachSlope(clip.map, i)) / slope);
  const moving = speeds.filter((speed) => speed > 1e-9);
  return { slowest: Math.min(slowest, ...moving), fastest: Math.max(fastest, ...moving) };
}
/** Without the cues on music that only what was laid again had used. */
function withoutLooseCues(before: Project, after: Project): Project {
  const used = ({ reel }: Project) =>
    new Set(reel.items.flatMap((item) => (item.kind === 'clip' ? [...item.ties.map((t) => t.cueId), item.pin] : [])));
  const [then, now] = [used(before), used(after)];
  const cues = after.reel.cues.filter(({ id, beat }) => beat === null || now.has(id) || !then.has(id));
  return { ...after, reel: { ...after.reel, cues } };
}
