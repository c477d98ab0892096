// From what patches found to a vector for every point, and from one level of the pyramid to the next.
import { AREA, PATCH } from './inverse-search';
import { between, q15, total, within } from './lanes';

/**
 * The level's field, (u, v) for every sample: the weighted mean of the patches that cover it, weights falling with the
 * difference that a patch leaves there. `sums` is room for 3 · width · height floats.
 */
export function spread(
  plane0: usize,
  plane1: usize,
  stride: i32,
  width: i32,
  height: i32,
  step: i32,
  columns: i32,
  rows: i32,
  found: usize,
  field: usize,
  sums: usize,
): void {
  const count = width * height;
  memory.fill(sums, 0, count * 12);
  const sumsU = sums;
  const sumsV = sums + (count << 2);
  const weights = sums + (count << 3);
  const bytes = stride << 1;
  const ones = i16x8.splat(1);
  const unit = f32x4.splat(FULL_WEIGHT);
  for (let j = 0; j < rows; j++) {
    const y = min(j * step, height - PATCH);
    for (let i = 0; i < columns; i++) {
      const x = min(i * step, width - PATCH);
      const index = (j * columns + i) << 3;
      const pu = load<f32>(found + index);
      const pv = load<f32>(found + index + 4);
      const tx = within(<f32>x + pu, <f32>width);
      const ty = within(<f32>y + pv, <f32>height);
      const fx = Mathf.floor(tx);
      const fy = Mathf.floor(ty);
      const across = q15(tx - fx);
      const down = q15(ty - fy);
      let at = plane1 + ((<i32>fy * stride + <i32>fx) << 1);
      let from = plane0 + ((y * stride + x) << 1);
      let totals = i32x4.splat(0);
      let upper = between(v128.load(at), v128.load(at + 2), across);
      for (let row = 0; row < PATCH; row++) {
        at += bytes;
        const lower = between(v128.load(at), v128.load(at + 2), across);
        const r = i16x8.sub(between(upper, lower, down), v128.load(from));
        v128.store(differences + (row << 4), r);
        totals = i32x4.add(totals, i32x4.dot_i16x8_s(r, ones));
        upper = lower;
        from += bytes;
      }
      const mean = i16x8.splat(<i16>(total(totals) / AREA));
      const uu = f32x4.splat(pu);
      const vv = f32x4.splat(pv);
      let to = (y * width + x) << 2;
      for (let row = 0; row < PATCH; row++) {
        const r = i16x8.abs(i16x8.sub(v128.load(differences + (row << 4)), mean));
        addWeighted(to, unit, i32x4.extend_low_i16x8_s(r), uu, vv, sumsU, sumsV, weights);
        addWeighted(to + 16, unit, i32x4.extend_high_i16x8_s(r), uu, vv, sumsU, sumsV, weights);
        to += width << 2;
      }
    }
  }
  for (let i = 0; i < count; i += 4) {
    const w = v128.load(weights + (i << 2));
    const u = f32x4.div(v128.load(sumsU + (i << 2)), w);
    const v = f32x4.div(v128.load(sumsV + (i << 2)), w);
    v128.store(field + (i << 3), i8x16.shuffle(u, v, 0, 1, 2, 3, 16, 17, 18, 19, 4, 5, 6, 7, 20, 21, 22, 23));
    v128.store(field + (i << 3) + 16, i8x16.shuffle(u, v, 8, 9, 10, 11, 24, 25, 26, 27, 12, 13, 14, 15, 28, 29, 30, 31));
  }
}
/** Differences below this, in 12-bit steps, weigh fully: 1 grey level. */
const FULL_WEIGHT: f32 = 16;
const differences: usize = memory.data(128, 16);

// @ts-ignore: decorator
@inline
function addWeighted(to: i32, unit: v128, r: v128, uu: v128, vv: v128, sumsU: usize, sumsV: usize, weights: usize): void {
  const ratio = f32x4.div(unit, f32x4.pmax(unit, f32x4.convert_i32x4_s(r)));
  const w = f32x4.mul(ratio, ratio);
  v128.store(sumsU + to, f32x4.add(v128.load(sumsU + to), f32x4.mul(w, uu)));
  v128.store(sumsV + to, f32x4.add(v128.load(sumsV + to), f32x4.mul(w, vv)));
  v128.store(weights + to, f32x4.add(v128.load(weights + to), w));
}

/** The guesses of a level's patches: the coarser level's field at each patch's middle, twice as long. */
export function inherit(coarse: usize, coarseWidth: i32, coarseHeight: i32, width: i32, height: i32, step: i32, columns: i32, rows: i32, found: usize): void {
  for (let j = 0; j < rows; j++) {
    const y = (min(j * step, height - PATCH) + PATCH / 2) >> 1;
    for (let i = 0; i < columns; i++) {
      const x = (min(i * step, width - PATCH) + PATCH / 2) >> 1;
      const at = coarse + ((min(y, coarseHeight - 1) * coarseWidth + min(x, coarseWidth - 1)) << 3);
      const to = found + ((j * columns + i) << 3);
      store<f32>(to, <f32>2 * load<f32>(at));
      store<f32>(to + 4, <f32>2 * load<f32>(at + 4));
    }
  }
}

/**
 * Evens a field out without blurring where motions meet: each vector becomes the mean of those `SPACING` points away all
 * round that are within `ALIKE` grid steps of it. A field that changes evenly stays as it is. `from` and `to` differ.
 */
export function smoothAlike(from: usize, to: usize, width: i32, height: i32): void {
  const near = f32x4.splat(ALIKE);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 2) {
      const at = (y * width + x) << 3;
      const own = v128.load(from + at);
      let sum = own;
      let count = f32x4.splat(1);
      if (x >= SPACING && x + SPACING + 1 < width && y >= SPACING && y + SPACING < height) {
        for (let j = -SPACING; j <= SPACING; j += SPACING) {
          for (let i = -SPACING; i <= SPACING; i += SPACING) {
            if ((i | j) == 0) continue;
            const other = v128.load(from + at + ((j * width + i) << 3));
            const close = f32x4.lt(f32x4.abs(f32x4.sub(other, own)), near);
            // Both of a pair, or neither.
            const both = v128.and(close, i8x16.shuffle(close, close, 4, 5, 6, 7, 0, 1, 2, 3, 12, 13, 14, 15, 8, 9, 10, 11));
            sum = f32x4.add(sum, v128.and(other, both));
            count = f32x4.add(count, v128.and(f32x4.splat(1), both));
          }
        }
      }
      const mean = f32x4.div(sum, count);
      if (x + 1 < width) v128.store(to + at, mean);
      else v128.store64_lane(to + at, mean, 0);
    }
  }
}
const SPACING: i32 = 3;
const ALIKE: f32 = 0.5;
