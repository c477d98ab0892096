import { InvalidInput } from '../foundation/errors.js';
import { type Ease, easeCurve } from './ease.js';
import { positionAt } from './evaluate.js';
import { splitMap } from './split.js';
import {
  type Bend,
  bendWindow,
  MIN_VERTEX_FRAMES,
  fittedMap,
  HARD,
  mapDuration,
  reachCount,
  reachSlope,
  scaledBend,
  TIME_EPSILON,
  turnedMap,
  type TimeMap,
  type Vertex,
} from './time-map.js';

/** What setting a speed leaves alone: the source range of every reach, or every timeline position. */
export type Keep = 'content' | 'slot';

/** What dragging a vertex keeps: nothing, the speed of the reach on its left, or of the one on its right. */
export type VertexDrag = 'free' | 'left' | 'right';

/** Speeds a reach may be given: 0.1 % to 10,000 %, either way. */
export const MIN_SPEED = 0.001;

export const MAX_SPEED = 100;

/** Throws `InvalidInput` for a speed no reach may have. */
export function checkSpeed(speed: number): void {
  if (!Number.isFinite(speed) || (speed !== 0 && (Math.abs(speed) < MIN_SPEED || Math.abs(speed) > MAX_SPEED)))
    throw new InvalidInput('speed', `${speed * 100} % is outside 0.1 % to 10,000 %`);
}

/**
 * Sets the speed of reach `reach` (1 = 100 %).
 * Keeping content changes how long the reach takes and slides all that follows; a reverse or a freeze has no such
 * content to keep, so turning a reach round lets what follows continue from where the reach now ends.
 * Keeping the slot leaves every timeline position and slips the source of all that follows.
 */
export function setReachSpeed(map: TimeMap, reach: number, speed: number, k0: number, keep: Keep): TimeMap {
  checkReach(map, reach);
  checkSpeed(speed);
  const a = map.vertices[reach]!;
  const b = map.vertices[reach + 1]!;
  const slope = speed * k0;
  const content = Math.abs(b.s - a.s);
  const keepsContent = keep === 'content' && slope !== 0 && content > 0;
  const run = keepsContent ? content / Math.abs(slope) : b.t - a.t;
  if (run < MIN_VERTEX_FRAMES)
    throw new InvalidInput('speed', `at ${speed * 100} % this part would pass in less than 1/64 of a frame`);
  const end = { t: a.t + run, s: keepsContent && slope * (b.s - a.s) > 0 ? b.s : a.s + slope * run };
  const [dt, ds] = [end.t - b.t, end.s - b.s];
  return fittedMap(
    map.vertices.map((v, i) => (i === reach + 1 ? end : i > reach + 1 ? { t: v.t + dt, s: v.s + ds } : v)),
    map.bends,
  );
}

/** One factor on all reaches, so that the clip's speed at its average becomes `speed`; keeps the source range. */
export function setClipSpeed(map: TimeMap, speed: number, k0: number): TimeMap {
  checkSpeed(speed);
  if (speed === 0) throw new InvalidInput('speed', 'a whole clip cannot be set to 0 %; freeze a part of it instead');
  const first = map.vertices[0]!;
  const last = map.vertices[map.vertices.length - 1]!;
  const average = (last.s - first.s) / last.t / k0;
  if (average === 0)
    throw new InvalidInput('speed', 'this clip ends on the frame it starts with, so it has no overall speed to set');
  const turned = average * speed < 0 ? reverseMap(map) : map;
  return fitDuration(turned, (last.t * Math.abs(average)) / Math.abs(speed));
}

/** Scales all of time by one factor so that the clip lasts `durationFrames`; keeps the source range. Bends scale along. */
export function fitDuration(map: TimeMap, durationFrames: number): TimeMap {
  if (!(durationFrames >= 1 && durationFrames <= 1e9))
    throw new InvalidInput('duration', `${durationFrames} frames is not a length for a clip`);
  const duration = mapDuration(map);
  const lastIndex = map.vertices.length - 1;
  return fittedMap(
    map.vertices.map((v, i) => ({ t: i === lastIndex ? durationFrames : (v.t * durationFrames) / duration, s: v.s })),
    map.bends.map((b) => scaledBend(b, durationFrames / duration)),
  );
}

/** Stretches all alike to `frames` frames, of which the last shows what frame `own` − 1 does now; `own` need not be whole. */
export function fitFrames(map: TimeMap, own: number, frames: number): TimeMap {
  if (own <= 1 || frames === 1) return fitDuration(map, frames);
  // From frame to frame: what lies past the last one, up to the clip's edge, is no content.
  const fitted = fitDuration(map, (mapDuration(map) * (frames - 1)) / (own - 1));
  return mapDuration(fitted) - frames > 1 / 64 ? splitMap(fitted, frames)[0] : fitted;
}

/**
 * Moves vertex `index` towards (t, s) and keeps what `drag` says. Time stays between its neighbours; the first vertex
 * keeps t = 0, and dragging the last one changes the clip's length. Along a reach, t decides and s follows.
 */
export function moveVertex(map: TimeMap, index: number, to: Vertex, drag: VertexDrag = 'free'): TimeMap {
  const { vertices } = map;
  const from = vertices[index];
  if (!from) throw new InvalidInput('vertex', `there is no vertex ${index}`);
  const low = index === 0 ? 0 : vertices[index - 1]!.t + MIN_VERTEX_FRAMES;
  const high = index === 0 ? 0 : index === vertices.length - 1 ? 1e9 : vertices[index + 1]!.t - MIN_VERTEX_FRAMES;
  const t = Math.min(Math.max(to.t, low), high);
  let s = to.s;
  if (drag === 'left' && index > 0) s = from.s + (t - from.t) * reachSlope(map, index - 1);
  if (drag === 'right' && index < vertices.length - 1) s = from.s + (t - from.t) * reachSlope(map, index);
  return fittedMap(
    vertices.map((v, i) => (i === index ? { t, s } : v)),
    map.bends,
  );
}

/**
 * Moves an interior vertex along the reach before it to `t`, as far as there is room: both speeds beside it stay, and all others. With
 * `content` what follows shows the source frames it showed, earlier or later; with `slot` it stays where it is and shows others.
 */
export function slideVertex(map: TimeMap, index: number, t: number, keep: Keep): TimeMap {
  checkInterior(map, index);
  const { vertices } = map;
  const [from, next] = [vertices[index]!, vertices[index + 1]!];
  const [before, after] = [reachSlope(map, index - 1), reachSlope(map, index)];
  // What a freeze holds changes with where it begins: nothing after it can keep its content.
  const slides = keep === 'content' && after !== 0;
  const low = vertices[index - 1]!.t + MIN_VERTEX_FRAMES;
  const room = next.t - from.t - MIN_VERTEX_FRAMES;
  // The reach behind it loses, or gains, what the vertex passes of the source.
  const ratio = slides ? before / after : 1;
  const high = ratio > 0 ? from.t + room / ratio : Infinity;
  const least = ratio < 0 ? Math.max(low, from.t + room / ratio) : low;
  const by = Math.min(Math.max(t, least), high) - from.t;
  const moved = slides ? { t: by * (1 - ratio), s: 0 } : { t: 0, s: by * (before - after) };
  return fittedMap(
    vertices.map((v, i) => {
      if (i < index) return v;
      if (i === index) return { t: from.t + by, s: from.s + by * before };
      return { t: v.t + moved.t, s: v.s + moved.s };
    }),
    map.bends,
  );
}

/**
 * Puts a vertex on the curve at t and gives it a bend, so that the reach there becomes two of the same speed: nothing
 * moves until one of them does. Refused inside another bend's window, where there is no reach to divide.
 */
export function addVertex(map: TimeMap, t: number, bend: Bend = HARD): { map: TimeMap; index: number } {
  if (!(t >= MIN_VERTEX_FRAMES && t <= mapDuration(map) - MIN_VERTEX_FRAMES))
    throw new InvalidInput('bend', 'a bend must sit inside the clip, not at its ends');
  const near = map.vertices.findIndex((v) => Math.abs(v.t - t) < MIN_VERTEX_FRAMES);
  if (near >= 0) throw new InvalidInput('bend', `there is a bend at ${map.vertices[near]!.t} already`);
  const index = map.vertices.findIndex((v) => v.t > t);
  const a = map.vertices[index - 1]!;
  const onReach = a.s + (t - a.t) * reachSlope(map, index - 1);
  if (Math.abs(positionAt(map, t) - onReach) > 1e-9 * Math.max(1, Math.abs(onReach)))
    throw new InvalidInput('bend', `frame ${t} lies inside another bend; narrow that one first`);
  // Neighbouring bends keep their widths: the new one takes only the room they leave.
  const grown = {
    vertices: map.vertices.toSpliced(index, 0, { t, s: onReach }),
    bends: map.bends.toSpliced(index, 0, HARD),
  };
  return { map: setBend(grown, index, bend), index };
}

/** Takes an interior vertex out; the two reaches become one. */
export function removeVertex(map: TimeMap, index: number): TimeMap {
  checkInterior(map, index);
  return fittedMap(map.vertices.toSpliced(index, 1), map.bends.toSpliced(index, 1));
}

/** The widest bend that fits at a vertex while its neighbours keep their widths. Timeline frames. */
export function widestBend(map: TimeMap, index: number, ease: Ease): number {
  checkInterior(map, index);
  const { mean } = easeCurve(ease);
  const before = bendWindow(map, index - 1).to;
  const after = bendWindow(map, index + 1).from;
  const { t } = map.vertices[index]!;
  return Math.max(
    0,
    Math.min(mean < 1 ? (t - before) / (1 - mean) : Infinity, mean > 0 ? (after - t) / mean : Infinity),
  );
}

/** Sets the width and shape of the bend at an interior vertex; a width past the room there is cut to it. Moves nothing outside its window. */
export function setBend(map: TimeMap, index: number, change: Partial<Bend>): TimeMap {
  checkInterior(map, index);
  // A width that is said is what it gets; with another shape it keeps waiting for the one it had.
  const { wanted, ...had } = map.bends[index]!;
  const bend: Bend = { ...had, ...(change.widthFrames === undefined && wanted !== undefined && { wanted }), ...change };
  if (!(bend.widthFrames >= 0)) throw new InvalidInput('width', 'the width of a bend must be 0 or more frames');
  const widthFrames = Math.min(bend.widthFrames, widestBend(map, index, bend.ease));
  return fittedMap(map.vertices, map.bends.with(index, { ...bend, widthFrames }));
}

/**
 * Gives both ends of a reach the same width and matching shapes: what leads in, mirrored, leads out. An end of the clip
 * has no bend. Each width is cut to the room there is.
 */
export function setReachBends(map: TimeMap, reach: number, { widthFrames, ease }: Bend): TimeMap {
  checkReach(map, reach);
  const last = map.vertices.length - 1;
  const into = reach > 0 ? setBend(map, reach, { widthFrames, ease }) : map;
  return reach + 1 < last ? setBend(into, reach + 1, { widthFrames, ease: mirrorEase(ease) }) : into;
}

/**
 * Plays the clip's frames the other way round: frame k shows what frame N−1−k showed, for a clip of N frames.
 * An ease from v₀ to v₁ becomes the mirrored ease, so every bend keeps its feel.
 */
export function reverseMap(map: TimeMap): TimeMap {
  const count = Math.ceil(mapDuration(map) - TIME_EPSILON);
  // Sample N−1 becomes sample 0, so the edge past it is cut and one step before the old start is added.
  const pivot = count - 1;
  const first = map.vertices[0]!;
  const firstSlope = reachSlope(map, 0);
  const kept = map.vertices
    .map((v, i) => ({ v, bend: map.bends[i]! }))
    .filter(({ v }, i) => i > 0 && v.t < pivot - MIN_VERTEX_FRAMES);
  const head: Vertex = { t: 0, s: count > 1 ? positionAt(map, pivot) : first.s };
  const tail: Vertex = { t: count, s: first.s - firstSlope };
  return turnedMap(
    [head, ...kept.reverse().map(({ v }) => ({ t: pivot - v.t, s: v.s })), tail],
    [HARD, ...kept.map(({ bend }) => ({ ...bend, ease: mirrorEase(bend.ease) })), HARD],
  );
}

/** The ease E′(u) = 1 − E(1−u): the same change of speed seen backwards. */
export function mirrorEase(ease: Ease): Ease {
  if (ease === 'early') return 'late';
  if (ease === 'late') return 'early';
  if (typeof ease === 'string') return ease;
  const [x1, y1, x2, y2] = ease;
  return [1 - x2, 1 - y2, 1 - x1, 1 - y1];
}

function checkReach(map: TimeMap, reach: number): void {
  if (!Number.isInteger(reach) || reach < 0 || reach >= reachCount(map))
    throw new InvalidInput('reach', `there is no reach ${reach}`);
}

function checkInterior(map: TimeMap, index: number): void {
  if (!Number.isInteger(index) || index < 1 || index >= map.vertices.length - 1)
    throw new InvalidInput('bend', `vertex ${index} is not an interior vertex, and only those have bends`);
}
