// A change of exposure between two pictures: the second is about gain · first + offset.
import { PATCH } from './inverse-search';
import { repeatEdges } from './image';
import { total } from './lanes';

let gain: f32 = 1;
let offset: f32 = 0;
export function exposureGain(): f32 {
  return gain;
}
/** In 12-bit steps. */
export function exposureOffset(): f32 {
  return offset;
}

/**
 * Fits gain and offset to the means of patches and of what they were matched with, by least squares reweighted against
 * outliers (Cauchy weights; P. Holland, R. Welsch, "Robust regression using iteratively reweighted least-squares", 1977).
 * `means` is room for 2 floats a patch. Left at 1 and 0 when the means say too little.
 */
export function fitExposure(
  plane0: usize,
  plane1: usize,
  stride: i32,
  width: i32,
  height: i32,
  step: i32,
  columns: i32,
  rows: i32,
  found: usize,
  means: usize,
): void {
  const count = columns * rows;
  for (let j = 0; j < rows; j++) {
    const y = min(j * step, height - PATCH);
    for (let i = 0; i < columns; i++) {
      const x = min(i * step, width - PATCH);
      const index = j * columns + i;
      const tx = max(-PATCH, min(width, x + <i32>Mathf.round(load<f32>(found + (index << 3)))));
      const ty = max(-PATCH, min(height, y + <i32>Mathf.round(load<f32>(found + (index << 3) + 4))));
      store<f32>(means + (index << 3), mean(plane0 + ((y * stride + x) << 1), stride));
      store<f32>(means + (index << 3) + 4, mean(plane1 + ((ty * stride + tx) << 1), stride));
    }
  }
  gain = 1;
  offset = 0;
  for (let round = 0; round < 8; round++) {
    let n: f32 = 0;
    let sx: f32 = 0;
    let sy: f32 = 0;
    let sxx: f32 = 0;
    let sxy: f32 = 0;
    for (let index = 0; index < count; index++) {
      const x = load<f32>(means + (index << 3));
      const y = load<f32>(means + (index << 3) + 4);
      const r = (y - gain * x - offset) / SCALE;
      // The first round takes all patches alike.
      const w = round == 0 ? <f32>1 : <f32>1 / (<f32>1 + r * r);
      n += w;
      sx += w * x;
      sy += w * y;
      sxx += w * x * x;
      sxy += w * x * y;
    }
    const spread = sxx / n - (sx / n) * (sx / n);
    if (spread < TOO_EVEN) {
      gain = 1;
      offset = (sy - sx) / n;
    } else {
      gain = Mathf.max(0.5, Mathf.min(2, (sxy / n - (sx / n) * (sy / n)) / spread));
      offset = sy / n - gain * (sx / n);
    }
  }
  // Believed when it explains most patches much better than no change does.
  let better = 0;
  for (let index = 0; index < count; index++) {
    const x = load<f32>(means + (index << 3));
    const y = load<f32>(means + (index << 3) + 4);
    if (Mathf.abs(y - gain * x - offset) < <f32>0.5 * Mathf.abs(y - x)) better++;
  }
  if (<f32>better < MOST * <f32>count) {
    gain = 1;
    offset = 0;
  }
}
const MOST: f32 = 0.7;
/** Residuals beyond this count little: 1.5 grey levels. */
const SCALE: f32 = 24;
/** A variance of means too small to tell a gain from: 4 grey levels. */
const TOO_EVEN: f32 = 64 * 64;

function mean(at: usize, stride: i32): f32 {
  const ones = i16x8.splat(1);
  let sums = i32x4.splat(0);
  for (let row = 0; row < PATCH; row++) {
    sums = i32x4.add(sums, i32x4.dot_i16x8_s(v128.load(at), ones));
    at += stride << 1;
  }
  return total(sums) / 64;
}

/** value · gain + offset for a whole plane, with its border; `target` may be the plane itself. */
export function expose(plane: usize, target: usize, stride: i32, width: i32, height: i32, by: f32, plus: f32): void {
  const g = f32x4.splat(by);
  const o = f32x4.splat(plus + <f32>0.5);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 8) {
      const at = (y * stride + x) << 1;
      const value = v128.load(plane + at);
      const low = i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.add(f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_s(value)), g), o)));
      const high = i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.add(f32x4.mul(f32x4.convert_i32x4_s(i32x4.extend_high_i16x8_s(value)), g), o)));
      v128.store(target + at, i16x8.narrow_i32x4_s(low, high));
    }
  }
  repeatEdges(target, stride, width, height);
}
