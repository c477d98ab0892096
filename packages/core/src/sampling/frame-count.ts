import { easeCurve } from '../time-map/ease.js';
import { positionAt, slopeAt } from '../time-map/evaluate.js';
import { mapFrameCount, type TimeMap } from '../time-map/time-map.js';
import { isInSource, WHOLE_FRAME_TOLERANCE } from './sample.js';

/**
 * How many timeline frames a clip of this map shows. The map's last vertex is an edge, so its tail may lie between the
 * source's last frame and the end of that frame: those positions have no frame after them to be made from and are
 * trimmed, which keeps the speed as typed and never repeats the last frame. A map that runs further past the source,
 * or starts outside it, is not trimmed: the clip's end choice shows that stretch.
 */
export function clipFrameCount(map: TimeMap, sourceFrames: number): number {
  const known = counted.get(map);
  if (known?.sourceFrames === sourceFrames) return known.count;
  const count = countFrames(map, sourceFrames);
  counted.set(map, { sourceFrames, count });
  return count;
}

/** Maps are values: what was counted once holds. */
const counted = new WeakMap<TimeMap, { readonly sourceFrames: number; readonly count: number }>();

function countFrames(map: TimeMap, sourceFrames: number): number {
  let count = mapFrameCount(map);
  const overhang = (k: number) => {
    const s = positionAt(map, k);
    return slopeAt(map, k) > 0 && s > sourceFrames - 1 + WHOLE_FRAME_TOLERANCE && s < sourceFrames;
  };
  const end = map.vertices[map.vertices.length - 1]!.s;
  if (count > 1 && end <= sourceFrames + WHOLE_FRAME_TOLERANCE) while (count > 1 && overhang(count - 1)) count--;
  return count;
}

/** The timeline frames that ask for source that is not there: the first such frame, and how many in all. */
export function missingSource(map: TimeMap, sourceFrames: number): { first: number; count: number } | undefined {
  // Bends whose ease only rises lie within the corners they round: then the curve goes no further than its vertices.
  const isWithin = map.vertices.every(({ s }) => s >= 0 && s <= sourceFrames - 1);
  if (isWithin && map.bends.every(({ ease }) => easeCurve(ease).turns.length === 0)) return undefined;
  let first = -1;
  let count = 0;
  const total = clipFrameCount(map, sourceFrames);
  for (let k = 0; k < total; k++)
    if (!isInSource(positionAt(map, k), sourceFrames)) {
      if (first < 0) first = k;
      count++;
    }
  return count === 0 ? undefined : { first, count };
}
