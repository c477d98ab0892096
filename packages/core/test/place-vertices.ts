import { assignments } from '../src/clean/assignments.js';
import type { Landing } from '../src/clean/landing.js';
import { placeOnReaches, type Places, type PlacesChoice } from '../src/clean/place-vertices.js';
import { slopesOf } from '../src/clean/reference.js';
import type { TimeMap } from '../src/time-map/time-map.js';

/** The best places for all of a map's vertices in one search, over all ways of laying the landings on reaches. */
export function placeVertices(
  map: TimeMap,
  landings: readonly Landing[],
  choice: PlacesChoice,
  onReaches: readonly (readonly number[])[] = assignments(map, landings, choice.patience),
): Places | undefined {
  return onReaches.reduce<Places | undefined>(
    (best, reaches) => placeOnReaches({ ...map, slopes: slopesOf(map) }, landings, reaches, choice, best),
    undefined,
  );
}
