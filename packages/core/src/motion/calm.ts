import { type CameraMotion, ROUGH_BELOW, type SourceMotion } from './source-motion.js';

/** How much of the picture's width a point passes from one frame to the next, at the picture's edge when it grows or turns. */
const cameraPace = ({ x, y, push, roll }: CameraMotion): number =>
  Math.hypot(x, y) + Math.abs(push) / 2 + (Math.abs(roll) * Math.PI) / 360;

/** Change of exposure from frame to frame that is seen as a flash, as log₂ of the gain. */
const FLASH = 0.15;

/** How well a slow part begins or ends at source frame n: 0 at rest and sure, more with camera motion, flashes and rough pairs beside it. */
export function unrest({ pairs }: SourceMotion, n: number): number {
  const beside = [pairs[n - 1], pairs[n]].filter((pair) => pair !== undefined);
  return beside.reduce((sum, { camera, exposure, confidence }) => {
    const flash = Number.isNaN(exposure) || Math.abs(exposure) > FLASH;
    return (
      sum +
      (cameraPace(camera) * 100 +
        (flash ? 5 : 0) +
        (confidence < ROUGH_BELOW ? 5 * (ROUGH_BELOW - confidence + 0.5) : 0)) /
        beside.length
    );
  }, 0);
}

/** The calmest source frame within `reach` frames of `near`, when it is clearly calmer than that one; nearer ones first among equals. */
export function calmerFrame(motion: SourceMotion, near: number, reach: number): number | undefined {
  const here = unrest(motion, near);
  let best = near;
  let least = here;
  for (let n = Math.max(0, near - reach); n <= Math.min(motion.pairs.length, near + reach); n++) {
    // A frame further off has to be worth it.
    const cost = unrest(motion, n) + Math.abs(n - near) * 0.02;
    if (cost < least) [best, least] = [n, cost];
  }
  return best !== near && unrest(motion, best) < 0.7 * here && here > 0.3 ? best : undefined;
}
