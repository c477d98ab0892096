import { isDownbeat } from '../beats/grid.js';
import { tie } from '../edit/edit.js';
import { pinClip, reconcileReel, stretchClip } from '../edit/reel-edit.js';
import { cueOnSound } from '../edit/sounds.js';
import { InvalidInput } from '../foundation/errors.js';
import { landClip } from '../landing/land-clip.js';
import type { Clip, SpeedLimits } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { clipSlope, sourceOf } from '../reel/clips.js';
import { placeItems } from '../reel/places.js';
import { frameOfSecond } from '../reel/sound-time.js';
import { positionOfFrame, usableFrames } from '../sampling/dropped-repeats.js';
import { clipFrameCount } from '../sampling/frame-count.js';
import { positionAt } from '../time-map/evaluate.js';
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

interface Candidate {
  readonly clip: Clip;
  readonly content: Content;
  readonly momentIds: readonly string[];
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
  if (indices.some((at, i) => at < 0 || (i > 0 && at !== indices[i - 1]! + 1)))
    throw new InvalidInput('clips', 'must be neighbours on the reel');
  const begin = placed[indices[0]!]!.start;
  const beats = sound.beats.times.map((second) => frameOfSecond(project, sound, second));
  const bars = beats.map((_, i) => isDownbeat(sound.beats!, i));
  const strengths = choice.strengths ?? bars.map((down) => (down ? 1 : 0.4));
  const candidates = clipIds.map((id) => candidateOf(project, placed.find(({ item }) => item.id === id)!.item as Clip));
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
  { clip, momentIds }: Candidate,
  from: number,
  to: number,
  { frames, speed, beats, cost }: SlotFit,
): LaidClip {
  const landings = momentIds.flatMap((momentId, i) => (beats[i]! < 0 ? [] : [{ momentId, beat: beats[i]! }]));
  return { clipId: clip.id, from, to, frames, speed, landings, cost };
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
  const content = { first, last, slope: clipSlope(project, clip), moments: moments.map(({ at }) => at) };
  return { clip, content, momentIds: moments.map(({ id }) => id) };
}

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
    const { project: landed, conflicts } = landClip(tied, clipId, { gives: 'all' });
    if (conflicts.length > 0) missed.push(clipId);
    laid = landed;
  }
  return { project: reconcileReel(withoutLooseCues(project, laid)), missed };
}

/** Without the cues on music that only what was laid again had used. */
function withoutLooseCues(before: Project, after: Project): Project {
  const used = ({ reel }: Project) =>
    new Set(reel.items.flatMap((item) => (item.kind === 'clip' ? [...item.ties.map((t) => t.cueId), item.pin] : [])));
  const [then, now] = [used(before), used(after)];
  const cues = after.reel.cues.filter(({ id, beat }) => beat === null || now.has(id) || !then.has(id));
  return { ...after, reel: { ...after.reel, cues } };
}

function withLimits(project: Project, clipId: string, limits: SpeedLimits): Project {
  const items = project.reel.items.map((item) =>
    item.id === clipId && item.kind === 'clip' ? { ...item, ties: [], limits } : item,
  );
  return { ...project, reel: { ...project.reel, items } };
}
