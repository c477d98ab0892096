import type { Landing } from '../clean/landing.js';
import { appearances, framesShowing } from '../time-map/inverse.js';
import type { TimeMap } from '../time-map/time-map.js';
import { type Conflict, land } from './conflicts.js';
import { landByPlaces } from '../clean/land-by-places.js';
import { missedLandings, slippedTo } from './landed.js';
import { landingReport, type LandingReport, type LandingWay } from './landing-report.js';
import { realFrames } from '../clean/real-frames.js';
import { checkLandings, SOLVE_DEFAULTS, type SolveChoice } from './solve.js';

/** What of a map a landing may change. */
export interface MapLandingChoice {
  readonly change: LandingWay;
  readonly limits?: SolveChoice['limits'] | undefined;
  readonly freeEnd: boolean;
  /** Source frames the in and the out point may be trimmed by; without it as many as the patience shows of them. */
  readonly trim: number | undefined;
  /** How far a place may move beyond what the landings are off by, timeline frames. */
  readonly patience: number;
}

/** The answer for a map that lies on no reel. */
export interface LandedMap {
  readonly map: TimeMap;
  readonly conflicts: readonly Conflict[];
  readonly report: LandingReport;
  /** The landings as they lie in the answer: where the whole map moves, its cues do. */
  readonly landings: readonly Landing[];
}

/**
 * Lands a map: by its places and, where they do not serve or more frames would have to be made than otherwise, by its speeds; or by the one
 * other thing that may change. Throws `InvalidInput` for a cue outside the map.
 */
export function landMap(map: TimeMap, landings: readonly Landing[], choice: MapLandingChoice): LandedMap {
  checkLandings(map, landings);
  const { change, limits, freeEnd } = choice;
  if (change === 'in') return slipped(map, landings);
  if (change === 'cut') return moved(map, landings);
  const bySpeeds = () => land(map, landings, { ...SOLVE_DEFAULTS, ...(limits && { limits }), freeEnd });
  if (change === 'speeds') return answered(map, landings, bySpeeds(), 'speeds');
  const byPlaces = landByPlaces(map, landings, {
    locked: [],
    freeEnd,
    trim: { in: choice.trim, out: choice.trim },
    patience: choice.patience + farthestOff(map, landings),
    limits,
  });
  const other = bySpeeds();
  if (!byPlaces || (other.conflicts.length === 0 && made(other.map) < made(byPlaces.map)))
    return answered(map, landings, other, 'speeds');
  return answered(map, landings, { map: byPlaces.map, conflicts: [] }, 'places');
}

/** How many frames of a map have to be made. */
function made(map: TimeMap): number {
  const { real, of } = realFrames(map);
  return of - real;
}

/** By how many timeline frames the landing that is off by most is. */
export function farthestOff(map: TimeMap, landings: readonly Landing[]): number {
  const off = landings.map(({ moment, cue }) =>
    Math.min(...appearances(map, moment).map(({ from, to }) => Math.max(from - cue, cue - to, 0))),
  );
  return Math.max(0, ...off.filter(Number.isFinite));
}

function answered(
  before: TimeMap,
  landings: readonly Landing[],
  { map, conflicts }: { readonly map: TimeMap; readonly conflicts: readonly Conflict[] },
  way: LandingWay,
): LandedMap {
  return { map, conflicts, landings, report: landingReport(before, map, way) };
}

function slipped(map: TimeMap, landings: readonly Landing[]): LandedMap {
  const slid = slippedTo(map, landings);
  return answered(map, landings, { map: slid, conflicts: missedLandings(slid, landings) }, 'in');
}

/** The whole map moved by frames until the first landing is met; what is left of a frame, it slips. */
function moved(map: TimeMap, landings: readonly Landing[]): LandedMap {
  const first = landings[0];
  const shown =
    first && framesShowing(map, first.moment).toSorted((a, b) => Math.abs(a - first.cue) - Math.abs(b - first.cue))[0];
  if (!first || shown === undefined)
    return answered(map, landings, { map, conflicts: missedLandings(map, landings) }, 'cut');
  const by = first.cue - shown;
  const there = landings.map(({ moment, cue }) => ({ moment, cue: cue - by }));
  const { map: slid, conflicts } = slipped(map, there);
  return { ...answered(map, there, { map: slid, conflicts }, 'cut'), landings: there };
}
