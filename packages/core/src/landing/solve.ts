import type { Landing, SlopeLimits } from '../clean/landing.js';
import { type Box, insidePoint, leastInside } from '../foundation/barrier.js';
import { InvalidInput } from '../foundation/errors.js';
import { affineSolutions } from '../foundation/linear.js';
import { WHOLE_FRAME_TOLERANCE } from '../sampling/sample.js';
import { easeCurve } from '../time-map/ease.js';
import { addVertex } from '../time-map/edit.js';
import { positionAt } from '../time-map/evaluate.js';
import {
  type Bend,
  bendWindow,
  checkTimeMap,
  MIN_VERTEX_FRAMES,
  mapDuration,
  reachSlope,
  type TimeMap,
} from '../time-map/time-map.js';
import { speedChange } from './change.js';
import { influence } from './influence.js';

export interface SolveChoice {
  readonly limits: SlopeLimits;
  /** Reaches whose speed is kept, by index. */
  readonly locked: readonly number[];
  /** The clip's end gives: the last reach keeps its content and takes as long as it needs. */
  readonly freeEnd: boolean;
  /** How much evenness of the change counts against its size, in timeline frames. */
  readonly smoothing: number;
}

export const SOLVE_DEFAULTS: SolveChoice = {
  limits: { slowest: 1e-4, fastest: 1e5 },
  locked: [],
  freeEnd: false,
  smoothing: 12,
};

export interface Solved {
  readonly map: TimeMap;
  /** What the change costs (see `speedChange`). */
  readonly cost: number;
}

/** How wide a bend is where a landing has to divide a reach, timeline frames. */
const NEW_BEND: Bend = { widthFrames: 12, ease: 'soft' };

/** Slopes below this are freezes, whatever rounding left in them. */
const STILL = 1e-12;

/** Cost of a timeline frame whose speed changes by a factor of √2: up to that on average no reach is divided. */
const MODEST_COST_PER_FRAME = (Math.LN2 / 2) ** 2;

/**
 * Moves a map's vertices up and down so that it passes exactly through every landing, in a bend or out of it, with
 * the speeds changed as little and as evenly as can be. Vertex times, bends, signs, freezes and locked speeds stay; so do
 * the first vertex and, unless `freeEnd`, the last. Only where that does not do, a reach is divided at a landing, or a
 * bend that covers one is narrowed. `undefined` when no speeds within the limits meet all of them.
 */
export function solveLandings(
  map: TimeMap,
  landings: readonly Landing[],
  choice: SolveChoice = SOLVE_DEFAULTS,
): Solved | undefined {
  checkLandings(map, landings);
  const plain = solveSpeeds(map, landings, choice, choice.locked);
  if (plain && plain.cost <= MODEST_COST_PER_FRAME * mapDuration(map)) return plain;
  const divided = withDivisions(map, landings, choice);
  const better = divided && solveSpeeds(divided.map, landings, choice, divided.locked);
  if (plain && !(better && better.cost < plain.cost / 2)) return plain;
  if (better) return better;
  const narrowed = withDivisions(narrowBends(map, landings), landings, choice);
  return narrowed && solveSpeeds(narrowed.map, landings, choice, narrowed.locked);
}

export function checkLandings(map: TimeMap, landings: readonly Landing[]): void {
  landings.forEach(({ moment, cue }, i) => {
    const field = `landings[${i}]`;
    if (!Number.isFinite(moment)) throw new InvalidInput(`${field}.moment`, 'must be a source frame');
    if (!(cue >= 0 && cue <= mapDuration(map)))
      throw new InvalidInput(
        `${field}.cue`,
        `frame ${cue} is not in the map, which runs from 0 to ${mapDuration(map)}`,
      );
    const twin = landings.findIndex((other, j) => j < i && other.cue === cue && other.moment !== moment);
    if (twin >= 0)
      throw new InvalidInput(field, `frame ${cue} cannot show both ${landings[twin]!.moment} and ${moment}`);
  });
}

/** The best speeds for fixed vertex times and bends. */
function solveSpeeds(
  map: TimeMap,
  landings: readonly Landing[],
  { limits, freeEnd, smoothing }: SolveChoice,
  locked: readonly number[],
): Solved | undefined {
  const count = map.vertices.length - 1;
  const slopes = Float64Array.from({ length: count }, (_, i) => reachSlope(map, i));
  const free = Array.from({ length: count }, (_, i) => i).filter(
    (i) => Math.abs(slopes[i]!) > STILL && !locked.includes(i),
  );
  const start = map.vertices[0]!.s;
  const end = map.vertices[count]!;
  const targets = [...landings.map(({ moment, cue }) => ({ t: cue, s: moment })), ...(freeEnd ? [] : [end])];
  const weights = targets.map(({ t }) => influence(map, t));
  const rows = weights.map((weight) => Float64Array.from(free, (i) => weight[i]! * Math.sign(slopes[i]!)));
  const wanted = targets.map(
    ({ s }, j) =>
      s - start - slopes.reduce((sum, slope, i) => (free.includes(i) ? sum : sum + slope * weights[j]![i]!), 0),
  );
  const set = affineSolutions(rows, wanted, free.length);
  if (!set) return undefined;
  const magnitudes = Float64Array.from(free, (i) => Math.abs(slopes[i]!));
  const slack = 1e-9;
  const box: Box = {
    low: magnitudes.map(() => limits.slowest * (1 - slack)),
    high: magnitudes.map(() => limits.fastest * (1 + slack)),
    scale: magnitudes,
  };
  const cost = speedChange({
    frames: Float64Array.from(free, (i) => map.vertices[i + 1]!.t - map.vertices[i]!.t),
    before: magnitudes,
    neighbours: free.flatMap((i, a) => (free[a + 1] === i + 1 ? [[a, a + 1] as const] : [])),
    besideKept: free.flatMap((i, a) => [i - 1, i + 1].filter((j) => locked.includes(j)).map(() => a)),
    smoothing,
  });
  const inside = free.length === 0 ? new Float64Array(0) : insidePoint(set, box);
  if (!inside) return undefined;
  const speeds = leastInside(cost, set, box, inside);
  const solved = withSlopes(
    map,
    slopes.map((slope, i) => (free.includes(i) ? Math.sign(slope) * speeds[free.indexOf(i)]! : slope)),
    freeEnd,
  );
  const met = landings.every(
    ({ moment, cue }) =>
      Math.abs(positionAt(solved, Math.min(cue, mapDuration(solved))) - moment) <= WHOLE_FRAME_TOLERANCE,
  );
  return met ? { map: solved, cost: free.length === 0 ? 0 : cost.value(speeds) } : undefined;
}

/** The map with these slopes and the same vertex times; a fixed end is put back exactly, a free one moves in time to where its content ends. */
function withSlopes(map: TimeMap, slopes: Float64Array, freeEnd: boolean): TimeMap {
  const last = map.vertices.length - 1;
  let s = map.vertices[0]!.s;
  const vertices = map.vertices.map((v, i) => {
    if (i > 0) s += slopes[i - 1]! * (v.t - map.vertices[i - 1]!.t);
    return { t: v.t, s };
  });
  const end = map.vertices[last]!;
  if (!freeEnd) {
    vertices[last] = end;
    // A freeze up to the end holds its very frame, whatever the sum above was rounded to.
    for (let i = last - 1; i > 0 && slopes[i] === 0; i--) vertices[i] = { ...vertices[i]!, s: end.s };
  } else {
    const before = vertices[last - 1]!;
    const slope = slopes[last - 1]!;
    const room = Math.max(MIN_VERTEX_FRAMES, bendWindow(map, last - 1).to - before.t);
    const run = slope === 0 ? end.t - before.t : (end.s - before.s) / slope;
    // Where the content is used up before the last bend is over, the clip ends with that bend.
    vertices[last] = run >= room ? { t: before.t + run, s: end.s } : { t: before.t + room, s: before.s + slope * room };
  }
  return checkTimeMap({ vertices, bends: map.bends }, 'landing');
}

/** Divides the free, moving reaches that hold landings there; the locked reaches' new numbers come along. */
function withDivisions(
  map: TimeMap,
  landings: readonly Landing[],
  { locked }: SolveChoice,
): { map: TimeMap; locked: readonly number[] } | undefined {
  let current = { map, locked };
  for (const { cue } of landings) {
    const reach = current.map.vertices.findIndex((v) => v.t > cue) - 1;
    if (reach < 0 || current.locked.includes(reach) || reachSlope(current.map, reach) === 0) continue;
    try {
      const { map: grown, index } = addVertex(current.map, cue, NEW_BEND);
      current = { map: grown, locked: current.locked.map((i) => (i >= index ? i + 1 : i)) };
    } catch (error) {
      // At a vertex or inside a bend there is nothing to divide.
      if (!(error instanceof InvalidInput)) throw error;
    }
  }
  return current.map === map ? undefined : current;
}

/** Bends that cover a landing away from their vertex made just narrow enough to leave it outside. */
function narrowBends(map: TimeMap, landings: readonly Landing[]): TimeMap {
  const bends = map.bends.map((bend, i) => {
    const { from, to } = bendWindow(map, i);
    const { t } = map.vertices[i]!;
    const { mean } = easeCurve(bend.ease);
    const widths = landings.flatMap(({ cue }) => {
      if (cue <= from || cue >= to) return [];
      const share = cue < t ? 1 - mean : mean;
      return share > 0 ? [Math.max(0, (Math.abs(cue - t) - MIN_VERTEX_FRAMES) / share)] : [];
    });
    return widths.length === 0 && bend.wanted === undefined
      ? bend
      : { ease: bend.ease, widthFrames: Math.min(bend.widthFrames, ...widths) };
  });
  return { ...map, bends };
}
