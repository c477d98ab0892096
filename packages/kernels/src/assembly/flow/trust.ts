// How far each vector of a field is to be trusted, and better ones where it is not.
import { lastCellOf, lastPointOf, pairAt, total, within } from './lanes';
import { crossDifference } from './patches';

/**
 * `trust` 0…1 for every vector of `field`, from there and back through `back`: 1 / (1 + (e/τ)²), e the length of the round
 * trip in grid steps, τ `tolerance` plus a fiftieth of the way. Along an edge nothing tells how far a point went: there only
 * what e is across the edge counts. A vector that leaves the picture has trust 0. `alongX`, `alongY` are the slopes of the
 * picture on the field's grid.
 */
export function agree(field: usize, back: usize, width: i32, height: i32, alongX: usize, alongY: usize, stride: i32, tolerance: f32, trust: usize): void {
  const lastPoint = lastPointOf(width, height);
  const lastCell = lastCellOf(width, height);
  const half = f32x4.splat(0.5);
  const least = f32x4.neg(half);
  const most = f32x4.add(lastPoint, half);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const index = y * width + x;
      const flow = v128.load64_splat(field + (index << 3));
      const place = f32x4.add(f32x4(<f32>x, <f32>y, <f32>x, <f32>y), flow);
      let result: f32 = 0;
      if (i32x4.all_true(v128.and(f32x4.gt(place, least), f32x4.lt(place, most)))) {
        const trip = f32x4.add(flow, pairAt(back, width, place, lastPoint, lastCell));
        const eu = f32x4.extract_lane(trip, 0);
        const ev = f32x4.extract_lane(trip, 1);
        const squares = f32x4.mul(flow, flow);
        const t = tolerance + <f32>0.02 * Mathf.sqrt(f32x4.extract_lane(squares, 0) + f32x4.extract_lane(squares, 1));
        let e = eu * eu + ev * ev;
        if (e > t * t) e = across(alongX, alongY, stride, width, height, x, y, eu, ev);
        result = <f32>1 / (<f32>1 + e / (t * t));
      }
      store<f32>(trust + (index << 2), result);
    }
  }
}

/** The squared length of (eu, ev) in the metric of the structure tensor of 8 × 8 slopes, its larger eigenvalue scaled to 1. */
function across(alongX: usize, alongY: usize, stride: i32, width: i32, height: i32, x: i32, y: i32, eu: f32, ev: f32): f32 {
  const at = (max(0, min(height - 8, y - 4)) * stride + max(0, min(width - 8, x - 4))) << 1;
  let xx = i32x4.splat(0);
  let xy = i32x4.splat(0);
  let yy = i32x4.splat(0);
  for (let row = 0; row < 8; row++) {
    const gx = v128.load(alongX + at + row * (stride << 1));
    const gy = v128.load(alongY + at + row * (stride << 1));
    xx = i32x4.add(xx, i32x4.dot_i16x8_s(gx, gx));
    xy = i32x4.add(xy, i32x4.dot_i16x8_s(gx, gy));
    yy = i32x4.add(yy, i32x4.dot_i16x8_s(gy, gy));
  }
  const a = total(xx);
  const b = total(xy);
  const c = total(yy);
  const largest = <f32>0.5 * (a + c) + Mathf.sqrt(<f32>0.25 * (a - c) * (a - c) + b * b);
  return (a * eu * eu + <f32>2 * b * eu * ev + c * ev * ev + NOISE * (eu * eu + ev * ev)) / (largest + NOISE);
}
/** Slopes of 1 grey level a sample at every point of a patch tell nothing. */
const NOISE: f32 = 64 * 32 * 32;

/**
 * The share 0…1 of a picture's structure whose motion there agrees with the motion back, before `propagateTrusted`: every second
 * point of every second row counts by its slope, up to 16 grey levels a sample; those that leave the picture do not count. 1 for a picture without structure.
 */
export function agreement(field: usize, trust: usize, width: i32, height: i32, alongX: usize, alongY: usize, stride: i32): f32 {
  let all: f32 = 0;
  let agreed: f32 = 0;
  for (let y = 0; y < height; y += 2) {
    for (let x = 0; x < width; x += 2) {
      const index = y * width + x;
      if (!inside(field + (index << 3), x, y, width, height)) continue;
      const at = (y * stride + x) << 1;
      const slope = min(512, abs(<i32>load<i16>(alongX + at)) + abs(<i32>load<i16>(alongY + at)));
      if (slope < 64) continue;
      all += <f32>slope;
      if (load<f32>(trust + (index << 2)) > <f32>0.5) agreed += <f32>slope;
    }
  }
  return all < <f32>(width * height) * <f32>0.125 ? <f32>1 : agreed / all;
}

/**
 * How alike two pictures are where they lie, −1…1: the correlation of their slopes, every second one of every second row. What moved by
 * more than its detail gives about 0, and so do two shots; light and exposure change little. Steep edges count no
 * more than others, so that bars and captions over two shots do not make them alike. 0 for a picture without structure.
 */
export function likeness(alongX0: usize, alongY0: usize, alongX1: usize, alongY1: usize, stride: i32, width: i32, height: i32): f32 {
  let both: f64 = 0;
  let first: f64 = 0;
  let second: f64 = 0;
  for (let y = 0; y < height; y += 2) {
    for (let x = 0; x < width; x += 2) {
      const at = (y * stride + x) << 1;
      const x0 = <f64>max(-STEEPEST, min(STEEPEST, <i32>load<i16>(alongX0 + at)));
      const y0 = <f64>max(-STEEPEST, min(STEEPEST, <i32>load<i16>(alongY0 + at)));
      const x1 = <f64>max(-STEEPEST, min(STEEPEST, <i32>load<i16>(alongX1 + at)));
      const y1 = <f64>max(-STEEPEST, min(STEEPEST, <i32>load<i16>(alongY1 + at)));
      both += x0 * x1 + y0 * y1;
      first += x0 * x0 + y0 * y0;
      second += x1 * x1 + y1 * y1;
    }
  }
  return first * second == 0 ? 0 : <f32>(both / Math.sqrt(first * second));
}
/** A slope of 8 grey levels a sample; slopes are stored doubled. */
const STEEPEST: i32 = 256;

// @ts-ignore: decorator
@inline
function inside(vector: usize, x: i32, y: i32, width: i32, height: i32): bool {
  const tx = <f32>x + load<f32>(vector);
  const ty = <f32>y + load<f32>(vector + 4);
  return tx > <f32>-0.5 && ty > <f32>-0.5 && tx < <f32>width - <f32>0.5 && ty < <f32>height - <f32>0.5;
}

/**
 * Vectors of little trust, hidden in the other picture as a rule, are replaced by that of a trusted point near by which
 * looks alike, unless their own explains the point better. `plane` and `other` are the pictures on the field's own grid.
 * Trust is left as it is.
 */
export function propagateTrusted(field: usize, trust: usize, plane: usize, other: usize, stride: i32, width: i32, height: i32): void {
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const index = y * width + x;
      if (load<f32>(trust + (index << 2)) >= DOUBTED) continue;
      const from = lookAlike(trust, plane, stride, width, height, x, y);
      if (from < 0) continue;
      const own = pointDifference(plane, other, stride, width, height, x, y, field + (index << 3));
      if (own < <f32>0.5 * pointDifference(plane, other, stride, width, height, x, y, field + (from << 3))) continue;
      store<u64>(field + (index << 3), load<u64>(field + (from << 3)));
    }
  }
}
const DOUBTED: f32 = 0.3;
const SURE: f32 = 0.6;

/** Of 8 directions at 5 distances the trusted point with the most trust, likeness and nearness; −1 without any. */
function lookAlike(trust: usize, plane: usize, stride: i32, width: i32, height: i32, x: i32, y: i32): i32 {
  const own = <i32>load<i16>(plane + ((y * stride + x) << 1));
  let best: f32 = 0;
  let from = -1;
  for (let distance = 1; distance <= 16; distance <<= 1) {
    for (let direction = 0; direction < 9; direction++) {
      const i = x + ((direction % 3) - 1) * distance;
      const j = y + (direction / 3 - 1) * distance;
      if (<u32>i >= <u32>width || <u32>j >= <u32>height) continue;
      const other = j * width + i;
      const held = load<f32>(trust + (other << 2));
      if (held < SURE) continue;
      const unlike = <f32>abs(own - <i32>load<i16>(plane + ((j * stride + i) << 1)));
      const score = held / ((<f32>1 + unlike * <f32>(1.0 / 64.0)) * (<f32>2 + <f32>distance));
      if (score > best) {
        best = score;
        from = other;
      }
    }
  }
  return from;
}

/** How far a point differs from where `vector` takes it; see `crossDifference`. */
// @ts-ignore: decorator
@inline
function pointDifference(plane: usize, other: usize, stride: i32, width: i32, height: i32, x: i32, y: i32, vector: usize): f32 {
  const tx = within(<f32>x + load<f32>(vector), <f32>width);
  const ty = within(<f32>y + load<f32>(vector + 4), <f32>height);
  return crossDifference(plane, other, stride, <f32>x, <f32>y, tx, ty);
}
