import { bisect } from '../foundation/bisect.js';
import { easeCurve } from '../time-map/ease.js';
import type { Bend, Vertex } from '../time-map/time-map.js';
import type { Landing } from './landing.js';

/** A bend may become so many times as wide to show a moment inside it. */
export const WIDEST = 1.6;

/**
 * How wide a bend has to be to show a moment on its cue, from `narrowest` frames to a little more than it is; 0 where no such width does.
 * @param speeds the slopes before the vertex and after it
 */
export function widthToLand(
  { t, s }: Vertex,
  { widthFrames, ease }: Bend,
  [v, w]: readonly [number, number],
  { moment, cue }: Landing,
  narrowest: number,
): number {
  const { mean, area } = easeCurve(ease);
  const missing = (width: number) => {
    const u = Math.min(1, Math.max(0, (cue - t) / width + 1 - mean));
    return s + v * (cue - t) + (w - v) * (u < 1 ? width * area(u) : cue - t) - moment;
  };
  const [low, high] = [Math.min(widthFrames, narrowest), WIDEST * widthFrames];
  const sign = Math.sign(missing(high));
  return missing(low) * sign > 0 ? 0 : bisect(low, high, (width) => missing(width) * sign);
}
