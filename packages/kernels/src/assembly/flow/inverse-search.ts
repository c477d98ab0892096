// Patches of 8 × 8 find where they went by inverse search: Gauss–Newton steps whose Hessian is that of the unmoved patch.
// T. Kroeger, R. Timofte, D. Dai, L. Van Gool, "Fast Optical Flow using Dense Inverse Search", ECCV 2016 (arXiv 1603.03590).
// The mean of every difference is taken out, so a change of exposure is not taken for motion.

import { between, q15, total, within } from './lanes';

export const PATCH: i32 = 8;
export const AREA: f32 = 64;

// What the last measured patch gave: sums of r, r·gx and r·gy over the patch, r = moved − unmoved.
let sumR: f32 = 0;
let sumX: f32 = 0;
let sumY: f32 = 0;

/** Squared difference, its mean taken out, of the patch at `still` and the one at (x, y) of `plane`, any fraction. */
function mismatch(still: usize, plane: usize, stride: i32, x: f32, y: f32): f32 {
  return compare(still, 0, 0, plane, stride, x, y, false);
}

/** As `mismatch`, and leaves the sums a step needs. */
function measure(still: usize, alongX: usize, alongY: usize, plane: usize, stride: i32, x: f32, y: f32): f32 {
  return compare(still, alongX, alongY, plane, stride, x, y, true);
}

// @ts-ignore: decorator
@inline
function compare(still: usize, alongX: usize, alongY: usize, plane: usize, stride: i32, x: f32, y: f32, withSlopes: bool): f32 {
  const fx = Mathf.floor(x);
  const fy = Mathf.floor(y);
  const across = q15(x - fx);
  const down = q15(y - fy);
  const bytes = stride << 1;
  let at = plane + ((<i32>fy * stride + <i32>fx) << 1);
  const ones = i16x8.splat(1);
  let squares = i32x4.splat(0);
  let sums = i32x4.splat(0);
  let xs = i32x4.splat(0);
  let ys = i32x4.splat(0);
  let upper = between(v128.load(at), v128.load(at + 2), across);
  for (let row = 0; row < PATCH; row++) {
    at += bytes;
    const lower = between(v128.load(at), v128.load(at + 2), across);
    const r = i16x8.sub(between(upper, lower, down), v128.load(still));
    squares = i32x4.add(squares, i32x4.dot_i16x8_s(r, r));
    sums = i32x4.add(sums, i32x4.dot_i16x8_s(r, ones));
    if (withSlopes) {
      xs = i32x4.add(xs, i32x4.dot_i16x8_s(r, v128.load(alongX)));
      ys = i32x4.add(ys, i32x4.dot_i16x8_s(r, v128.load(alongY)));
      alongX += bytes;
      alongY += bytes;
    }
    upper = lower;
    still += bytes;
  }
  const sum = total(sums);
  if (withSlopes) {
    sumR = sum;
    sumX = total(xs);
    sumY = total(ys);
  }
  return total(squares) - (sum * sum) / AREA;
}

// The patch being searched, and its Hessian.
let still: usize = 0;
let stillX: usize = 0;
let stillY: usize = 0;
let meanX: f32 = 0;
let meanY: f32 = 0;
let h11: f32 = 0;
let h12: f32 = 0;
let h22: f32 = 0;

/** Sets the patch whose corner is (x, y). Slopes are stored doubled, so its Hessian is 4 times, its steps half as long. */
function take(plane: usize, alongX: usize, alongY: usize, stride: i32, x: i32, y: i32): void {
  const offset = (y * stride + x) << 1;
  still = plane + offset;
  stillX = alongX + offset;
  stillY = alongY + offset;
  const ones = i16x8.splat(1);
  let xx = i32x4.splat(0);
  let xy = i32x4.splat(0);
  let yy = i32x4.splat(0);
  let sx = i32x4.splat(0);
  let sy = i32x4.splat(0);
  const bytes = stride << 1;
  for (let row = 0; row < PATCH; row++) {
    const gx = v128.load(stillX + row * bytes);
    const gy = v128.load(stillY + row * bytes);
    xx = i32x4.add(xx, i32x4.dot_i16x8_s(gx, gx));
    xy = i32x4.add(xy, i32x4.dot_i16x8_s(gx, gy));
    yy = i32x4.add(yy, i32x4.dot_i16x8_s(gy, gy));
    sx = i32x4.add(sx, i32x4.dot_i16x8_s(gx, ones));
    sy = i32x4.add(sy, i32x4.dot_i16x8_s(gy, ones));
  }
  meanX = total(sx) / AREA;
  meanY = total(sy) / AREA;
  // A little on the diagonal: a patch without texture stays where its neighbours put it.
  h11 = total(xx) - meanX * meanX * AREA + FLAT;
  h12 = total(xy) - meanX * meanY * AREA;
  h22 = total(yy) - meanY * meanY * AREA + FLAT;
}
const FLAT: f32 = 64 * 24 * 24;

let foundX: f32 = 0;
let foundY: f32 = 0;

/** Steps from (x, y), the patch's corner in the other picture, until they get small or no better; returns the mismatch. */
function descend(plane: usize, stride: i32, x: f32, y: f32, steps: i32, reach: f32, maxX: f32, maxY: f32): f32 {
  const determinant = h11 * h22 - h12 * h12;
  const startX = x;
  const startY = y;
  let best = measure(still, stillX, stillY, plane, stride, x, y);
  foundX = x;
  foundY = y;
  const scale = determinant > 0 ? <f32>2 / determinant : <f32>0;
  for (let step = 0; step < steps; step++) {
    const bx = sumX - meanX * sumR;
    const by = sumY - meanY * sumR;
    const dx = (h22 * bx - h12 * by) * scale;
    const dy = (h11 * by - h12 * bx) * scale;
    x -= dx;
    y -= dy;
    if (!(Mathf.abs(x - startX) <= reach && Mathf.abs(y - startY) <= reach)) break;
    x = Mathf.max(-8, Mathf.min(maxX, x));
    y = Mathf.max(-8, Mathf.min(maxY, y));
    const now = measure(still, stillX, stillY, plane, stride, x, y);
    if (!(now < best)) break;
    best = now;
    foundX = x;
    foundY = y;
    if (dx * dx + dy * dy < <f32>0.0009) break;
  }
  return best;
}

/**
 * One pass over a level's patches. Patch (i, j) has its corner at (min(i·step, width−8), min(j·step, height−8)). `found`
 * holds a displacement (u, v) for each, `costs` its mismatch. A forward pass takes `found` as first guesses and tries what
 * the neighbours before it found; a backward pass tries what the neighbours after it found.
 */
export function searchPatches(
  plane0: usize,
  plane1: usize,
  alongX: usize,
  alongY: usize,
  stride: i32,
  width: i32,
  height: i32,
  step: i32,
  columns: i32,
  rows: i32,
  found: usize,
  costs: usize,
  steps: i32,
  forward: bool,
): void {
  const maxX = <f32>width;
  const maxY = <f32>height;
  for (let k = 0; k < rows; k++) {
    const j = forward ? k : rows - 1 - k;
    const y = min(j * step, height - PATCH);
    for (let l = 0; l < columns; l++) {
      const i = forward ? l : columns - 1 - l;
      const x = min(i * step, width - PATCH);
      const index = j * columns + i;
      let u = load<f32>(found + (index << 3));
      let v = load<f32>(found + (index << 3) + 4);
      const own = plane0 + ((y * stride + x) << 1);
      let cost = forward ? mismatch(own, plane1, stride, within(<f32>x + u, maxX), within(<f32>y + v, maxY)) : load<f32>(costs + (index << 2));
      let improved = forward;
      for (let n = 0; n < 2; n++) {
        if (n == 0 ? i == (forward ? 0 : columns - 1) : j == (forward ? 0 : rows - 1)) continue;
        const away = n == 0 ? 1 : columns;
        const other = found + ((forward ? index - away : index + away) << 3);
        const ou = load<f32>(other);
        const ov = load<f32>(other + 4);
        if (Mathf.abs(ou - u) + Mathf.abs(ov - v) < <f32>0.1) continue;
        const its = mismatch(own, plane1, stride, within(<f32>x + ou, maxX), within(<f32>y + ov, maxY));
        if (its < cost * <f32>0.95) {
          cost = its;
          u = ou;
          v = ov;
          improved = true;
        }
      }
      if (!improved) continue;
      take(plane0, alongX, alongY, stride, x, y);
      cost = descend(plane1, stride, within(<f32>x + u, maxX), within(<f32>y + v, maxY), steps, <f32>PATCH, maxX, maxY);
      const way = Mathf.abs(foundX - <f32>x) + Mathf.abs(foundY - <f32>y);
      if (forward && way > NEAR) {
        const whole = structure(own, stride);
        if (mismatch(own, plane1, stride, <f32>x, <f32>y) < STAYS * whole) {
          const farX = foundX;
          const farY = foundY;
          const near = descend(plane1, stride, <f32>x, <f32>y, steps, <f32>PATCH, maxX, maxY);
          if (near <= cost + (FAR_WAY / <f32>width) * way * whole) cost = near;
          else {
            foundX = farX;
            foundY = farY;
          }
        }
      }
      store<f32>(found + (index << 3), foundX - <f32>x);
      store<f32>(found + (index << 3) + 4, foundY - <f32>y);
      store<f32>(costs + (index << 2), cost);
    }
  }
}

/**
 * Patches that nothing near explains look everywhere within `rangeX`, `rangeY`, whole samples first: small and thin things
 * that move further than they are wide, which the coarser levels cannot see. What is found must explain far more.
 */
export function searchAfar(
  plane0: usize,
  plane1: usize,
  alongX: usize,
  alongY: usize,
  stride: i32,
  width: i32,
  height: i32,
  step: i32,
  columns: i32,
  rows: i32,
  found: usize,
  costs: usize,
  steps: i32,
  rangeX: i32,
  rangeY: i32,
): void {
  for (let j = 0; j < rows; j++) {
    const y = min(j * step, height - PATCH);
    for (let i = 0; i < columns; i++) {
      const x = min(i * step, width - PATCH);
      const index = j * columns + i;
      const cost = load<f32>(costs + (index << 2));
      if (cost < UNEXPLAINED) continue;
      const own = plane0 + ((y * stride + x) << 1);
      let best: f32 = cost * FAR_BETTER;
      let bu = 0;
      let bv = 0;
      for (let v = max(-rangeY, -4 - y); v <= min(rangeY, height - 4 - y); v++) {
        for (let u = max(-rangeX, -4 - x); u <= min(rangeX, width - 4 - x); u++) {
          const its = wholeMismatch(own, plane1 + (((y + v) * stride + x + u) << 1), stride);
          if (its < best) {
            best = its;
            bu = u;
            bv = v;
          }
        }
      }
      if (bu == 0 && bv == 0) continue;
      take(plane0, alongX, alongY, stride, x, y);
      const refined = descend(plane1, stride, <f32>(x + bu), <f32>(y + bv), steps, <f32>PATCH, <f32>width, <f32>height);
      store<f32>(found + (index << 3), foundX - <f32>x);
      store<f32>(found + (index << 3) + 4, foundY - <f32>y);
      store<f32>(costs + (index << 2), refined);
    }
  }
}
/** A patch's mismatch that asks for a look further off: 6 grey levels at every sample. */
const UNEXPLAINED: f32 = 64 * 96 * 96;
const FAR_BETTER: f32 = 0.35;

/** As `mismatch`, at a whole displacement. */
// @ts-ignore: decorator
@inline
function wholeMismatch(still: usize, moved: usize, stride: i32): f32 {
  const bytes = stride << 1;
  const ones = i16x8.splat(1);
  let squares = i32x4.splat(0);
  let sums = i32x4.splat(0);
  for (let row = 0; row < PATCH; row++) {
    const r = i16x8.sub(v128.load(moved), v128.load(still));
    squares = i32x4.add(squares, i32x4.dot_i16x8_s(r, r));
    sums = i32x4.add(sums, i32x4.dot_i16x8_s(r, ones));
    still += bytes;
    moved += bytes;
  }
  const sum = total(sums);
  return total(squares) - (sum * sum) / AREA;
}

/** Sum of the squares of a patch, its mean taken out. */
function structure(patch: usize, stride: i32): f32 {
  const bytes = stride << 1;
  const ones = i16x8.splat(1);
  let squares = i32x4.splat(0);
  let sums = i32x4.splat(0);
  for (let row = 0; row < PATCH; row++) {
    const r = v128.load(patch);
    squares = i32x4.add(squares, i32x4.dot_i16x8_s(r, r));
    sums = i32x4.add(sums, i32x4.dot_i16x8_s(r, ones));
    patch += bytes;
  }
  const sum = total(sums);
  return total(squares) - (sum * sum) / AREA;
}
/** A way longer by a sample must explain this share of a patch's structure more: of ways that explain it alike the short one is taken. */
const FAR_WAY: f32 = 0.6;
/** Ways of more samples than this are compared with what is found near by … */
const NEAR: f32 = 3;
/** … where the other picture, unmoved, leaves less than this share of the patch's structure. */
const STAYS: f32 = 1;

/**
 * A first guess for every patch of the coarsest level by trying every whole displacement up to `rangeX`, `rangeY`.
 * Long ways must be clearly better than short ones.
 */
export function scanPatches(
  plane0: usize,
  plane1: usize,
  stride: i32,
  width: i32,
  height: i32,
  step: i32,
  columns: i32,
  rows: i32,
  found: usize,
  rangeX: i32,
  rangeY: i32,
): void {
  for (let j = 0; j < rows; j++) {
    const y = min(j * step, height - PATCH);
    for (let i = 0; i < columns; i++) {
      const x = min(i * step, width - PATCH);
      const from = plane0 + ((y * stride + x) << 1);
      const perSample = AREA * <f32>(32 * 32) * <f32>0.02 + (FAR_WAY / <f32>width) * structure(from, stride);
      let best: f32 = f32.MAX_VALUE;
      let bu = 0;
      let bv = 0;
      for (let v = max(-rangeY, -8 - y); v <= min(rangeY, height - y); v++) {
        for (let u = max(-rangeX, -8 - x); u <= min(rangeX, width - x); u++) {
          // Hanging over the edge compares with made-up samples: dearer by the share that does.
          const outX = max(0, max(-(x + u), x + u + PATCH - width));
          const outY = max(0, max(-(y + v), y + v + PATCH - height));
          const inside = <f32>((PATCH - outX) * (PATCH - outY)) / AREA;
          if (inside < <f32>0.4) continue;
          const cost = (wholeMismatch(from, plane1 + (((y + v) * stride + x + u) << 1), stride) + AREA * <f32>(32 * 32) + perSample * <f32>(abs(u) + abs(v))) / inside;
          if (cost < best) {
            best = cost;
            bu = u;
            bv = v;
          }
        }
      }
      const at = found + ((j * columns + i) << 3);
      store<f32>(at, <f32>bu);
      store<f32>(at + 4, <f32>bv);
    }
  }
}
