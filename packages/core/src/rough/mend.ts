import { updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { InvalidInput } from '../foundation/errors.js';
import { land } from '../landing/conflicts.js';
import { landingsOf } from '../landing/land-clip.js';
import { SOLVE_DEFAULTS } from '../landing/solve.js';
import type { Clip } from '../model/clip.js';
import type { Mend, MendWay } from '../model/interpolation.js';
import type { Project } from '../model/project.js';
import { clipSlope, sourceOf } from '../reel/clips.js';
import { positionOfFrame } from '../sampling/dropped-repeats.js';
import { MAX_SPEED, MIN_SPEED } from '../time-map/edit.js';
import { positionAt } from '../time-map/evaluate.js';
import { appearances } from '../time-map/inverse.js';
import {
  type Bend,
  fittedMap,
  HARD,
  mapDuration,
  reachSlope,
  type TimeMap,
  type Vertex,
} from '../time-map/time-map.js';
import type { RoughSpot } from './rough-spots.js';

/** Source frames over which a mend is handed over, unless it says otherwise. */
const SOFT_FRAMES = 1;

/** Makes a spot's stretch of the source another way. It replaces mends it covers. */
export function mendSpot(
  project: Project,
  clipId: string,
  spot: RoughSpot,
  way: MendWay,
  id: string,
  soft = SOFT_FRAMES,
): Project {
  const mend: Mend = { id, from: spot.sourceFrom, to: spot.sourceTo, way, soft };
  return updateClip(project, clipId, (clip) => {
    const others = clip.mends.filter(({ from, to }) => from < mend.from || to > mend.to);
    return { ...clip, mends: [...others, mend].sort((a, b) => a.from - b.from) };
  });
}

export const removeMend = (project: Project, clipId: string, mendId: string): Project =>
  updateClip(project, clipId, (clip) => ({ ...clip, mends: clip.mends.filter(({ id }) => id !== mendId) }));

export const updateMend = (
  project: Project,
  clipId: string,
  mendId: string,
  change: Partial<Omit<Mend, 'id'>>,
): Project =>
  updateClip(project, clipId, (clip) => ({
    ...clip,
    mends: clip.mends.map((mend) => (mend.id === mendId ? { ...mend, ...change } : mend)),
  }));

/** How wide the bends into and out of a hurried stretch are where there is room, timeline frames. */
const HURRY_BEND = 8;

/**
 * Plays a spot's stretch of the source at one source frame to a timeline frame, so that none of it is made; the parts on
 * either side take the time it gives up, the clip's content and length stay, and every landing stays met. Throws `InvalidInput` saying why when
 * that cannot be.
 */
export function speedThrough(project: Project, clipId: string, spot: RoughSpot): Project {
  return updateClip(project, clipId, (clip) => {
    const source = sourceOf(project, clip);
    const [first, last] = [positionOfFrame(source, spot.sourceFrom), positionOfFrame(source, spot.sourceTo)];
    const middle = (spot.from + spot.to) / 2;
    const forward = positionAt(clip.map, spot.to + 0.5) >= positionAt(clip.map, spot.from - 0.5);
    const [enter, leave] = forward ? [first, last] : [last, first];
    const [t0, t1] = [timeOf(clip.map, enter, middle), timeOf(clip.map, leave, middle)];
    const frames = last - first;
    if (frames < 1 || t1 - t0 < frames + 1)
      throw new InvalidInput('hurry', 'this stretch passes as fast as its frames allow already');
    const ties = landingsOf(project, clipId);
    const start = startOf(t0, t1, frames, enter, forward ? 1 : -1, ties);
    const map = withHurry(clip, { from: start, to: start + frames, enter, leave });
    return withMap(
      clip,
      ties.length === 0 ? map.map : landed(project, clip, map, ties, { start, frames, enter, leave }),
    );
  });
}

/** Where the map shows a position, of several times the one nearest to `near`. */
function timeOf(map: TimeMap, s: number, near: number): number {
  const times = appearances(map, s).map(({ from, to }) => Math.min(Math.max(near, from), to));
  if (times.length === 0)
    throw new InvalidInput('hurry', 'the clip begins or ends inside this stretch; trim it or move its end first');
  return times.reduce((a, b) => (Math.abs(a - near) <= Math.abs(b - near) ? a : b));
}

/** The frame the hurried stretch begins on: in the middle of the time it took, or where a landing inside it says. */
function startOf(
  t0: number,
  t1: number,
  frames: number,
  enter: number,
  way: 1 | -1,
  ties: readonly { moment: number; cue: number }[],
): number {
  const inside = ties.filter(({ moment }) => (moment - enter) * way >= 0 && (moment - enter) * way <= frames);
  const starts = [...new Set(inside.map(({ moment, cue }) => cue - (moment - enter) * way))];
  if (starts.length > 1)
    throw new InvalidInput('hurry', 'two landings lie in this stretch, and hurrying through it would miss one of them');
  return starts[0] ?? Math.round((t0 + t1 - frames) / 2);
}

interface Hurry {
  readonly from: number;
  readonly to: number;
  readonly enter: number;
  readonly leave: number;
}

/** The clip's map with a reach of slope ±1 through the stretch; bends lie outside of it. `reach` is its index. */
function withHurry({ map, locks }: Clip, { from, to, enter, leave }: Hurry): { map: TimeMap; reach: number } {
  const slope = Math.sign(leave - enter);
  const kept = map.vertices.map((vertex, i) => ({ vertex, bend: map.bends[i]!, i }));
  const outer = kept.length - 1;
  const before = kept.filter(
    ({ vertex, i }) => i === 0 || (i < outer && vertex.t < from - 1 && (vertex.s - enter) * slope < 0),
  );
  const after = kept.filter(
    ({ vertex, i }) => i === outer || (i > 0 && vertex.t > to + 1 && (vertex.s - leave) * slope > 0),
  );
  const [previous, next] = [before.at(-1)!, after[0]!];
  if (locks.includes(previous.i) || locks.includes(next.i - 1))
    throw new InvalidInput('hurry', 'a locked reach beside this stretch cannot give it time');
  // Half a bend's width on either side, on the line of the hurried reach, so that the bend ends where the stretch begins.
  const room = (gap: number) => Math.max(0, Math.min(HURRY_BEND, Math.floor(gap / 2)));
  const [into, outOf] = [room(from - previous.vertex.t), room(next.vertex.t - to)];
  const entry: Vertex = { t: from - into / 2, s: enter - (slope * into) / 2 };
  const exit: Vertex = { t: to + outOf / 2, s: leave + (slope * outOf) / 2 };
  const bend = (widthFrames: number): Bend => ({ widthFrames, ease: 'soft' });
  const result = fittedMap(
    [...before.map(({ vertex }) => vertex), entry, exit, ...after.map(({ vertex }) => vertex)],
    [
      ...before.map((v) => v.bend),
      into > 0 ? bend(into) : HARD,
      outOf > 0 ? bend(outOf) : HARD,
      ...after.map((v) => v.bend),
    ],
  );
  const reach = before.length;
  for (const [beside, was] of [
    [reach - 1, previous.i],
    [reach + 1, next.i - 1],
  ] as const)
    if (reachSlope(result, beside) * reachSlope(map, was) < 0)
      throw new InvalidInput('hurry', 'the parts beside this stretch are too short to take the time it gives up');
  return { map: result, reach };
}

/** The hurried map with all of the clip's landings met. */
function landed(
  project: Project,
  clip: Clip,
  { map, reach }: { map: TimeMap; reach: number },
  ties: readonly { moment: number; cue: number }[],
  { start, frames, enter, leave }: { start: number; frames: number; enter: number; leave: number },
): TimeMap {
  const k0 = clipSlope(project, clip);
  const limits = {
    slowest: (clip.limits?.slowest ?? MIN_SPEED) * k0,
    fastest: (clip.limits?.fastest ?? MAX_SPEED) * k0,
  };
  const ends = [
    { moment: enter, cue: start },
    { moment: leave, cue: start + frames },
  ].filter(({ cue }) => cue >= 0 && cue <= mapDuration(map) && !ties.some((tie) => tie.cue === cue));
  const answer = land(map, [...ties, ...ends], { ...SOLVE_DEFAULTS, limits, locked: [reach] });
  if (answer.conflicts.length > 0) throw new InvalidInput('hurry', 'a landing of this clip would be missed');
  return answer.map;
}
