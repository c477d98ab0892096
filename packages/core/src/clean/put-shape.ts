import { stretchShape } from '../shape/clip-shapes.js';
import { mapFrameCount, TIME_EPSILON, type TimeMap } from '../time-map/time-map.js';
import { endedWithin, fitCleanly } from './fit.js';
import { realFrames } from './real-frames.js';

/**
 * The curve `shape` stretched to a clip, at clean speeds near the shape's own where that has more of its frames real: its length and its first and last frame
 * stay (the last the real frame nearest to it), and it uses no source frames that the stretched shape does not. Throws `InvalidInput` where
 * the clip ends on the source frame it starts with.
 */
export function putShape(shape: TimeMap, clip: TimeMap): TimeMap {
  const stretched = stretchShape(shape, clip);
  const frames = mapFrameCount(stretched);
  const clean = fitCleanly(stretched, frames, frames);
  if (!clean) return stretched;
  const [low, high] = extremes(stretched);
  const ended = endedWithin(clean, high);
  const [from, to] = extremes(ended);
  const isWithin = from >= low - TIME_EPSILON && to <= high + TIME_EPSILON;
  return isWithin && realFrames(ended).real > realFrames(stretched).real ? ended : stretched;
}

/** The lowest and highest source position of a map's vertices. */
function extremes(map: TimeMap): [number, number] {
  const positions = map.vertices.map(({ s }) => s);
  return [Math.min(...positions), Math.max(...positions)];
}
