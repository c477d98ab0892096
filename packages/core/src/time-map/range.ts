import { InvalidInput } from '../foundation/errors.js';
import { addVertex, type Keep, mirrorEase, setBend, setReachSpeed } from './edit.js';
import {
  type Bend,
  bendWindow,
  MIN_VERTEX_FRAMES,
  fittedMap,
  HARD,
  mapDuration,
  reachSlope,
  scaledBend,
  TIME_EPSILON,
  type TimeMap,
  type Vertex,
} from './time-map.js';

/** A stretch of a clip's timeline between two vertices of its map. */
interface Cut {
  readonly map: TimeMap;
  /** Indices of the vertices it starts and ends at. */
  readonly first: number;
  readonly last: number;
}

/**
 * Gives the stretch from `from` to `to` (timeline frames) one speed: reaches are divided where it begins and ends, and
 * `bend` rounds both changes where there is room. What it keeps is as for `setReachSpeed`. Throws `InvalidInput` when
 * either end lies inside another bend.
 */
export function setRangeSpeed(
  map: TimeMap,
  from: number,
  to: number,
  speed: number,
  k0: number,
  keep: Keep,
  bend: Bend = HARD,
): TimeMap {
  const cut = cutRange(map, from, to);
  let changed = cut.map;
  for (let reach = cut.first; reach < cut.last; reach++) changed = setReachSpeed(changed, reach, speed, k0, keep);
  return rounded(changed, [cut.first, cut.last], bend);
}

/** The same with every reach of the stretch at `factor` times its own speed: a brief hurry, or a lull. Still reaches stay still. */
export function scaleRangeSpeed(
  map: TimeMap,
  from: number,
  to: number,
  factor: number,
  k0: number,
  keep: Keep,
  bend: Bend = HARD,
): TimeMap {
  if (!(factor > 0 && Number.isFinite(factor)))
    throw new InvalidInput('speed', `${factor} times is not a change of speed`);
  const cut = cutRange(map, from, to);
  let changed = cut.map;
  for (let reach = cut.first; reach < cut.last; reach++) {
    const slope = reachSlope(changed, reach);
    if (slope !== 0) changed = setReachSpeed(changed, reach, (slope / k0) * factor, k0, keep);
  }
  return rounded(changed, [cut.first, cut.last], bend);
}

/** Plays the stretch backward at the speeds it has; what follows goes on from where it ends now, at its own speeds. */
export function turnRange(map: TimeMap, from: number, to: number, bend: Bend = HARD): TimeMap {
  const { map: cut, first, last } = cutRange(map, from, to);
  const pivot = cut.vertices[first]!.s;
  const turned = (v: Vertex) => ({ t: v.t, s: 2 * pivot - v.s });
  const shift = turned(cut.vertices[last]!).s - cut.vertices[last]!.s;
  const vertices = cut.vertices.map((v, i) => (i <= first ? v : i <= last ? turned(v) : { t: v.t, s: v.s + shift }));
  return rounded(fittedMap(vertices, cut.bends), [first, last], bend);
}

/**
 * Plays the stretch there, back, and there again: what follows slides by twice its length and keeps its content. `bend` rounds the
 * turns where there is room. Throws `InvalidInput` when either end lies inside a bend.
 */
export function bounceRange(map: TimeMap, from: number, to: number, bend: Bend = HARD): TimeMap {
  const { map: cut, first, last } = cutRange(map, from, to);
  const { end, length, inner, within } = insideOf(cut, first, last);
  const back = backFrom(inner, end);
  const again = inner.slice(1).map((v) => ({ t: v.t + 2 * length, s: v.s }));
  const after = cut.vertices.slice(last + 1).map((v) => ({ t: v.t + 2 * length, s: v.s }));
  const vertices = [...cut.vertices.slice(0, last + 1), ...back, ...again, ...after];
  const bends = [
    ...cut.bends.slice(0, last),
    HARD,
    ...mirrored(within),
    HARD,
    ...within,
    cut.bends[last]!,
    ...cut.bends.slice(last + 1),
  ];
  const turns = [last, last + back.length];
  return rounded(fittedMap(vertices, bends), turns, bend);
}

/**
 * Plays the stretch there and back: the clip ends where the stretch began, and what came after it is cut off. `bend` rounds the turn
 * where there is room. Throws `InvalidInput` when either end lies inside a bend.
 */
export function returnRange(map: TimeMap, from: number, to: number, bend: Bend = HARD): TimeMap {
  const { map: cut, first, last } = cutRange(map, from, to);
  const { end, inner, within } = insideOf(cut, first, last);
  const vertices = [...cut.vertices.slice(0, last + 1), ...backFrom(inner, end)];
  const bends = [...cut.bends.slice(0, last), HARD, ...mirrored(within), HARD];
  return rounded(fittedMap(vertices, bends), [last], bend);
}

/** A stretch's vertices and the bends between them. */
function insideOf(cut: TimeMap, first: number, last: number) {
  const end = cut.vertices[last]!.t;
  return {
    end,
    length: end - cut.vertices[first]!.t,
    inner: cut.vertices.slice(first, last + 1),
    within: cut.bends.slice(first + 1, last),
  };
}

/** Backward, a vertex at t is met at 2·end − t. */
const backFrom = (inner: readonly Vertex[], end: number): Vertex[] =>
  inner
    .slice(0, -1)
    .toReversed()
    .map((v) => ({ t: 2 * end - v.t, s: v.s }));

const mirrored = (bends: readonly Bend[]): Bend[] =>
  bends.toReversed().map((b) => ({ ...b, ease: mirrorEase(b.ease) }));

/** The whole stretch as long as `frames` timeline frames, one factor on all its reaches; content kept, what follows slides. */
export function fitRange(map: TimeMap, from: number, to: number, frames: number): TimeMap {
  if (!(frames >= MIN_VERTEX_FRAMES && frames <= 1e9))
    throw new InvalidInput('length', `${frames} frames is not a length for a stretch`);
  const { map: cut, first, last } = cutRange(map, from, to);
  const start = cut.vertices[first]!.t;
  const factor = frames / (cut.vertices[last]!.t - start);
  const slide = frames - (cut.vertices[last]!.t - start);
  const vertices = cut.vertices.map((v, i) =>
    i <= first ? v : i <= last ? { t: start + (v.t - start) * factor, s: v.s } : { t: v.t + slide, s: v.s },
  );
  const bends = cut.bends.map((b, i) => (i > first && i < last ? scaledBend(b, factor) : b));
  return fittedMap(vertices, bends);
}

/** Puts vertices where the stretch begins and ends. */
function cutRange(map: TimeMap, from: number, to: number): Cut {
  const duration = mapDuration(map);
  if (!(from >= -TIME_EPSILON && to <= duration + 1 && to - from >= MIN_VERTEX_FRAMES))
    throw new InvalidInput('range', `${from} to ${to} is not a stretch of this clip, which runs from 0 to ${duration}`);
  const begun = cutAt(map, Math.max(0, from));
  // A clip's last frame ends a little after its last vertex when that lies between two frames.
  const ended = cutAt(begun.map, Math.min(to, duration));
  return { map: ended.map, first: begun.index, last: ended.index };
}

function cutAt(map: TimeMap, t: number): { map: TimeMap; index: number } {
  const near = map.vertices.findIndex((v) => Math.abs(v.t - t) < MIN_VERTEX_FRAMES);
  if (near >= 0) return { map, index: near };
  const covering = map.bends.findIndex(
    (_, i) => t > bendWindow(map, i).from + TIME_EPSILON && t < bendWindow(map, i).to - TIME_EPSILON,
  );
  if (covering >= 0)
    throw new InvalidInput('range', `frame ${t} lies inside bend ${covering}; begin or end the range outside it`);
  return addVertex(map, t, HARD);
}

/** Rounds the interior ones of these vertices where the speed changes there, as wide as there is room for. */
function rounded(map: TimeMap, at: readonly number[], bend: Bend): TimeMap {
  let result = map;
  for (const index of at)
    if (
      index > 0 &&
      index < map.vertices.length - 1 &&
      Math.abs(reachSlope(result, index) - reachSlope(result, index - 1)) > 1e-12 &&
      result.bends[index]!.widthFrames === 0
    )
      result = setBend(result, index, bend);
  return result;
}
