// How much two patches differ.
import { between, q15, total, within } from './lanes';

/** Mean square of the difference of two 8 × 8 patches, each at any place, its mean taken out; 12-bit samples. */
export function patchDifference(a: usize, b: usize, stride: i32, ax: f32, ay: f32, bx: f32, by: f32): f32 {
  const afx = Mathf.floor(ax);
  const afy = Mathf.floor(ay);
  const bfx = Mathf.floor(bx);
  const bfy = Mathf.floor(by);
  const aAcross = q15(ax - afx);
  const aDown = q15(ay - afy);
  const bAcross = q15(bx - bfx);
  const bDown = q15(by - bfy);
  let p = a + ((<i32>afy * stride + <i32>afx) << 1);
  let q = b + ((<i32>bfy * stride + <i32>bfx) << 1);
  const bytes = stride << 1;
  const ones = i16x8.splat(1);
  let squares = i32x4.splat(0);
  let sums = i32x4.splat(0);
  let pUpper = between(v128.load(p), v128.load(p + 2), aAcross);
  let qUpper = between(v128.load(q), v128.load(q + 2), bAcross);
  for (let row = 0; row < 8; row++) {
    p += bytes;
    q += bytes;
    const pLower = between(v128.load(p), v128.load(p + 2), aAcross);
    const qLower = between(v128.load(q), v128.load(q + 2), bAcross);
    const r = i16x8.sub(between(pUpper, pLower, aDown), between(qUpper, qLower, bDown));
    squares = i32x4.add(squares, i32x4.dot_i16x8_s(r, r));
    sums = i32x4.add(sums, i32x4.dot_i16x8_s(r, ones));
    pUpper = pLower;
    qUpper = qLower;
  }
  const sum = total(sums);
  return (total(squares) - (sum * sum) / 64) / 64;
}

/** Mean absolute difference of a point and its four neighbours at two places, 12 bits. Places lie within what borders cover. */
export function crossDifference(a: usize, b: usize, stride: i32, ax: f32, ay: f32, bx: f32, by: f32): f32 {
  return (
    <f32>0.2 *
    (Mathf.abs(bilinear(a, stride, ax, ay) - bilinear(b, stride, bx, by)) +
      Mathf.abs(bilinear(a, stride, ax - 1, ay) - bilinear(b, stride, bx - 1, by)) +
      Mathf.abs(bilinear(a, stride, ax + 1, ay) - bilinear(b, stride, bx + 1, by)) +
      Mathf.abs(bilinear(a, stride, ax, ay - 1) - bilinear(b, stride, bx, by - 1)) +
      Mathf.abs(bilinear(a, stride, ax, ay + 1) - bilinear(b, stride, bx, by + 1)))
  );
}

/** A plane's sample between four. */
// @ts-ignore: decorator
@inline
function bilinear(plane: usize, stride: i32, x: f32, y: f32): f32 {
  const fx = Mathf.floor(x);
  const fy = Mathf.floor(y);
  const at = plane + ((<i32>fy * stride + <i32>fx) << 1);
  const below = at + (stride << 1);
  const a = <f32>load<i16>(at);
  const c = <f32>load<i16>(below);
  const top = a + (<f32>load<i16>(at + 2) - a) * (x - fx);
  const low = c + (<f32>load<i16>(below + 2) - c) * (x - fx);
  return top + (low - top) * (y - fy);
}

/** As `bilinear`, the place held within what borders of a plane of `maxX` × `maxY` cover. */
// @ts-ignore: decorator
@inline
export function bilinearWithin(plane: usize, stride: i32, x: f32, y: f32, maxX: f32, maxY: f32): f32 {
  return bilinear(plane, stride, within(x, maxX), within(y, maxY));
}

/** The squared slope at a sample, by central differences. */
// @ts-ignore: decorator
@inline
export function squaredSlope(sample: usize, stride: i32): f32 {
  const across = <f32>load<i16>(sample + 2) - <f32>load<i16>(sample - 2);
  const down = <f32>load<i16>(sample + (stride << 1)) - <f32>load<i16>(sample - (stride << 1));
  return <f32>0.25 * (across * across + down * down);
}
