import type { Landing } from '../clean/landing.js';
import { positionAt } from '../time-map/evaluate.js';
import { appearances } from '../time-map/inverse.js';
import { mapDuration, type TimeMap } from '../time-map/time-map.js';
import { checkLandings, SOLVE_DEFAULTS, type SolveChoice, solveLandings } from './solve.js';

/** Landings that cannot all be met, and the nearest cues at which they can. */
export interface Conflict {
  /** Indices of the landings; a single one is at odds with the clip's own ends, locks or limits. */
  readonly landings: readonly number[];
  /** By how many timeline frames they miss: the largest shift of a cue in the offer. */
  readonly frames: number;
  /** The nearest cues found at which these landings are met; none within the clip leaves it out. */
  readonly offer: { readonly cues: readonly number[] } | undefined;
  /** They could be met, but then so many more frames would ask for source that is not there. */
  readonly lacks?: number;
}

export interface Answer {
  /** All landings met, or, with conflicts, as many as the offers can be met with; else the map as it was. */
  readonly map: TimeMap;
  readonly conflicts: readonly Conflict[];
}

/**
 * Solves, and where that cannot be, says which landings are at odds, by how much, and what would do. Without `offers` the search
 * for what would do, which takes many times as long, is left out; by how much is then an estimate at the map's mean speed.
 */
export function land(
  map: TimeMap,
  landings: readonly Landing[],
  choice: SolveChoice = SOLVE_DEFAULTS,
  offers = true,
): Answer {
  checkLandings(map, landings);
  if (landings.length === 0) return { map, conflicts: [] };
  const solved = solveLandings(map, landings, choice);
  if (solved) return { map: solved.map, conflicts: [] };
  const groups = smallestConflicts(map, landings, choice);
  const conflicts = groups.map((group): Conflict => {
    const some = group.map((i) => landings[i]!);
    const cues = offers ? nearestCues(map, some, choice) : undefined;
    return {
      landings: group,
      frames: cues ? Math.max(...cues.map((c, i) => Math.abs(c - some[i]!.cue))) : Math.ceil(missedBy(map, some)),
      offer: cues && { cues },
    };
  });
  const all = offers ? nearestCues(map, landings, choice) : undefined;
  const nearest =
    all &&
    solveLandings(
      map,
      landings.map((l, i) => ({ ...l, cue: all[i]! })),
      choice,
    );
  return { map: nearest?.map ?? map, conflicts };
}

/** Single landings that cannot be met alone, else pairs of neighbours in time, else all of them. */
function smallestConflicts(map: TimeMap, landings: readonly Landing[], choice: SolveChoice): number[][] {
  const fails = (group: readonly number[]) =>
    !solveLandings(
      map,
      group.map((i) => landings[i]!),
      choice,
    );
  const order = landings.map((_, i) => i).sort((a, b) => landings[a]!.cue - landings[b]!.cue);
  const single = order.filter((i) => fails([i])).map((i) => [i]);
  const alone = new Set(single.flat());
  const rest = order.filter((i) => !alone.has(i));
  const pairs = rest
    .slice(1)
    .map((i, n) => [rest[n]!, i])
    .filter(fails);
  const found = [...single, ...pairs];
  return found.length > 0 ? found : [order];
}

const FARTHEST = 4096;

/**
 * Cues near the wanted ones at which the landings can be met: all of them eased toward where the map shows the moments
 * now, where nothing has to change, by as little as bisection finds; then each put back toward its own cue, frame by
 * frame halved, while the rest stay met.
 */
function nearestCues(map: TimeMap, landings: readonly Landing[], choice: SolveChoice): number[] | undefined {
  const natural = landings.map(({ moment, cue }) => naturalCue(map, moment, cue));
  if (natural.some((c) => c === undefined)) return undefined;
  const meets = (cues: readonly number[]) => {
    const moved = landings.map((l, i) => ({ ...l, cue: cues[i]! }));
    const clash = moved.some((a, i) => moved.some((b, j) => j < i && a.cue === b.cue && a.moment !== b.moment));
    return !clash && solveLandings(map, moved, choice) !== undefined;
  };
  const between = (u: number) => landings.map(({ cue }, i) => Math.round(cue + (natural[i]! - cue) * u));
  if (!meets(between(1))) return undefined;
  let [low, high] = [0, 1];
  for (let i = 0; i < 12; i++) {
    const middle = (low + high) / 2;
    if (meets(between(middle))) high = middle;
    else low = middle;
  }
  const cues = between(high);
  for (const i of cues
    .map((_, n) => n)
    .sort((a, b) => Math.abs(cues[b]! - landings[b]!.cue) - Math.abs(cues[a]! - landings[a]!.cue)))
    for (let step = Math.min(FARTHEST, Math.abs(landings[i]!.cue - cues[i]!)); step >= 1; step = Math.floor(step / 2))
      for (;;) {
        const left = landings[i]!.cue - cues[i]!;
        if (Math.abs(left) < step || left === 0) break;
        const tried = cues.with(i, cues[i]! + Math.sign(left) * step);
        if (!meets(tried)) break;
        cues[i] = tried[i]!;
      }
  return cues;
}

/** The whole frame nearest to where the map shows a moment, of several appearances the one nearest to `cue`. */
function naturalCue(map: TimeMap, moment: number, cue: number): number | undefined {
  const times = appearances(map, moment).map(({ from, to }) => Math.min(Math.max(cue, from), to));
  if (times.length === 0) return undefined;
  const nearest = times.reduce((a, b) => (Math.abs(a - cue) <= Math.abs(b - cue) ? a : b));
  return Math.min(Math.floor(mapDuration(map)), Math.max(0, Math.round(nearest)));
}

/** Where no offer can be made: how far the moments are from their cues, in frames at the map's mean speed. */
function missedBy(map: TimeMap, landings: readonly Landing[]): number {
  const last = map.vertices[map.vertices.length - 1]!;
  const mean = Math.max(1e-3, Math.abs(last.s - map.vertices[0]!.s) / last.t);
  return Math.max(...landings.map(({ moment, cue }) => Math.abs(positionAt(map, cue) - moment) / mean));
}
