import { fitCleanly, type Landing } from '../clean/index.js';
import type { RampUndo } from '../model/join.js';
import { positionAt } from '../time-map/evaluate.js';
import {
  type End,
  lasting,
  type Ramp,
  type Ramped,
  rampEnd,
  type Room,
  turnedRound,
  withRamp,
} from '../time-map/ramp.js';
import { splitMap } from '../time-map/split.js';
import { checkTimeMap, reachSlope, type TimeMap } from '../time-map/time-map.js';

/** What of a clip stays where it is: reaches, and what has landed. */
export interface Kept {
  readonly locked: readonly number[];
  readonly landings: readonly Landing[];
}

/**
 * As `rampEnd`, but where the source does not last every speed stays, and where speeds change moves, so that as many frames stay real as
 * can: more of the slower parts leaves source for the ramp. `undefined` where the clip has one speed, or no places do.
 */
export function rampEndByPlaces(
  map: TimeMap,
  end: End,
  ramp: Ramp,
  room: Room,
  { locked, landings }: Kept,
): Ramped | undefined {
  const wide = rampEnd(map, end, ramp, { from: -Infinity, to: Infinity });
  const begin = wide.startFrames;
  const way = ramp.slope < 0 ? -1 : 1;
  const over = way * (positionAt(wide.map, end.shown) - (way < 0 ? room.from : room.to));
  if (over <= 1e-6) return wide;
  const isWhole = Math.abs(begin - Math.round(begin)) < 1e-9;
  if (!isWhole || map.vertices.length < 3 || landings.some(({ cue }) => cue > begin)) return undefined;
  const body = lasting(map, end.frames);
  // The real frame the rest is to end on, and when it is reached now.
  const target = way * Math.floor(way * positionAt(body, begin) - over + 1e-6);
  const own = timeOf(body, begin, target, way);
  if (own === undefined) return undefined;
  const frames = Math.round(begin) + 1;
  const fitted = fitCleanly(splitMap(body, own + 1)[0], own + 1, frames, { locked, landings });
  if (!fitted || !hasSpeedsOf(fitted, body)) return undefined;
  const ended = withRamp(splitMap(fitted, begin)[0], end.frames, ramp);
  const beyond = way * (positionAt(ended, end.shown) - (way < 0 ? room.from : room.to));
  return beyond > 1e-6 ? undefined : { map: checkTimeMap(ended, 'join'), startFrames: begin, slowed: 1 };
}

/** When a map gets to a position, last before `until`; `undefined` where it is not on its way there at the end. */
function timeOf(map: TimeMap, until: number, position: number, way: 1 | -1): number | undefined {
  const isBefore = (t: number) => way * (positionAt(map, t) - position) < 0;
  if (isBefore(until)) return undefined;
  let from = Math.floor(until);
  while (from > 0 && !isBefore(from)) from--;
  if (!isBefore(from)) return undefined;
  let to = Math.min(until, from + 1);
  for (let i = 0; i < 60; i++) {
    const middle = (from + to) / 2;
    if (isBefore(middle)) from = middle;
    else to = middle;
  }
  return to;
}

/** Whether a map goes through the same speeds. */
function hasSpeedsOf(map: TimeMap, other: TimeMap): boolean {
  const count = map.vertices.length;
  return (
    count === other.vertices.length &&
    map.vertices.slice(1).every((_, i) => Math.abs(reachSlope(map, i) - reachSlope(other, i)) < 1e-9)
  );
}

/** How far places where a clip's speeds change were moved for the ramp at one of its ends, timeline frames; 0 where they were not. */
export function placesMoved({ original, ramped }: RampUndo, end: 'first' | 'last'): number {
  const [was, is] = end === 'last' ? [original, ramped] : [turnedRound(original), turnedRound(ramped)];
  // The last of those that are left is where the ramp begins.
  const inner = is.vertices.slice(1, -2);
  return Math.max(
    0,
    ...inner.map(({ t }, i) => (i + 2 < was.vertices.length ? Math.abs(t - was.vertices[i + 1]!.t) : 0)),
  );
}
