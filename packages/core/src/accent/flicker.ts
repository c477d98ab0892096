import type { Project } from '../model/project.js';
import { framesPerSecond } from '../time/rate.js';
import { type AccentTime, accentTimes } from './accent-times.js';

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
        .map(({ frame }) => frame),
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
