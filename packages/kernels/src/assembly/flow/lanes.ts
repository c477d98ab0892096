// Small pieces that several kernels share; each is inlined where it is used.

/** Less than this share of its due, and a picture is hidden at a point. */
export const HIDDEN: f32 = 0.01;

// @ts-ignore: decorator
@inline
export function total(lanes: v128): f32 {
  return <f32>(i32x4.extract_lane(lanes, 0) + i32x4.extract_lane(lanes, 1) + i32x4.extract_lane(lanes, 2) + i32x4.extract_lane(lanes, 3));
}

/** Eight samples between `a` and `b`, `fraction` in Q15. */
// @ts-ignore: decorator
@inline
export function between(a: v128, b: v128, fraction: v128): v128 {
  return i16x8.add(a, i16x8.q15mulr_sat_s(i16x8.sub(b, a), fraction));
}

// @ts-ignore: decorator
@inline
export function q15(fraction: f32): v128 {
  return i16x8.splat(<i16>(fraction * 32767));
}

/** Eight shares from `start` on, `step` apart, in Q15. */
// @ts-ignore: decorator
@inline
export function eightShares(start: f32, step: f32): v128 {
  const unit = f32x4.splat(32767);
  const near = f32x4.add(f32x4.splat(start), f32x4.mul(f32x4.splat(step), f32x4(0, 1, 2, 3)));
  const far = f32x4.add(near, f32x4.splat(4 * step));
  return i16x8.narrow_i32x4_s(i32x4.trunc_sat_f32x4_s(f32x4.mul(near, unit)), i32x4.trunc_sat_f32x4_s(f32x4.mul(far, unit)));
}

/** Holds a patch's or sample's place within what a plane's border covers. */
// @ts-ignore: decorator
@inline
export function within(value: f32, most: f32): f32 {
  return Mathf.max(-8, Mathf.min(most, value));
}

/** Bilinear value of a field of (u, v) pairs, held at its edges: u, v, u, v. `place` is x, y, x, y; so are the last point and the last cell. */
// @ts-ignore: decorator
@inline
export function pairAt(field: usize, width: i32, place: v128, lastPoint: v128, lastCell: v128): v128 {
  const held = f32x4.pmax(f32x4.splat(0), f32x4.pmin(lastPoint, place));
  const cell = i32x4.min_s(i32x4.trunc_sat_f32x4_s(held), lastCell);
  const share = f32x4.sub(held, f32x4.convert_i32x4_s(cell));
  const at = field + ((i32x4.extract_lane(cell, 1) * width + i32x4.extract_lane(cell, 0)) << 3);
  const upper = v128.load(at);
  const lower = v128.load(at + (width << 3));
  const down = i8x16.shuffle(share, share, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7, 4, 5, 6, 7);
  const across = i8x16.shuffle(share, share, 0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3);
  const row = f32x4.add(upper, f32x4.mul(f32x4.sub(lower, upper), down));
  const left = i8x16.shuffle(row, row, 0, 1, 2, 3, 4, 5, 6, 7, 0, 1, 2, 3, 4, 5, 6, 7);
  const right = i8x16.shuffle(row, row, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15);
  return f32x4.add(left, f32x4.mul(f32x4.sub(right, left), across));
}

/** x, y, x, y of the last point of a field, and of the last cell of four points. */
// @ts-ignore: decorator
@inline
export function lastPointOf(width: i32, height: i32): v128 {
  return f32x4(<f32>(width - 1), <f32>(height - 1), <f32>(width - 1), <f32>(height - 1));
}
// @ts-ignore: decorator
@inline
export function lastCellOf(width: i32, height: i32): v128 {
  return i32x4(width - 2, height - 2, width - 2, height - 2);
}

/** The grid point of a field nearest to a place, held at its edges. */
// @ts-ignore: decorator
@inline
export function nearestPoint(width: i32, height: i32, x: f32, y: f32): i32 {
  const ix = max(0, min(width - 1, <i32>Mathf.floor(x + <f32>0.5)));
  const iy = max(0, min(height - 1, <i32>Mathf.floor(y + <f32>0.5)));
  return iy * width + ix;
}

// @ts-ignore: decorator
@inline
export function square(value: f32): f32 {
  return value * value;
}
