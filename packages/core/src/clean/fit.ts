import { cleanSlope, cleanSlopesNear } from '../cadence/clean-slope.js';
import { positionAt } from '../time-map/evaluate.js';
import {
  type Bend,
  bendWindow,
  checkTimeMap,
  clampBends,
  HARD,
  MIN_VERTEX_FRAMES,
  reachSlope,
  TIME_EPSILON,
  type TimeMap,
  type Vertex,
} from '../time-map/time-map.js';
import { assignments } from './assignments.js';
import type { Landing } from './landing.js';
import { placeOnReaches, type Places, type PlacesChoice } from './place-vertices.js';
import { slopesOf } from './reference.js';

/** No neighbouring speed is tried that is farther than this factor from the one a length asks for. */
const WIDEST_RATIO = 2;

/** How wide the bend between two speeds is where there is room, timeline frames. */
const SPLIT_BEND = 8;

/** What an octave between the two speeds counts, against a share of 1 of frames that have to be made. */
const OCTAVE = 0.35;

/** What a share of 1 of frames that have to be made counts, against an octave. */
const MADE = 0.6;

/** What it is worth that one of the two speeds is the one there was. */
const STAYS = 0.1;

/** A part of fewer frames at another speed looks stray, and counts so much. */
const SHORT = 6;
const STRAY = 0.3;

/** What it counts that speed changes at a point itself, where no bend can be. */
const JUMP = 0.3;

/** A reach keeps at least this share of what it would have were all stretched alike. */
const LEAST_SHARE = 0.25;

/** Points of the grid that are looked at for one clip. */
const MAX_NODES = 300;

/** How many clean speeds of the one side are tried. */
const MAX_SPEEDS = 6;

/**
 * A map of so many frames whose first and last frame show what those of `map` do (the last the real frame nearest to it), at speeds of
 * which every reach has as many real frames as it can: its own, changing in other places; else neighbouring ones. A map of one speed gets
 * two, and a place where they change. Locked reaches keep their length and what they show; landings are met. `undefined` where no clean
 * speeds do.
 * @param own how many frames `map` has; need not be whole
 */
export function fitCleanly(
  map: TimeMap,
  own: number,
  frames: number,
  { locked = [], landings = [] }: { locked?: readonly number[]; landings?: readonly Landing[] } = {},
): TimeMap | undefined {
  if (own < 2 || frames < 2) return undefined;
  const [first, last] = [positionAt(map, 0), positionAt(map, own - 1)];
  const slopes = slopesOf(map);
  if (slopes.length === 1) {
    if (locked.length > 0) return undefined;
    const inside = landings.map(({ moment, cue }) => ({ t: cue, s: moment })).sort((a, b) => a.t - b.t);
    return throughCleanly([{ t: 0, s: first }, ...inside, { t: frames - 1, s: last }], slopes[0]!);
  }
  const factor = (own - 1) / (frames - 1);
  const isClean = slopes.every((slope, i) => slope === 0 || locked.includes(i) || cleanSlope(slope));
  const others = snapped(map, slopes, factor, locked);
  return (isClean ? [slopes, ...others] : others).reduce<TimeMap | undefined>(
    (found, speeds) => found ?? placed(map, own, frames, speeds, locked, landings),
    undefined,
  );
}

/**
 * Through points (source positions at timeline frames, the first at 0, the last that of the last frame) at clean slopes. Between two of
 * them one slope where that is exact, else two, the one there was before (`was`) among them where it serves: of all pairs the one with
 * the fewest frames to be made and the smallest change. What differs from `was` lies at the outer ends, or amid two points. An end that is
 * no whole frame is the one nearest to it. `undefined` where the points turn or lie
 * within a frame of one another, or no clean slopes lead through them.
 */
function throughCleanly(points: readonly Vertex[], was: number): TimeMap | undefined {
  const last = points.length - 1;
  if (points.some(({ t }, i) => i > 0 && t < points[i - 1]!.t + 1)) return undefined;
  const parts: Part[] = [];
  let first = points[0]!.s;
  for (let i = 1; i <= last; i++) {
    const [from, to] = [points[i - 1]!, points[i]!];
    // Where it is not exact as it is, an end is the real frame nearest to it.
    const isExact = Math.abs(to.s - from.s - was * (to.t - from.t)) < 1e-7;
    const whole = (point: Vertex, isEnd: boolean) => (isEnd && !isExact ? { ...point, s: Math.round(point.s) } : point);
    const [start, end] = [whole(from, i === 1), whole(to, i === last)];
    if (i === 1) first = start.s;
    const pair = pairFor(start, end, was, last > 1);
    if (!pair) return undefined;
    const [stays, other] = pair;
    if (other.frames === 0) parts.push(stays);
    else if (i === last) parts.push(stays, other);
    else if (i === 1) parts.push(other, stays);
    else parts.push({ ...stays, frames: stays.frames / 2 }, other, { ...stays, frames: stays.frames / 2 });
  }
  const reaches = parts.reduce<Part[]>((all, part) => {
    const before = all.at(-1);
    if (!before || Math.abs(before.slope - part.slope) > 1e-9) return [...all, part];
    return [...all.slice(0, -1), { ...part, frames: before.frames + part.frames }];
  }, []);
  // The last frame is shown for a frame.
  reaches[reaches.length - 1] = { ...reaches.at(-1)!, frames: reaches.at(-1)!.frames + 1 };
  const vertices = reaches.reduce<Vertex[]>(
    (all, { slope, frames }) => [...all, { t: all.at(-1)!.t + frames, s: all.at(-1)!.s + slope * frames }],
    [{ t: points[0]!.t, s: first }],
  );
  vertices[vertices.length - 1] = { ...vertices.at(-1)!, t: points[last]!.t + 1 };
  // No bend reaches a point.
  const bends = vertices.map(({ t }, i): Bend => {
    if (i === 0 || i === vertices.length - 1) return HARD;
    const away = Math.min(...points.map((point) => Math.abs(point.t - t)));
    return { widthFrames: Math.min(SPLIT_BEND, 2 * away), ease: 'soft' };
  });
  return checkTimeMap(clampBends({ vertices, bends }));
}

interface Part {
  readonly slope: number;
  readonly frames: number;
}

/**
 * The slopes that lead from one point to another, and for how long each; the one there was first, or else the nearer to it, which is the one
 * that meets what lies beyond a point (`joined`).
 */
function pairFor(from: Vertex, to: Vertex, was: number, joined: boolean): readonly [Part, Part] | undefined {
  const [run, way] = [to.t - from.t, to.s - from.s];
  const mean = way / run;
  if (mean * was <= 0) return undefined;
  const same = [mean, was].find((slope) => Math.abs(slope - mean) * run < 1e-7 && cleanSlope(slope));
  if (same !== undefined)
    return [
      { slope: same, frames: run },
      { slope: same, frames: 0 },
    ];
  const near = cleanSlopesNear(mean, WIDEST_RATIO);
  const slower = near.filter((slope) => Math.abs(slope) < Math.abs(mean)).slice(0, MAX_SPEEDS);
  const faster = near.filter((slope) => Math.abs(slope) > Math.abs(mean)).slice(0, MAX_SPEEDS);
  if (cleanSlope(was)) (Math.abs(was) < Math.abs(mean) ? slower : faster).push(was);
  const pairs = slower.flatMap((a) =>
    faster.flatMap((b) => {
      const octaves = (slope: number) => Math.abs(Math.log2(slope / was));
      const [v, w] = octaves(b) < octaves(a) ? [b, a] : [a, b];
      const t = (way - w * run) / (v - w);
      if (t < MIN_VERTEX_FRAMES || run - t < MIN_VERTEX_FRAMES) return [];
      const made = (slope: number) => 1 - 1 / cleanSlope(slope)!.q;
      const cost =
        (made(v) * t + made(w) * (run - t)) / run +
        OCTAVE * Math.log2(b / a) ** 2 +
        (Math.min(t, run - t) < SHORT ? STRAY : 0) +
        (joined && octaves(v) > 1e-9 ? JUMP + OCTAVE * octaves(v) ** 2 : 0) -
        (v === was || w === was ? STAYS : 0);
      return [{ v, w, t, cost }];
    }),
  );
  const best = pairs.reduce<(typeof pairs)[number] | undefined>((a, b) => (a && a.cost <= b.cost ? a : b), undefined);
  if (!best) return undefined;
  return [
    { slope: best.v, frames: best.t },
    { slope: best.w, frames: run - best.t },
  ];
}

/** The map without what of its last frame lies past the source's end; its frames stay. */
export function endedWithin(map: TimeMap, sourceFrames: number): TimeMap {
  const last = map.vertices.length - 1;
  const { t, s } = map.vertices[last]!;
  const over = s - sourceFrames;
  const slope = reachSlope(map, last - 1);
  if (over <= 0 || slope <= 0) return map;
  const end = t - over / slope;
  // No shorter by a frame, and not into the bend before.
  if (Math.ceil(end - TIME_EPSILON) < Math.ceil(t - TIME_EPSILON) || end < bendWindow(map, last - 1).to) return map;
  return { ...map, vertices: map.vertices.with(last, { t: end, s: sourceFrames }) };
}

/** Ways to have every reach at a clean slope near what stretching all alike would make of it. */
export function snapped(
  map: TimeMap,
  slopes: readonly number[],
  factor: number,
  locked: readonly number[],
): number[][] {
  const choices = slopes.map((slope, i): readonly number[] => {
    if (slope === 0 || locked.includes(i)) return [slope];
    const wanted = slope * factor;
    if (cleanSlope(wanted)) return [wanted];
    const cost = (other: number) => Math.abs(Math.log2(other / wanted)) + MADE * (1 - 1 / cleanSlope(other)!.q);
    return cleanSlopesNear(wanted, WIDEST_RATIO)
      .slice(0, 2 * MAX_SPEEDS)
      .sort((a, b) => cost(a) - cost(b));
  });
  const nearest = choices.map((list) => list[0]!);
  // The longest reach has the most room to make up for what the others are off by.
  const long = (i: number) => map.vertices[i + 1]!.t - map.vertices[i]!.t;
  const byLength = slopes.map((_, i) => i).sort((a, b) => long(b) - long(a));
  return [
    nearest,
    ...byLength.slice(0, 2).flatMap((i) => choices[i]!.slice(1, 4).map((slope) => nearest.with(i, slope))),
  ].filter((speeds) => speeds.every((slope) => slope !== undefined));
}

/** The map at these speeds, so many frames long, with the places where they change found. */
function placed(
  map: TimeMap,
  own: number,
  frames: number,
  slopes: readonly number[],
  locked: readonly number[],
  landings: readonly Landing[],
): TimeMap | undefined {
  const vertices = stretchedAbout(map, own, frames, slopes, locked);
  if (!vertices) return undefined;
  const frozenEnd = slopes.at(-1) === 0;
  // The last frame shows what it did: no bend reaches that far.
  const end = frozenEnd ? [] : [{ moment: lastShown(map, own), cue: frames - 1 }];
  const onReaches = landings.length > 0 ? assignments({ vertices, bends: map.bends }, landings, frames) : [[]];
  const choice: PlacesChoice = {
    ...{ locked, trimIn: 0, trimOut: 0, freeEnd: false, patience: frames },
    budget: { nodes: MAX_NODES },
  };
  const found = onReaches.reduce<Places | undefined>(
    (best, reaches) =>
      placeOnReaches(
        { vertices, bends: map.bends, slopes },
        [...landings, ...end],
        [...reaches, ...end.map(() => slopes.length - 1)],
        choice,
        best,
      ),
    undefined,
  );
  if (!found || found.lost > 1e-9) return undefined;
  const isThere = found.map.vertices
    .slice(1)
    .every(
      ({ t }, i) =>
        locked.includes(i) || t - found.map.vertices[i]!.t >= LEAST_SHARE * (vertices[i + 1]!.t - vertices[i]!.t),
    );
  return isThere && slopesOf(found.map).every((slope, i) => Math.abs(slope - slopes[i]!) < 1e-6)
    ? checkTimeMap(found.map)
    : undefined;
}

/** What the last frame is to show: what it shows, or, where that is made, the real frame nearest to it. */
export function lastShown(map: TimeMap, own: number): number {
  const last = positionAt(map, own - 1);
  const whole = Math.round(last);
  // Not the one before the first.
  return Math.abs(whole - map.vertices[0]!.s) < 1 ? last : whole;
}

/** Where the vertices would lie were all that may give stretched alike; freezes and what is locked keep their length. */
export function stretchedAbout(
  map: TimeMap,
  own: number,
  frames: number,
  slopes: readonly number[],
  locked: readonly number[],
): Vertex[] | undefined {
  const last = slopes.length - 1;
  // From frame to frame: what lies past the last one, up to the clip's edge, is no content.
  const lengths = slopes.map((_, i) => (i === last ? own - 1 : map.vertices[i + 1]!.t) - map.vertices[i]!.t);
  const gives = slopes.map((slope, i) => slope !== 0 && !locked.includes(i));
  const sum = (which: boolean) => lengths.reduce((all, length, i) => all + (gives[i] === which ? length : 0), 0);
  const factor = (frames - 1 - sum(false)) / sum(true);
  if (!(factor > 0) || lengths[last]! <= 0) return undefined;
  const vertices: Vertex[] = [map.vertices[0]!];
  for (const [i, length] of lengths.entries())
    vertices.push({
      t: i === last ? frames : vertices[i]!.t + length * (gives[i] ? factor : 1),
      s: i === last ? lastShown(map, own) + slopes[i]! : map.vertices[i + 1]!.s,
    });
  return vertices;
}
