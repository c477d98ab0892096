import { easeCurve } from '../time-map/ease.js';
import type { TimeMap } from '../time-map/time-map.js';
import type { Landing } from './solve.js';

/** A bend may become so many times as wide to show a moment inside it. */
const WIDEST = 1.6;

/**
 * How wide the bend at vertex i has to be to show a moment on its cue, from `narrowest` frames to a little more than it is; 0 where no such
 * width does. `slopes` are those of the reaches.
 */
export function widthToLand(
  { vertices, bends, slopes }: TimeMap & { readonly slopes: readonly number[] },
  i: number,
  { moment, cue }: Landing,
  narrowest: number,
): number {
  const { widthFrames, ease } = bends[i]!;
  const { t, s } = vertices[i]!;
  const [v, w] = [slopes[i - 1]!, slopes[i]!];
  const { mean, area } = easeCurve(ease);
  const missing = (width: number) => {
    const u = Math.min(1, Math.max(0, (cue - t) / width + 1 - mean));
    return s + v * (cue - t) + (w - v) * (u < 1 ? width * area(u) : cue - t) - moment;
  };
  const [low, high] = [Math.min(widthFrames, narrowest), WIDEST * widthFrames];
  return missing(low) * missing(high) > 0 ? 0 : rootIn(low, high, missing);
}

/** Where a function that has different signs at the ends of a stretch is zero, by halving. */
function rootIn(low: number, high: number, f: (x: number) => number): number {
  const sign = Math.sign(f(high)) || 1;
  for (let n = 0; n < 60; n++) {
    const middle = (low + high) / 2;
    if (f(middle) * sign < 0) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}
