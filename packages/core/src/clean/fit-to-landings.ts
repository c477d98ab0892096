import { cleanSlope } from '../cadence/clean-slope.js';
import { checkTimeMap, type TimeMap, type Vertex } from '../time-map/time-map.js';
import { assignments } from './assignments.js';
import { fitCleanly, lastShown, snapped, stretchedAbout } from './fit.js';
import { meetByPlaces } from './land-by-places.js';
import type { Landing } from './landing.js';
import { slopesOf } from './reference.js';

/**
 * As `fitCleanly`, and what cannot land by its places alone has stretches of other clean speeds, or other speeds of whole reaches, beside the
 * clean ones nearest to what the length asks for, or beside its own.
 */
export function fitToLandings(
  map: TimeMap,
  own: number,
  frames: number,
  { locked, landings }: { readonly locked: readonly number[]; readonly landings: readonly Landing[] },
): TimeMap | undefined {
  const found = fitCleanly(map, own, frames, { locked, landings });
  const slopes = slopesOf(map);
  if (found || landings.length === 0 || slopes.length === 1 || own < 2 || frames < 2) return found;
  const isClean = slopes.every((slope, i) => slope === 0 || locked.includes(i) || cleanSlope(slope));
  const near = snapped(map, slopes, (own - 1) / (frames - 1), locked).slice(0, 1);
  return [...near, ...(isClean ? [slopes] : [])].reduce<TimeMap | undefined>(
    (best, speeds) => best ?? met(map, own, frames, speeds, locked, landings),
    undefined,
  );
}

/** The map at these speeds, so many frames long, its landings met with stretches of other speeds, or at other speeds of whole reaches. */
function met(
  map: TimeMap,
  own: number,
  frames: number,
  slopes: readonly number[],
  locked: readonly number[],
  landings: readonly Landing[],
): TimeMap | undefined {
  const last = slopes.length - 1;
  const aims = stretchedAbout(map, own, frames, slopes, locked);
  if (!aims || slopes[last] === 0) return undefined;
  const end = { moment: lastShown(map, own), cue: frames - 1 };
  const onReaches = assignments({ vertices: aims, bends: map.bends }, landings, frames);
  const found = meetByPlaces(
    { vertices: atSpeeds(map, slopes, locked).with(last + 1, aims[last + 1]!), bends: map.bends, slopes },
    [...landings, end],
    { locked, freeEnd: false, trim: { in: 0, out: 0 }, patience: frames },
    onReaches.map((reaches) => [...reaches, last]),
  );
  return found && found.lost <= 1e-9 ? checkTimeMap(found.map) : undefined;
}

/** Where the vertices would lie at these speeds, each at the source position it has; freezes and what is locked keep their length. */
function atSpeeds({ vertices }: TimeMap, slopes: readonly number[], locked: readonly number[]): Vertex[] {
  const all: Vertex[] = [vertices[0]!];
  for (const [i, slope] of slopes.entries()) {
    const [from, to] = [vertices[i]!, vertices[i + 1]!];
    const length = slope === 0 || locked.includes(i) ? to.t - from.t : (to.s - from.s) / slope;
    all.push({ t: all[i]!.t + length, s: to.s });
  }
  return all;
}
