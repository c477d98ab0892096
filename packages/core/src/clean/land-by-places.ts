import { cleanSlopesNear } from '../cadence/clean-slope.js';
import { type Bend, bendWindow, reachSlope, type TimeMap } from '../time-map/time-map.js';
import { assignments } from './assignments.js';
import {
  placeOnReaches,
  placeVertices,
  type Places,
  type PlacesChoice,
  type Reference,
  slopesOf,
} from './place-vertices.js';
import { isWithin, type Landing, type SlopeLimits } from './landing.js';

/** What may be done so that the places where speeds change meet the landings. */
export interface PlacesFreedom {
  /** Reaches that keep their length and what they show, by index. */
  readonly locked: readonly number[];
  /** Whether the clip may end earlier or later. */
  readonly freeEnd: boolean;
  /** Source frames the in and the out point may be trimmed by, where nothing else meets the landings; as much as the patience shows of them where it is not said. */
  readonly trim: { readonly in?: number | undefined; readonly out?: number | undefined };
  /** How far a place may move beyond what the landings are off by, timeline frames. */
  readonly patience: number;
  /** Slopes that reaches may have, as magnitudes, freezes apart; where the map's own are others, its places are not moved. */
  readonly limits?: SlopeLimits | undefined;
  /** Source positions there are. */
  readonly room?: { readonly from: number; readonly to: number };
}

/** Two landings that ask for another speed between them get a stretch of one no further from theirs than this factor. */
export const MAX_STRETCH_RATIO = 1.5;

/** The shortest such stretch, timeline frames. */
const MIN_STRETCH = 2;

/** How many other speeds are tried for a stretch. */
const MAX_SPEEDS = 4;

/** How many ways of putting stretches in are tried. */
const MAX_TRIES = 20;

/** Points of the grid that are looked at for one clip, in all. */
const MAX_NODES = 1500;

/** … and for other speeds of whole reaches. */
const MAX_OTHER_NODES = 600;

/** How wide the bends into and out of such a stretch are where there is room, timeline frames. */
const STRETCH_BEND = 8;

/**
 * Meets the landings at the speeds there are: the places where they change move. In this order, the first that leaves every reach as many real
 * frames as it can have: in and out points stay; the end moves, where it may; the out point is trimmed, the in point, both; a short stretch
 * of a neighbouring clean speed between two landings; one or two whole reaches at such a speed. `undefined` where nothing does within the
 * patience.
 */
export function landByPlaces(
  map: TimeMap,
  landings: readonly Landing[],
  { locked, freeEnd, trim, patience, limits, room }: PlacesFreedom,
): Places | undefined {
  const within = (slope: number) => !limits || isWithin(slope, limits);
  if (!slopesOf(map).every(within)) return undefined;
  const near = new Map<number, readonly number[]>();
  const speedsNear = (slope: number) => {
    const known = near.get(slope);
    if (known) return known;
    const found = cleanSlopesNear(slope, MAX_STRETCH_RATIO).filter(within).slice(0, MAX_SPEEDS);
    near.set(slope, found);
    return found;
  };
  const stays: PlacesChoice = {
    ...{ locked, trimIn: 0, trimOut: 0, freeEnd: false, room, budget: { nodes: MAX_NODES } },
    patience,
  };
  const last = map.vertices.length - 2;
  const trimIn = trim.in ?? patience * Math.abs(reachSlope(map, 0));
  const trimOut = trim.out ?? patience * Math.abs(reachSlope(map, last));
  const ways: Partial<PlacesChoice>[] = [
    {},
    ...(freeEnd ? [{ freeEnd: true }] : []),
    ...(trimOut > 0 ? [{ trimOut }] : []),
    ...(trimIn > 0 ? [{ trimIn }] : []),
    ...(trimIn > 0 && trimOut > 0 ? [{ trimIn, trimOut }] : []),
  ];
  let least: Places | undefined;
  const better = (found: Places | undefined) => {
    if (found && (!least || found.lost < least.lost - 1e-9)) least = found;
    return least?.lost === 0;
  };
  const onReaches = assignments(map, landings, patience);
  for (const way of ways) if (better(placeVertices(map, landings, { ...stays, ...way }, onReaches))) return least;
  // A map of one speed is not divided.
  if (map.vertices.length < 3) return least;
  const offBends = onReaches.filter((reaches) => reaches.every(Number.isInteger)).slice(0, 2);
  for (const way of ways)
    if (better(withStretches(map, landings, { ...stays, ...way }, offBends, speedsNear))) return least;
  const more = { nodes: MAX_OTHER_NODES };
  for (const way of [ways[0]!, ways.at(-1)!])
    if (better(withOtherSpeeds(map, landings, { ...stays, ...way, budget: more }, onReaches, speedsNear))) return least;
  return least;
}

/** Clean speeds a stretch on a reach of a slope may have. */
type SpeedsNear = (slope: number) => readonly number[];

/** The landings met with short stretches of other clean speeds between two of them, or between one and an end of the clip. */
function withStretches(
  map: TimeMap,
  landings: readonly Landing[],
  choice: PlacesChoice,
  onReaches: readonly (readonly number[])[],
  speedsNear: SpeedsNear,
): Places | undefined {
  let best: Places | undefined;
  for (const reaches of onReaches)
    for (const some of choicesOf(stretches(map, landings, reaches, choice, speedsNear))) {
      if (choice.budget.nodes <= 0) return best;
      const behind = (i: number) => i + 2 * some.filter(({ reach }) => reach < i).length;
      const of = ({ cue }: Landing, i: number) =>
        behind(i) + 2 * some.filter(({ reach, start, frames }) => reach === i && cue >= start + frames).length;
      best = placeOnReaches(
        withInserted(map, some),
        landings,
        reaches.map((i, n) => of(landings[n]!, i)),
        { ...choice, locked: choice.locked.map(behind) },
        best,
      );
    }
  return best;
}

/** The landings met with one reach, or two, at another clean speed from end to end. */
function withOtherSpeeds(
  map: TimeMap,
  landings: readonly Landing[],
  choice: PlacesChoice,
  onReaches: readonly (readonly number[])[],
  speedsNear: SpeedsNear,
): Places | undefined {
  const slopes = slopesOf(map);
  const others = slopes.flatMap((slope, reach) =>
    slope === 0 || choice.locked.includes(reach)
      ? []
      : speedsNear(slope)
          .slice(0, MAX_SPEEDS)
          .map((other) => ({ reach, other })),
  );
  const pairs = others.flatMap((a) => others.filter((b) => b.reach > a.reach).map((b) => [a, b]));
  let best: Places | undefined;
  for (const some of [...others.map((one) => [one]), ...pairs]) {
    if (choice.budget.nodes <= 0 || best?.lost === 0) return best;
    const changed = some.reduce((all, { reach, other }) => all.with(reach, other), slopes);
    for (const reaches of onReaches.slice(0, 3))
      best = placeOnReaches({ ...map, slopes: changed }, landings, reaches, choice, best);
  }
  return best;
}

/** One stretch from one of the lists, or one from each of several; those with fewer first. At most one on a reach. */
function choicesOf(lists: readonly (readonly Stretch[])[]): Stretch[][] {
  let all: Stretch[][] = [[]];
  for (const list of lists)
    all = all.flatMap((some) => [
      some,
      ...list.filter(({ reach }) => some.every((other) => other.reach !== reach)).map((each) => [...some, each]),
    ]);
  return all
    .filter((some) => some.length > 0)
    .sort((a, b) => a.length - b.length)
    .slice(0, MAX_TRIES);
}

interface Stretch {
  readonly reach: number;
  readonly start: number;
  readonly frames: number;
  readonly slope: number;
  readonly bend: Bend;
}

/** Where a stretch of another clean speed would gain the time that is missing between two neighbouring landings or ends, and how long it would be. */
function stretches(
  map: TimeMap,
  landings: readonly Landing[],
  reaches: readonly number[],
  choice: PlacesChoice,
  speedsNear: SpeedsNear,
): Stretch[][] {
  const slopes = slopesOf(map);
  const last = slopes.length - 1;
  const points = [
    { cue: 0, reach: 0, late: 0 },
    ...landings
      .map(({ moment, cue }, n) => ({
        cue,
        reach: reaches[n]!,
        late: cue - timeOn(map, slopes, reaches[n]!, moment, cue),
      }))
      .sort((a, b) => a.cue - b.cue),
    { cue: map.vertices[last + 1]!.t, reach: last, late: 0 },
  ];
  return points.slice(1).map((to, n) => {
    const from = points[n]!;
    const missing = to.late - from.late;
    if (Math.abs(missing) < 1e-9) return [];
    return slopes.flatMap((slope, reach): Stretch[] => {
      if (reach < from.reach || reach > to.reach || slope === 0 || choice.locked.includes(reach)) return [];
      const low = Math.max(from.cue, bendWindow(map, reach).to);
      const high = Math.min(to.cue, bendWindow(map, reach + 1).from);
      return speedsNear(slope).flatMap((other) => {
        const frames = missing / (1 - other / slope);
        const room = high - low;
        if (!(frames >= MIN_STRETCH && frames <= room)) return [];
        const bend: Bend = { widthFrames: Math.min(STRETCH_BEND, frames, room - frames), ease: 'soft' };
        return [{ reach, start: low + (room - frames) / 2, frames, slope: other, bend }];
      });
    });
  });
}

/** When a reach, gone on as a line, shows a moment; a frozen one when it is asked to. */
function timeOn(map: TimeMap, slopes: readonly number[], reach: number, moment: number, cue: number): number {
  const { t, s } = map.vertices[reach]!;
  return slopes[reach] === 0 ? cue : t + (moment - s) / slopes[reach]!;
}

function withInserted(map: TimeMap, some: readonly Stretch[]): Reference {
  const slopes = slopesOf(map);
  // From the last to the first, so that what is still to come keeps its place.
  return some
    .toSorted((a, b) => b.reach - a.reach)
    .reduce<Reference>(
      (made, { reach, start, frames, slope, bend }) => {
        const { t, s } = map.vertices[reach]!;
        const at = (time: number) => ({ t: time, s: s + slopes[reach]! * (time - t) });
        return {
          vertices: made.vertices.toSpliced(reach + 1, 0, at(start), at(start + frames)),
          bends: made.bends.toSpliced(reach + 1, 0, bend, bend),
          slopes: made.slopes.toSpliced(reach + 1, 0, slope, slopes[reach]!),
        };
      },
      { ...map, slopes },
    );
}
