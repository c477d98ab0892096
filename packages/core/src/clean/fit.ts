import { cleanSlope, cleanSlopesNear } from '../cadence/clean-slope.js';
import { positionAt } from '../time-map/evaluate.js';
import { type Bend, checkTimeMap, clampBends, HARD, MIN_VERTEX_FRAMES, type TimeMap, type Vertex } from '../time-map/time-map.js';
import { placeOnReaches, slopesOf } from './place-vertices.js';

/** No neighbouring speed is tried that is farther than this factor from the one a length asks for. */
const WIDEST_RATIO = 2;

/** How wide the bend between two speeds is where there is room, timeline frames. */
const SPLIT_BEND = 8;

/** What an octave between the two speeds counts, against a share of 1 of frames that have to be made. */
const OCTAVE = 0.35;

/** What it is worth that one of the two speeds is the one there was. */
const STAYS = 0.1;

/** A part of fewer frames at another speed looks stray, and counts so much. */
const SHORT = 6;
const STRAY = 0.3;

/** A reach keeps at least this share of what it would have were all stretched alike. */
const LEAST_SHARE = 0.25;

/** Points of the grid that are looked at for one clip. */
const MAX_NODES = 300;

/** How many clean speeds of the one side are tried. */
const MAX_SPEEDS = 6;

/**
 * A map of so many frames whose first and last frame show what those of `map` do (`own`: how many frames it has), at speeds of which every
 * reach has as many real frames as it can: its own, changing in other places; else neighbouring ones. A map of one speed gets two, and a
 * place where they change. `undefined` where no clean speeds do. Locked reaches keep their length and what they show.
 */
export function fitCleanly(
  map: TimeMap,
  own: number,
  frames: number,
  locked: readonly number[] = [],
): TimeMap | undefined {
  if (own < 2 || frames < 2) return undefined;
  const [first, last] = [positionAt(map, 0), positionAt(map, own - 1)];
  const slopes = slopesOf(map);
  if (slopes.length === 1) return locked.length > 0 ? undefined : splitCleanly(first, last, frames, slopes[0]!);
  const factor = (own - 1) / (frames - 1);
  return [slopes, ...snapped(map, slopes, factor, locked)].reduce<TimeMap | undefined>(
    (found, speeds) => found ?? placed(map, own, frames, speeds, locked),
    undefined,
  );
}

/**
 * From one source position on the first frame to another on the last, in so many frames, at one clean slope where that is exact, else at two
 * and a bend between them. Of all pairs the one with the fewest frames to be made and the smallest change; `was` is the slope before.
 */
export function splitCleanly(first: number, last: number, frames: number, was: number): TimeMap | undefined {
  const steps = frames - 1;
  const mean = (last - first) / steps;
  if (mean === 0) return undefined;
  const end = (slope: number) => last + slope;
  if (cleanSlope(mean)) return lineTo(frames, first, end(mean));
  const near = [...cleanSlopesNear(mean, WIDEST_RATIO), ...(cleanSlope(was) ? [was] : [])];
  const slower = near.filter((slope) => Math.abs(slope) < Math.abs(mean) && slope * mean > 0).slice(0, MAX_SPEEDS);
  const faster = near.filter((slope) => Math.abs(slope) > Math.abs(mean) && slope * mean > 0).slice(0, MAX_SPEEDS);
  const pairs = slower.flatMap((a) =>
    faster.flatMap((b) => {
      // What was there stays first; else it begins slowly.
      const [v, w] = b === was ? [b, a] : [a, b];
      const t = (last - w * steps - first) / (v - w);
      if (t < MIN_VERTEX_FRAMES || steps - t < MIN_VERTEX_FRAMES) return [];
      const made = (slope: number) => 1 - 1 / cleanSlope(slope)!.q;
      const cost =
        (made(v) * t + made(w) * (frames - t)) / frames +
        OCTAVE * Math.log2(b / a) ** 2 +
        (Math.min(t, steps - t) < SHORT ? STRAY : 0) -
        (v === was || w === was ? STAYS : 0);
      return [{ v, w, t, cost }];
    }),
  );
  const best = pairs.reduce<(typeof pairs)[number] | undefined>((a, b) => (a && a.cost <= b.cost ? a : b), undefined);
  if (!best) return undefined;
  const { v, w, t } = best;
  // The last frame is not in the bend.
  const bend: Bend = { widthFrames: Math.min(SPLIT_BEND, 2 * t, 2 * (steps - t)), ease: 'soft' };
  const vertices = [
    { t: 0, s: first },
    { t, s: first + v * t },
    { t: frames, s: end(w) },
  ];
  return checkTimeMap(clampBends({ vertices, bends: [HARD, bend, HARD] }));
}

const lineTo = (frames: number, from: number, to: number): TimeMap => ({
  vertices: [
    { t: 0, s: from },
    { t: frames, s: to },
  ],
  bends: [HARD, HARD],
});

/** Ways to have every reach at a clean slope near what stretching all alike would make of it. */
function snapped(map: TimeMap, slopes: readonly number[], factor: number, locked: readonly number[]): number[][] {
  const choices = slopes.map((slope, i): readonly number[] => {
    if (slope === 0 || locked.includes(i)) return [slope];
    const wanted = slope * factor;
    if (cleanSlope(wanted)) return [wanted];
    const away = (other: number) => Math.abs(Math.log(other / wanted));
    return cleanSlopesNear(wanted, WIDEST_RATIO)
      .slice(0, 2 * MAX_SPEEDS)
      .sort((a, b) => away(a) - away(b));
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
): TimeMap | undefined {
  const vertices = stretchedAbout(map, own, frames, slopes, locked);
  if (!vertices) return undefined;
  const frozenEnd = slopes.at(-1) === 0;
  const found = placeOnReaches(
    { vertices, bends: map.bends, slopes },
    // The last frame shows what it did: no bend reaches that far.
    frozenEnd ? [] : [{ moment: positionAt(map, own - 1), cue: frames - 1 }],
    frozenEnd ? [] : [slopes.length - 1],
    { ...{ locked, trimIn: 0, trimOut: 0, freeEnd: false, patience: frames }, budget: { nodes: MAX_NODES } },
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
    ? found.map
    : undefined;
}

/** Where the vertices would lie were all that may give stretched alike; freezes and what is locked keep their length. */
function stretchedAbout(
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
      s: i === last ? positionAt(map, own - 1) + slopes[i]! : map.vertices[i + 1]!.s,
    });
  return vertices;
}
