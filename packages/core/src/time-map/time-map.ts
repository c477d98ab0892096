import { InvalidInput } from '../foundation/errors.js';
import { checkEase, type Ease, easeCurve } from './ease.js';

/** A point of the plane: t in timeline frames from the clip's start, s in source frames. Both may be any real number. */
export interface Vertex {
  readonly t: number;
  readonly s: number;
}

/** A gradual change of speed around an interior vertex. `widthFrames` is in timeline frames; 0 is a hard change. */
export interface Bend {
  readonly widthFrames: number;
  readonly ease: Ease;
  /** The width it was given, where its neighbours leave it less for now. */
  readonly wanted?: number;
}

/** The width it was given. */
export const widthAsked = ({ widthFrames, wanted = widthFrames }: Bend): number => wanted;

/** A bend so many times as wide. */
export const scaledBend = (bend: Bend, factor: number): Bend => ({
  ...bend,
  widthFrames: bend.widthFrames * factor,
  ...(bend.wanted !== undefined && { wanted: bend.wanted * factor }),
});

export const HARD: Bend = { widthFrames: 0, ease: 'soft' };

/**
 * A clip's time map: a polyline of reaches, rounded by bends (see docs/architecture.md).
 * `bends[i]` belongs to `vertices[i]`; the first and the last are always hard.
 * A value: edits make new ones.
 */
export interface TimeMap {
  readonly vertices: readonly Vertex[];
  readonly bends: readonly Bend[];
}

/** Room for rounding in comparisons of timeline positions, in frames. */
export const TIME_EPSILON = 1e-9;

/** Edits keep vertices at least this far apart, in timeline frames. */
export const MIN_VERTEX_FRAMES = 1 / 64;

/** Slope of the reach that starts at vertex i, in source frames per timeline frame. */
export function reachSlope(map: TimeMap, i: number): number {
  const a = map.vertices[i]!;
  const b = map.vertices[i + 1]!;
  return (b.s - a.s) / (b.t - a.t);
}

export function reachCount(map: TimeMap): number {
  return map.vertices.length - 1;
}

/** Length in timeline frames; a real number. */
export function mapDuration(map: TimeMap): number {
  return map.vertices[map.vertices.length - 1]!.t;
}

/** Frames k = 0 … n−1 with k < the last vertex's t. */
export function mapFrameCount(map: TimeMap): number {
  return Math.max(0, Math.ceil(mapDuration(map) - TIME_EPSILON));
}

/** A time map of one reach. */
export function straightMap(durationFrames: number, fromSource: number, toSource: number): TimeMap {
  return {
    vertices: [
      { t: 0, s: fromSource },
      { t: durationFrames, s: toSource },
    ],
    bends: [HARD, HARD],
  };
}

/** The stretch of timeline a bend works on, placed by the equal-area rule: (1−Ē)w before its vertex, Ēw after it. */
export function bendWindow(map: TimeMap, i: number): { from: number; to: number } {
  const { widthFrames, ease } = map.bends[i]!;
  const { t } = map.vertices[i]!;
  if (widthFrames === 0) return { from: t, to: t };
  const { mean } = easeCurve(ease);
  return { from: t - (1 - mean) * widthFrames, to: t + mean * widthFrames };
}

/**
 * Checks a time map that came from outside. Throws `InvalidInput` naming the vertex or bend: fewer than two vertices,
 * t not starting at 0 or not increasing, a value that is not finite, windows that overlap or leave the clip.
 */
export function checkTimeMap(map: TimeMap, field = 'map'): TimeMap {
  const { vertices, bends } = map;
  if (vertices.length < 2) throw new InvalidInput(`${field}.vertices`, 'a map needs at least two vertices');
  if (bends.length !== vertices.length)
    throw new InvalidInput(`${field}.bends`, 'there must be one entry for each vertex');
  vertices.forEach((v, i) => {
    if (!Number.isFinite(v.t) || !Number.isFinite(v.s) || Math.abs(v.t) > 1e12 || Math.abs(v.s) > 1e12)
      throw new InvalidInput(`${field}.vertices[${i}]`, 'both coordinates must be finite numbers below 1e12');
    if (i === 0 && v.t !== 0)
      throw new InvalidInput(`${field}.vertices[0]`, `the first vertex must be at t = 0, not ${v.t}`);
    if (i > 0 && v.t <= vertices[i - 1]!.t)
      throw new InvalidInput(
        `${field}.vertices[${i}]`,
        `t must grow from vertex to vertex, but ${v.t} follows ${vertices[i - 1]!.t}`,
      );
  });
  let free = 0;
  bends.forEach((bend, i) => {
    const at = `${field}.bends at vertex ${i}`;
    checkEase(bend.ease, `${at}, ease`);
    if (!Number.isFinite(bend.widthFrames) || bend.widthFrames < 0)
      throw new InvalidInput(at, 'the width must be 0 or more frames');
    if (bend.wanted !== undefined && !(bend.wanted >= bend.widthFrames && bend.wanted <= 1e9))
      throw new InvalidInput(at, 'the width it waits for must be no less than the one it has');
    if (bend.widthFrames === 0) return;
    if (i === 0 || i === bends.length - 1) throw new InvalidInput(at, 'only interior vertices can have a bend');
    const { from, to } = bendWindow(map, i);
    if (from < free - TIME_EPSILON)
      throw new InvalidInput(
        at,
        `its window starts at ${from.toFixed(3)}, inside what ends at ${free.toFixed(3)}; make it narrower`,
      );
    if (to > mapDuration(map) + TIME_EPSILON)
      throw new InvalidInput(
        at,
        `its window ends at ${to.toFixed(3)}, after the clip's end at ${mapDuration(map)}; make it narrower`,
      );
    free = to;
  });
  return map;
}

/**
 * Narrows bends, each no more than its two neighbours make it, until no windows overlap: what a drag does when it runs out of room. What
 * was narrowed before and has room again gets its width back, neighbours that both want it in like shares.
 */
export function clampBends(map: TimeMap): TimeMap {
  return widened(narrowed(map));
}

/** How much of the reach after vertex i the windows at its two ends take, timeline frames. */
const takenOf = (map: TimeMap, i: number): number =>
  bendWindow(map, i).to - map.vertices[i]!.t + (map.vertices[i + 1]!.t - bendWindow(map, i + 1).from);

function narrowed(map: TimeMap): TimeMap {
  const factor = map.bends.map(() => 1);
  for (let i = 0; i < reachCount(map); i++) {
    const room = map.vertices[i + 1]!.t - map.vertices[i]!.t;
    const taken = takenOf(map, i);
    if (taken > room) {
      factor[i] = Math.min(factor[i]!, room / taken);
      factor[i + 1] = Math.min(factor[i + 1]!, room / taken);
    }
  }
  if (factor.every((f) => f === 1)) return map;
  return {
    ...map,
    bends: map.bends.map((b, i) =>
      factor[i] === 1 || b.widthFrames === 0
        ? b
        : { ...b, widthFrames: b.widthFrames * factor[i]!, wanted: Math.max(b.wanted ?? 0, b.widthFrames) },
    ),
  };
}

function widened(map: TimeMap): TimeMap {
  const missing = map.bends.map(({ widthFrames, wanted = widthFrames }) => Math.max(0, wanted - widthFrames));
  if (!missing.some((width) => width > 0)) return map;
  const share = missing.map(() => 1);
  for (let i = 0; i < reachCount(map); i++) {
    const free = map.vertices[i + 1]!.t - map.vertices[i]!.t - takenOf(map, i);
    const asked =
      missing[i]! * easeCurve(map.bends[i]!.ease).mean + missing[i + 1]! * (1 - easeCurve(map.bends[i + 1]!.ease).mean);
    const given = asked > free + TIME_EPSILON / 2 ? Math.max(0, free / asked) : 1;
    share[i] = Math.min(share[i]!, given);
    share[i + 1] = Math.min(share[i + 1]!, given);
  }
  return {
    ...map,
    bends: map.bends.map((bend, i) => {
      if (missing[i] === 0) return bend;
      const { wanted, ...own } = bend;
      return share[i] === 1
        ? { ...own, widthFrames: wanted! }
        : { ...bend, widthFrames: bend.widthFrames + share[i]! * missing[i]! };
    }),
  };
}

/** The same for an edit that turns a map about: what waits for room waits on, as any width got back would show other frames. */
export function turnedMap(vertices: readonly Vertex[], bends: readonly Bend[]): TimeMap {
  return checkTimeMap(narrowed({ vertices, bends }), 'edit');
}

/** Every bend as wide as it is, waiting for no more. */
export const settledBends = (map: TimeMap): TimeMap => ({
  ...map,
  bends: map.bends.map(({ widthFrames, ease }) => ({ widthFrames, ease })),
});

/** A map as an edit leaves it: bends narrowed to the room there is, then checked. Throws `InvalidInput`. */
export function fittedMap(vertices: readonly Vertex[], bends: readonly Bend[]): TimeMap {
  return checkTimeMap(clampBends({ vertices, bends }), 'edit');
}
