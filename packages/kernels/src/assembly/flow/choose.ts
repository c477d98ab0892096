// What tells how well motion explains a moment, block by block, and the picture brought nearer to the plain blend where it does not.
import { between, eightShares, HIDDEN, nearestPoint, q15, square } from './lanes';
import { bilinearWithin as at, squaredSlope } from './patches';
import { store8 } from './synthesise';

/** A block, in grid points across and down; every second point of every second row is looked at. */
const BLOCK: i32 = 8;
const STRIDE: i32 = 2;
/** Numbers of a block. */
const TERMS: i32 = 12;

/**
 * `out` gets 12 sums for every block of 8 × 8 grid points: points looked at; those both pictures see; over these the squared
 * difference of the pictures along the motion; over all points that of the pictures unmoved, that of the picture by motion and
 * the plain blend, the distrust, the squared slope, the squared slope times the distrust, what a point would change if it went
 * straight, what it would if its speed changed otherwise than it does (half the difference of the accelerations at both ends), the
 * squared change of the way from pair to pair, and the variance of the ways. Grey levels of 8 bits, grid steps. `a` and `b` are the
 * pictures on the grid, as exposed at that moment; `before` and `after` the fields from the first picture back and from the second
 * on, 0: not known.
 */
export function blockTerms(
  a: usize,
  b: usize,
  stride: i32,
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
  const columns = (width + BLOCK - 1) / BLOCK;
  const rows = (height + BLOCK - 1) / BLOCK;
  const bow = <f32>0.5 * fraction * (<f32>1 - fraction);
  const maxX = <f32>width;
  const maxY = <f32>height;
  for (let j = 0; j < rows; j++) {
    for (let i = 0; i < columns; i++) {
      let count: f32 = 0;
      let both: f32 = 0;
      let along: f32 = 0;
      let unmoved: f32 = 0;
      let apart: f32 = 0;
      let distrust: f32 = 0;
      let slopes: f32 = 0;
      let loose: f32 = 0;
      let bowed: f32 = 0;
      let jerked: f32 = 0;
      let changed: f32 = 0;
      let sumX: f32 = 0;
      let sumY: f32 = 0;
      let squares: f32 = 0;
      for (let y = j * BLOCK; y < min(height, (j + 1) * BLOCK); y += STRIDE) {
        for (let x = i * BLOCK; x < min(width, (i + 1) * BLOCK); x += STRIDE) {
          const index = y * width + x;
          const vector = v128.load(vectors + (index << 4));
          const w0 = load<f32>(weights + (index << 3));
          const w1 = load<f32>(weights + (index << 3) + 4);
          const ax = <f32>x + f32x4.extract_lane(vector, 0);
          const ay = <f32>y + f32x4.extract_lane(vector, 1);
          const bx = <f32>x + f32x4.extract_lane(vector, 2);
          const by = <f32>y + f32x4.extract_lane(vector, 3);
          const first = at(a, stride, ax, ay, maxX, maxY);
          const second = at(b, stride, bx, by, maxX, maxY);
          const here = a + ((y * stride + x) << 1);
          const still = <f32>load<i16>(here);
          const other = <f32>load<i16>(b + ((y * stride + x) << 1));
          count += 1;
          if (w0 >= HIDDEN * (<f32>1 - fraction) && w1 >= HIDDEN * fraction) {
            both += 1;
            along += square(first - second);
          }
          unmoved += square(still - other);
          apart += square((first * w0 + second * w1) / (w0 + w1) - still - (other - still) * fraction);
          const doubt = <f32>1 - Mathf.max(0, Mathf.max(load<f32>(scores0 + (index << 2)), load<f32>(scores1 + (index << 2))));
          const slope = squaredSlope(here, stride);
          distrust += doubt;
          slopes += slope;
          loose += doubt * slope;
          const wayX = bx - ax;
          const wayY = by - ay;
          sumX += wayX;
          sumY += wayY;
          squares += wayX * wayX + wayY * wayY;
          if (before == 0 && after == 0) continue;
          let nearX: f32 = 0;
          let nearY: f32 = 0;
          let farX: f32 = 0;
          let farY: f32 = 0;
          let ends: f32 = 0;
          if (before != 0) {
            const back = before + (nearestPoint(width, height, ax, ay) << 3);
            nearX = wayX + load<f32>(back);
            nearY = wayY + load<f32>(back, 4);
            ends += 1;
          }
          if (after != 0) {
            const on = after + (nearestPoint(width, height, bx, by) << 3);
            farX = load<f32>(on) - wayX;
            farY = load<f32>(on, 4) - wayY;
            ends += 1;
          }
          changed += (nearX * nearX + nearY * nearY + farX * farX + farY * farY) / ends;
          bowed += square(first - at(a, stride, ax + (bow * (nearX + farX)) / ends, ay + (bow * (nearY + farY)) / ends, maxX, maxY));
          if (ends == 2) jerked += square(first - at(a, stride, ax + <f32>0.5 * bow * (nearX - farX), ay + <f32>0.5 * bow * (nearY - farY), maxX, maxY));
        }
      }
      const to = out + (((j * columns + i) * TERMS) << 2);
      store<f32>(to, count);
      store<f32>(to, both, 4);
      store<f32>(to, along * GREY, 8);
      store<f32>(to, unmoved * GREY, 12);
      store<f32>(to, apart * GREY, 16);
      store<f32>(to, distrust, 20);
      store<f32>(to, slopes * GREY, 24);
      store<f32>(to, loose * GREY, 28);
      store<f32>(to, bowed * GREY, 32);
      store<f32>(to, jerked * GREY, 36);
      store<f32>(to, changed, 40);
      store<f32>(to, Mathf.max(0, squares - (sumX * sumX + sumY * sumY) / count), 44);
    }
  }
}
/** Squares of 12-bit steps as squares of grey levels of 8 bits. */
const GREY: f32 = 1.0 / 256.0;

/**
 * `out` gets each block's terms with those around it: weights fall evenly from `reach` + 1 at the block to 0 beyond `reach` blocks, across
 * and down. `between` holds as much. From one block to the next the sum grows by those ahead and shrinks by those behind, so that a long
 * reach costs no more than a short one.
 */
export function gatherTerms(terms: usize, columns: i32, rows: i32, reach: i32, between: usize, out: usize): void {
  gatherAlong(terms, columns, rows, 1, columns, reach, between);
  gatherAlong(between, rows, columns, columns, 1, reach, out);
}

/** Bytes of a block's terms: three vectors of four. */
const EACH: i32 = TERMS * 4;

/** `count` blocks, `step` apart, in each of `lines` lines that are `next` apart. */
function gatherAlong(terms: usize, count: i32, lines: i32, step: i32, next: i32, reach: i32, out: usize): void {
  const bytes = step * EACH;
  for (let line = 0; line < lines; line++) {
    const start = line * next * EACH;
    for (let part = 0; part < EACH; part += 16) {
      const first = terms + start + part;
      let sum = f32x4.splat(0);
      let ahead = f32x4.splat(0);
      let behind = f32x4.splat(0);
      // As if it stood just before the first block.
      for (let k = 0; k <= reach && k < count; k++) {
        const value = v128.load(first + k * bytes);
        ahead = f32x4.add(ahead, value);
        sum = f32x4.add(sum, f32x4.mul(f32x4.splat(<f32>(reach - k)), value));
      }
      for (let k = 0; k < count; k++) {
        sum = f32x4.add(sum, f32x4.sub(ahead, behind));
        // What leaves by rounding does not stay: a sum of squares is never below 0.
        v128.store(out + start + part + k * bytes, f32x4.pmax(sum, f32x4.splat(0)));
        const own = v128.load(first + k * bytes);
        const enters = k + reach + 1 < count ? v128.load(first + (k + reach + 1) * bytes) : f32x4.splat(0);
        const leaves = k - reach - 1 >= 0 ? v128.load(first + (k - reach - 1) * bytes) : f32x4.splat(0);
        ahead = f32x4.add(ahead, f32x4.sub(enters, own));
        behind = f32x4.add(behind, f32x4.sub(own, leaves));
      }
    }
  }
}

/** A share of all but a rounding. */
const WHOLE: f32 = 0.9999;

/**
 * Brings a plane of `width` × `height` samples in `out` nearer to the plain blend of `a` and `b`, 12-bit planes with borders as
 * exposed at that moment: motion keeps `shares` of each sample, which lie at the middles of `columns` × `rows` blocks and go over
 * from one to the next. `perX`, `perY` are blocks per sample. `bits` is the output's depth; 8 reads and writes bytes.
 */
export function blendDoubted(
  a: usize,
  b: usize,
  stride: i32,
  width: i32,
  height: i32,
  fraction: f32,
  shares: usize,
  columns: i32,
  rows: i32,
  perX: f32,
  perY: f32,
  out: usize,
  bits: i32,
): void {
  const gain = <f32>(1 << bits) / <f32>4096;
  const most = <f32>((1 << bits) - 1);
  const wide = bits == 8 ? 0 : 1;
  const second = q15(fraction);
  for (let y = 0; y < height; y++) {
    const gy = Mathf.max(0, Mathf.min(<f32>(rows - 1), (<f32>y + <f32>0.5) * perY - <f32>0.5));
    const j = min(<i32>gy, max(0, rows - 2));
    const upper = shares + ((j * columns) << 2);
    const lower = rows == 1 ? upper : upper + (columns << 2);
    const fy = gy - <f32>j;
    // Whole all along: the most of most pictures.
    if (!anyPart(upper, columns) && !anyPart(lower, columns)) continue;
    let x = 0;
    let left = load<f32>(upper) + (load<f32>(lower) - load<f32>(upper)) * fy;
    for (let i = 0; x < width; i++) {
      const next = min(i + 1, columns - 1);
      // The first sample beyond the middle of the next block.
      const end = next >= columns - 1 ? width : min(width, max(x + 1, <i32>Mathf.ceil((<f32>next + <f32>0.5) / perX - <f32>0.5)));
      const above = load<f32>(upper + (next << 2));
      const right = above + (load<f32>(lower + (next << 2)) - above) * fy;
      if (left < WHOLE || right < WHOLE) {
        const step = (right - left) * perX;
        const start = left + (right - left) * ((<f32>x + <f32>0.5) * perX - <f32>0.5 - <f32>i);
        const low = Mathf.min(left, right);
        const high = Mathf.max(left, right);
        let k = x;
        if (bits <= 12) {
          // At half the scale: at the picture's edges a line may begin beyond 1.
          const ramp = i16x8.shr_s(eightShares(0, step), 1);
          const least = i16x8.shr_s(q15(low), 1);
          const greatest = i16x8.shr_s(q15(high), 1);
          for (; k + 8 <= end; k += 8) {
            const here = (y * stride + k) << 1;
            const mix = between(v128.load(a + here), v128.load(b + here), second);
            const from = i16x8.splat(<i16>((start + step * <f32>(k - x)) * 16383));
            const share = i16x8.shl(i16x8.min_s(greatest, i16x8.max_s(least, i16x8.add_sat_s(from, ramp))), 1);
            const to = out + ((y * width + k) << wide);
            store8(to, between(mix, load8(to, bits), share), bits);
          }
        }
        for (; k < end; k++) {
          const share = Mathf.max(low, Mathf.min(high, start + step * <f32>(k - x)));
          const here = (y * stride + k) << 1;
          const first = <f32>load<i16>(a + here);
          const mix = (first + (<f32>load<i16>(b + here) - first) * fraction) * gain;
          const to = out + ((y * width + k) << wide);
          const motion = bits == 8 ? <f32>load<u8>(to) : <f32>load<u16>(to);
          const value = Mathf.max(0, Mathf.min(most, mix + (motion - mix) * share + <f32>0.5));
          if (bits == 8) store<u8>(to, <u8>value);
          else store<u16>(to, <u16>value);
        }
      }
      x = end;
      left = right;
    }
  }
}

/** Whether one of a row of shares is not whole. */
// @ts-ignore: decorator
@inline
function anyPart(row: usize, count: i32): bool {
  for (let i = 0; i < count; i++) if (load<f32>(row + (i << 2)) < WHOLE) return true;
  return false;
}

/** Eight samples of at most 12 bits as 12-bit ones. */
// @ts-ignore: decorator
@inline
function load8(from: usize, bits: i32): v128 {
  if (bits == 8) return i16x8.shl(i16x8.extend_low_i8x16_u(v128.load64_zero(from)), 4);
  return i16x8.shl(v128.load(from), 12 - bits);
}
