import { InvalidInput } from '../foundation/errors.js';
import { type Ease, easeCurve, splitEase } from './ease.js';
import { positionAt, slopeAt } from './evaluate.js';
import {
  type Bend,
  bendWindow,
  checkTimeMap,
  HARD,
  mapDuration,
  reachSlope,
  TIME_EPSILON,
  type TimeMap,
  type Vertex,
} from './time-map.js';

/** Windows this much inside a bend are divided; less is the bend's edge. Timeline frames. */
const EDGE = 1e-6;

/**
 * The map before timeline frame `at` and the map from it on, the second starting at its own 0. Nothing moves, inside a
 * bend neither: its two parts become bends of their own. Throws `InvalidInput` at the clip's ends and in a bend whose
 * shape cannot be divided there.
 */
export function splitMap(map: TimeMap, at: number): readonly [before: TimeMap, after: TimeMap] {
  if (!(at >= 1 / 64 && at <= mapDuration(map) - 1 / 64))
    throw new InvalidInput('split', `frame ${at} is not inside the clip, which runs from 0 to ${mapDuration(map)}`);
  const { vertices, bends } = map;
  const s = positionAt(map, at);
  const bend = bends.findIndex((_, i) => bendWindow(map, i).from < at - EDGE && bendWindow(map, i).to > at + EDGE);
  const parts = bend < 0 ? { before: [], after: [] } : divideBend(map, bend, at);
  const lefts = vertices.flatMap((v, i): Part[] => (i !== bend && v.t < at - TIME_EPSILON ? [[v, bends[i]!]] : []));
  const rights = vertices.flatMap((v, i): Part[] =>
    i !== bend && v.t > at + TIME_EPSILON ? [[{ t: v.t - at, s: v.s }, bends[i]!]] : [],
  );
  return [
    fromParts([...lefts, ...parts.before, [{ t: at, s }, HARD]]),
    fromParts([[{ t: 0, s }, HARD], ...parts.after, ...rights]),
  ];
}

type Part = readonly [Vertex, Bend];

function fromParts(parts: readonly Part[]): TimeMap {
  return checkTimeMap({ vertices: parts.map(([v]) => v), bends: parts.map(([, b]) => b) }, 'split');
}

/** A bend's two parts, each around the vertex the equal-area rule gives it. */
function divideBend(map: TimeMap, i: number, at: number): { before: Part[]; after: Part[] } {
  const { widthFrames, ease } = map.bends[i]!;
  const { from, to } = bendWindow(map, i);
  const [before, after] = dividedEase(ease, (at - from) / widthFrames, i, at);
  const place = (start: number, end: number, part: Ease, slope: number): Vertex => {
    const t = start + (1 - easeCurve(part).mean) * (end - start);
    return { t, s: positionAt(map, start) + slope * (t - start) };
  };
  const left = place(from, at, before, reachSlope(map, i - 1));
  const right = place(at, to, after, slopeAt(map, at));
  return {
    before: [[left, { widthFrames: at - from, ease: before }]],
    after: [
      [
        { t: right.t - at, s: right.s },
        { widthFrames: to - at, ease: after },
      ],
    ],
  };
}

function dividedEase(ease: Ease, u: number, i: number, at: number) {
  try {
    return splitEase(ease, u);
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    throw new InvalidInput(
      'split',
      `the shape of bend ${i} cannot be divided at frame ${at}; split beside the bend, or give it another shape`,
    );
  }
}

/**
 * One map that plays `before` and then `after`. Where they meet at the same speed no vertex is left. Throws
 * `InvalidInput` when the second does not go on at the source position the first ends with.
 */
export function concatMaps(before: TimeMap, after: TimeMap): TimeMap {
  const end = before.vertices.at(-1)!;
  const start = after.vertices[0]!;
  if (Math.abs(end.s - start.s) > 1e-6)
    throw new InvalidInput(
      'join',
      `the second goes on at source ${start.s.toFixed(2)}, but the first ends at ${end.s.toFixed(2)}; only clips that continue each other can be one`,
    );
  const [into, outOf] = [reachSlope(before, before.vertices.length - 2), reachSlope(after, 0)];
  const smooth = Math.abs(into - outOf) <= 1e-7 * Math.max(1, Math.abs(into));
  const head = before.vertices.length - (smooth ? 1 : 0);
  return checkTimeMap(
    {
      vertices: [
        ...before.vertices.slice(0, head),
        ...after.vertices.slice(1).map((v) => ({ t: v.t + end.t, s: v.s })),
      ],
      bends: [...before.bends.slice(0, head), ...after.bends.slice(1)],
    },
    'join',
  );
}
