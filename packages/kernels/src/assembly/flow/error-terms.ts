// What speaks against a picture in between, before it is painted: five mean squares, in grey levels of 8 bits.
import { HIDDEN, lastCellOf, lastPointOf, pairAt, square } from './lanes';
import { bilinearWithin as at, squaredSlope } from './patches';

/** A block, in grid points across and down. */
const BLOCK: i32 = 8;

/**
 * `out` gets, as means over all grid points: the squared difference of the two pictures where both see the point (consistency), apart
 * from its mean over each block of 8 × 8 points; that mean squared (light that comes and goes in a place); the squared slope where neither side's motion is trusted (texture that may lie anywhere); the squared difference a point would
 * make if it did not bend as its motion before and after says, but went straight (what is not known of the way between); and the
 * squared difference of the pictures unmoved. `a` and `b` are luma as exposed at that moment, `first` and `second` as they are,
 * `scale` their samples per grid step; `plane` is the first picture on the grid. `before` and `after` are the fields from the first
 * picture back and from the second on; 0: not known, then the other stands for both.
 */
export function errorTerms(
  a: usize,
  b: usize,
  first: usize,
  second: usize,
  stride: i32,
  scale: f32,
  plane: usize,
  planeStride: i32,
  width: i32,
  height: i32,
  fraction: f32,
  vectors: usize,
  weights: usize,
  scores0: usize,
  scores1: usize,
  before: usize,
  after: usize,
  out: usize,
): void {
  let apart: f64 = 0;
  let light: f64 = 0;
  let untrusted: f64 = 0;
  let bowed: f64 = 0;
  let unmoved: f64 = 0;
  // Half of t·(1 − t): how far a point is off the straight line under an acceleration of 1.
  const bow = <f32>0.5 * fraction * (<f32>1 - fraction);
  const maxX = <f32>width * scale;
  const maxY = <f32>height * scale;
  for (let top = 0; top < height; top += BLOCK) {
    for (let left = 0; left < width; left += BLOCK) {
      let sum: f32 = 0;
      let squares: f32 = 0;
      let count: f32 = 0;
      for (let y = top; y < min(height, top + BLOCK); y++) {
        for (let x = left; x < min(width, left + BLOCK); x++) {
          const index = y * width + x;
          const vector = v128.load(vectors + (index << 4));
          const fx = (<f32>x + <f32>0.5) * scale - <f32>0.5;
          const fy = (<f32>y + <f32>0.5) * scale - <f32>0.5;
          const ax = fx + scale * f32x4.extract_lane(vector, 0);
          const ay = fy + scale * f32x4.extract_lane(vector, 1);
          const bx = fx + scale * f32x4.extract_lane(vector, 2);
          const by = fy + scale * f32x4.extract_lane(vector, 3);
          const here = at(a, stride, ax, ay, maxX, maxY);
          const seen0 = load<f32>(weights + (index << 3)) >= HIDDEN * (<f32>1 - fraction);
          const seen1 = load<f32>(weights + (index << 3) + 4) >= HIDDEN * fraction;
          if (seen0 && seen1) {
            const d = here - at(b, stride, bx, by, maxX, maxY);
            sum += d;
            squares += d * d;
            count += 1;
          }
          const trust = Mathf.max(0, Mathf.max(load<f32>(scores0 + (index << 2)), load<f32>(scores1 + (index << 2))));
          untrusted += (<f32>1 - trust) * squaredSlope(plane + ((y * planeStride + x) << 1), planeStride);
          if (before != 0 || after != 0) {
            const acceleration = accelerationAt(vector, before, after, width, height, x, y);
            const dx = scale * bow * f32x4.extract_lane(acceleration, 0);
            const dy = scale * bow * f32x4.extract_lane(acceleration, 1);
            bowed += square(here - at(a, stride, ax + dx, ay + dy, maxX, maxY));
          }
          unmoved += square(at(first, stride, fx, fy, maxX, maxY) - at(second, stride, fx, fy, maxX, maxY));
        }
      }
      if (count == 0) continue;
      const mean = (sum * sum) / count;
      light += mean;
      apart += squares - mean;
    }
  }
  const each = 1.0 / (<f64>(width * height) * 256.0);
  store<f32>(out, <f32>(apart * each));
  store<f32>(out + 4, <f32>(light * each));
  store<f32>(out + 8, <f32>(untrusted * each));
  store<f32>(out + 12, <f32>(bowed * each));
  store<f32>(out + 16, <f32>(unmoved * each));
}

/** The mean of the accelerations at both ends of a point's way, grid steps. */
// @ts-ignore: decorator
@inline
function accelerationAt(vector: v128, before: usize, after: usize, width: i32, height: i32, x: i32, y: i32): v128 {
  const way = f32x4.sub(i8x16.shuffle(vector, vector, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15), vector);
  const places = f32x4.add(f32x4(<f32>x, <f32>y, <f32>x, <f32>y), vector);
  const lastPoint = lastPointOf(width, height);
  const lastCell = lastCellOf(width, height);
  let sum = f32x4.splat(0);
  let ends: f32 = 0;
  if (before != 0) {
    const place = i8x16.shuffle(places, places, 0, 1, 2, 3, 4, 5, 6, 7, 0, 1, 2, 3, 4, 5, 6, 7);
    const back = pairAt(before, width, place, lastPoint, lastCell);
    sum = f32x4.add(sum, f32x4.add(way, back));
    ends += 1;
  }
  if (after != 0) {
    const place = i8x16.shuffle(places, places, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15);
    const on = pairAt(after, width, place, lastPoint, lastCell);
    sum = f32x4.add(sum, f32x4.sub(on, way));
    ends += 1;
  }
  return f32x4.div(sum, f32x4.splat(ends));
}
