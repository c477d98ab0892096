import type { Project } from '../model/project.js';
import { framesPerSecond } from '../time/rate.js';
import { type AccentTime, accentTimes } from './accent-times.js';
import { effectsOf } from './effects.js';

/** More than so many flashes of the whole picture within a second may harm viewers (WCAG 2.2, 2.3.1; ITU-R BT.1702-3). */
const MAX_FLASHES = 3;

/** A change of less than a tenth of the brightest white is no flash there. */
const FAINTEST = 0.1;

/** A stretch with more flashes than that in some second of it: frames of the reel, and the most there are. */
export interface FlickerSpot {
  readonly from: number;
  readonly to: number;
  readonly flashes: number;
}

const isFlash = ({ set: { look, strength }, frames }: AccentTime) =>
  (look.kind === 'flash' && strength >= FAINTEST) || (look.kind === 'dip' && frames > 0);

/** Where accents flash more often than is safe. Flashes that fall on the same frame are one. */
export function flickerSpots(project: Project): FlickerSpot[] {
  const second = framesPerSecond(project.reel.rate);
  const frames = [
    ...new Set(
      accentTimes(project)
        .filter(isFlash)
        .map(({ frame }) => frame)
        .concat(dimmings(project)),
    ),
  ].sort((a, b) => a - b);
  const spots: FlickerSpot[] = [];
  let first = 0;
  frames.forEach((frame, i) => {
    while (frame - frames[first]! >= second) first++;
    const flashes = i - first + 1;
    if (flashes <= MAX_FLASHES) return;
    const last = spots.at(-1);
    if (last && frames[first]! <= last.to)
      spots[spots.length - 1] = { from: last.from, to: frame, flashes: Math.max(last.flashes, flashes) };
    else spots.push({ from: frames[first]!, to: frame, flashes });
  });
  return spots;
}

/** Where light that flickers is darkest between two brighter times, by as much as counts. */
function dimmings(project: Project): number[] {
  return accentTimes(project).flatMap(({ set, frame, frames }) => {
    if (set.look.kind !== 'flicker') return [];
    const at = effectsOf({ ...project, reel: { ...project.reel, accents: [set] } });
    const found: number[] = [];
    let [brightest, darkest, place] = [0, 0, frame];
    for (let k = frame; k < frame + frames; k++) {
      const dark = at(k).flash?.amount ?? 0;
      if (dark > darkest) [darkest, place] = [dark, k];
      if (darkest - brightest >= FAINTEST && darkest - dark >= FAINTEST) {
        found.push(place);
        [brightest, darkest] = [dark, dark];
      } else if (dark < brightest) [brightest, darkest] = [dark, dark];
    }
    return found;
  });
}
