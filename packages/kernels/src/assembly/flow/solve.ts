// One way and two weights for every point of the moment in between, from what both sides carried there.
import { nearestPoint, within } from './lanes';
import { patchDifference } from './patches';

// @ts-ignore: decorator
@inline
function difference(plane0: usize, plane1: usize, stride: i32, width: i32, height: i32, x: i32, y: i32, vector: v128): f32 {
  const maxX = <f32>width;
  const maxY = <f32>height;
  return patchDifference(
    plane0,
    plane1,
    stride,
    within(<f32>(x - 4) + f32x4.extract_lane(vector, 0), maxX),
    within(<f32>(y - 4) + f32x4.extract_lane(vector, 1), maxY),
    within(<f32>(x - 4) + f32x4.extract_lane(vector, 2), maxX),
    within(<f32>(y - 4) + f32x4.extract_lane(vector, 3), maxY),
  );
}

// @ts-ignore: decorator
@inline
function apart(a: v128, b: v128): f32 {
  const d = f32x4.abs(f32x4.sub(a, b));
  return f32x4.extract_lane(d, 0) + f32x4.extract_lane(d, 1) + f32x4.extract_lane(d, 2) + f32x4.extract_lane(d, 3);
}

// @ts-ignore: decorator
@inline
function outside(vector: v128, lane: i32, x: i32, y: i32, width: i32, height: i32): bool {
  const px = <f32>x + (lane == 0 ? f32x4.extract_lane(vector, 0) : f32x4.extract_lane(vector, 2));
  const py = <f32>y + (lane == 0 ? f32x4.extract_lane(vector, 1) : f32x4.extract_lane(vector, 3));
  return px < <f32>-0.5 || py < <f32>-0.5 || px > <f32>width - <f32>0.5 || py > <f32>height - <f32>0.5;
}

/**
 * One vector and two weights for every grid point, from what both sides carried there. Where the sides agree their mean is
 * taken; otherwise the one that makes the two pictures match better; where neither does, the point is taken to be hidden in
 * the picture whose side brought nothing. `weights` holds pairs: the first picture's share and the second's.
 */
export function solve(
  plane0: usize,
  plane1: usize,
  stride: i32,
  width: i32,
  height: i32,
  fraction: f32,
  field0: usize,
  trust0: usize,
  field1: usize,
  trust1: usize,
  vectors0: usize,
  scores0: usize,
  vectors1: usize,
  scores1: usize,
  vectors: usize,
  weights: usize,
): void {
  const keep = f32x4.splat(<f32>1 - fraction);
  const give = f32x4.splat(fraction);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const index = y * width + x;
      const s0 = load<f32>(scores0 + (index << 2));
      const s1 = load<f32>(scores1 + (index << 2));
      const a = v128.load(vectors0 + (index << 4));
      const b = v128.load(vectors1 + (index << 4));
      let vector = a;
      let w0: f32 = <f32>1 - fraction;
      let w1: f32 = fraction;
      if (s0 < 0 && s1 < 0) {
        store<f32>(weights + (index << 3), -1);
        store<f32>(weights + (index << 3) + 4, -1);
        continue;
      }
      if (s0 >= 0 && s1 >= 0 && apart(a, b) < <f32>1.5) vector = f32x4.add(f32x4.mul(a, keep), f32x4.mul(b, give));
      else if (s0 < 0) {
        vector = b;
        if (s1 < HIDDEN) w0 = FAINT * w0;
      } else if (s1 < 0) {
        vector = a;
        if (s0 < HIDDEN) w1 = FAINT * w1;
      } else {
        const d0 = difference(plane0, plane1, stride, width, height, x, y, a);
        const d1 = difference(plane0, plane1, stride, width, height, x, y, b);
        const best = Mathf.min(d0, d1);
        if (best < POOR || Mathf.max(s0, s1) > HIDDEN) vector = d0 * (<f32>1.5 - s0) < d1 * (<f32>1.5 - s1) ? a : b;
        else {
          // Each side says where it was in its own picture.
          vector = i8x16.shuffle(a, b, 0, 1, 2, 3, 4, 5, 6, 7, 24, 25, 26, 27, 28, 29, 30, 31);
        }
      }
      if (Mathf.min(s0, s1) < HIDDEN) {
        // What surely moves another way there covers the point.
        const under0 = covered(field0, trust0, width, height, x, y, vector, true);
        const under1 = covered(field1, trust1, width, height, x, y, vector, false);
        if (under0 != under1) {
          w0 = under0 ? FAINT * (<f32>1 - fraction) : <f32>1 - fraction;
          w1 = under1 ? FAINT * fraction : fraction;
        }
      }
      if (outside(vector, 0, x, y, width, height)) w0 *= FAINT;
      if (outside(vector, 1, x, y, width, height)) w1 *= FAINT;
      v128.store(vectors + (index << 4), vector);
      store<f32>(weights + (index << 3), w0);
      store<f32>(weights + (index << 3) + 4, w1);
    }
  }
}
const HIDDEN: f32 = 0.3;
const FAINT: f32 = 0.001;
/** A mean square that says two patches are not the same thing: 4 grey levels. */
const POOR: f32 = 64 * 64;

/** Whether the place a vector points to in one picture belongs to something that surely moves otherwise. */
function covered(field: usize, trust: usize, width: i32, height: i32, x: i32, y: i32, vector: v128, first: bool): bool {
  const u = f32x4.extract_lane(vector, 2) - f32x4.extract_lane(vector, 0);
  const v = f32x4.extract_lane(vector, 3) - f32x4.extract_lane(vector, 1);
  const px = <f32>x + (first ? f32x4.extract_lane(vector, 0) : f32x4.extract_lane(vector, 2));
  const py = <f32>y + (first ? f32x4.extract_lane(vector, 1) : f32x4.extract_lane(vector, 3));
  const at = nearestPoint(width, height, px, py);
  if (load<f32>(trust + (at << 2)) < OWNED) return false;
  const fu = load<f32>(field + (at << 3));
  const fv = load<f32>(field + (at << 3) + 4);
  return Mathf.abs((first ? fu : -fu) - u) + Mathf.abs((first ? fv : -fv) - v) > <f32>1.5;
}
const OWNED: f32 = 0.6;

/**
 * Points that move like few of those around take the way of the largest party among them: motion comes in pieces, not in
 * specks. `vectors` and `weights` are replaced; `before` and `weightsBefore`, as large, get what they were.
 */
export function removeOutliers(vectors: usize, weights: usize, before: usize, weightsBefore: usize, width: i32, height: i32): void {
  memory.copy(before, vectors, (width * height) << 4);
  memory.copy(weightsBefore, weights, (width * height) << 3);
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const index = y * width + x;
      const own = v128.load(before + (index << 4));
      // Most points move like both beside them.
      if (!differ(own, v128.load(before + ((index - 1) << 4))) && !differ(own, v128.load(before + ((index + 1) << 4)))) continue;
      if (countAlike(before, index, own, width) >= FEW) continue;
      let most = 0;
      let from = index;
      for (let n = 0; n < 9; n++) {
        const other = index + (n / 3 - 1) * width + (n % 3) - 1;
        if (other == index || load<f32>(weightsBefore + (other << 3)) < 0) continue;
        const size = countAlike(before, index, v128.load(before + (other << 4)), width);
        if (size > most) {
          most = size;
          from = other;
        }
      }
      if (most < MANY) continue;
      v128.store(vectors + (index << 4), v128.load(before + (from << 4)));
      store<u64>(weights + (index << 3), load<u64>(weightsBefore + (from << 3)));
    }
  }
}
/** A line one point wide has two of its own beside each point. */
const FEW: i32 = 2;
const MANY: i32 = 3;

/** How many of the eight points around `index` move like `vector`. */
function countAlike(vectors: usize, index: i32, vector: v128, width: i32): i32 {
  let count = 0;
  for (let n = 0; n < 9; n++) {
    const other = index + (n / 3 - 1) * width + (n % 3) - 1;
    if (other != index && !differ(vector, v128.load(vectors + (other << 4)))) count++;
  }
  return count;
}

// @ts-ignore: decorator
@inline
function differ(a: v128, b: v128): bool {
  return v128.any_true(f32x4.gt(f32x4.abs(f32x4.sub(a, b)), f32x4.splat(0.75)));
}

/** Points that nothing reached take the vector of the nearest point of their row or column that something did. */
export function fillHoles(vectors: usize, weights: usize, width: i32, height: i32): void {
  for (let pass = 0; pass < 4; pass++) {
    const forward = (pass & 1) == 0;
    const n = width * height;
    for (let k = 0; k < n; k++) {
      const index = forward ? k : n - 1 - k;
      if (load<f32>(weights + (index << 3)) >= 0) continue;
      const x = index % width;
      const y = index / width;
      let from = -1;
      if (forward) {
        if (x > 0 && load<f32>(weights + ((index - 1) << 3)) >= 0) from = index - 1;
        else if (y > 0 && load<f32>(weights + ((index - width) << 3)) >= 0) from = index - width;
      } else {
        if (x < width - 1 && load<f32>(weights + ((index + 1) << 3)) >= 0) from = index + 1;
        else if (y < height - 1 && load<f32>(weights + ((index + width) << 3)) >= 0) from = index + width;
      }
      if (from < 0) continue;
      v128.store(vectors + (index << 4), v128.load(vectors + (from << 4)));
      store<u64>(weights + (index << 3), load<u64>(weights + (from << 3)));
    }
  }
}
