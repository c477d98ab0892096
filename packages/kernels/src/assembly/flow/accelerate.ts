// How motion changes from pair to pair, on a grid of every second point of every second row: it is smooth.
import { nearestPoint } from './lanes';

/**
 * Acceleration from the motion to the next picture and to the one before: a point at x(t) = x + v·t + a·t²/2 goes v + a/2 to
 * the next and −v + a/2 to the one before, so a is their sum.
 * X. Xu et al., "Quadratic Video Interpolation", NeurIPS 2019 (arXiv 1911.00627).
 * `own` gets (au, av, n, 0) for every point: the mean over 3 × 3 as far as both motions are trusted and the sum is no larger
 * than `most` times its motion, squared; n > 0 where that says anything. `scratch` is as large as `own`, (width+1)/2 · (height+1)/2.
 */
export function accelerate(field: usize, trust: usize, other: usize, otherTrust: usize, width: i32, height: i32, most: f32, own: usize, scratch: usize): void {
  const columns = (width + 1) >> 1;
  const rows = (height + 1) >> 1;
  for (let y = 0; y < rows; y++) {
    for (let x = 0; x < columns; x++) {
      const index = 2 * (y * width + x);
      const there = v128.load64_zero(field + (index << 3));
      const back = v128.load64_zero(other + (index << 3));
      const sum = f32x4.add(there, back);
      const way = Mathf.max(square(there), square(back));
      const sure = load<f32>(trust + (index << 2)) > <f32>0.4 && load<f32>(otherTrust + (index << 2)) > <f32>0.4;
      const counts = sure && square(sum) < way * most + <f32>0.05;
      v128.store(scratch + ((y * columns + x) << 4), counts ? f32x4.replace_lane(sum, 2, 1) : f32x4.splat(0));
    }
  }
  for (let y = 0; y < rows; y++) {
    const first = max(0, y - 1) * columns;
    const last = min(rows - 1, y + 1) * columns;
    for (let x = 0; x < columns; x++) {
      let sum = f32x4.splat(0);
      for (let j = first; j <= last; j += columns)
        for (let i = max(0, x - 1); i <= min(columns - 1, x + 1); i++) sum = f32x4.add(sum, v128.load(scratch + ((j + i) << 4)));
      const count = f32x4.extract_lane(sum, 2);
      v128.store(own + ((y * columns + x) << 4), count < FEW ? f32x4.splat(0) : f32x4.div(sum, f32x4.splat(count)));
    }
  }
}
/** Fewer sure points than this of 9 say nothing. */
const FEW: f32 = 3;

// @ts-ignore: decorator
@inline
function square(pair: v128): f32 {
  const u = f32x4.extract_lane(pair, 0);
  const v = f32x4.extract_lane(pair, 1);
  return u * u + v * v;
}

/**
 * Both ends' accelerations for a field: (a₀u, a₀v, a₁u, a₁v), at the point itself and where its motion ends. An end that
 * says nothing takes the other's; 0 for `own` or `far` means that end has no neighbour.
 */
export function bothEnds(field: usize, own: usize, far: usize, width: i32, height: i32, ends: usize): void {
  const columns = (width + 1) >> 1;
  const rows = (height + 1) >> 1;
  for (let y = 0; y < rows; y++) {
    for (let x = 0; x < columns; x++) {
      const at = field + ((2 * (y * width + x)) << 3);
      const index = y * columns + x;
      let a = own != 0 ? v128.load(own + (index << 4)) : f32x4.splat(0);
      let b = f32x4.splat(0);
      if (far != 0) b = v128.load(far + (nearestPoint(columns, rows, <f32>x + <f32>0.5 * load<f32>(at), <f32>y + <f32>0.5 * load<f32>(at + 4)) << 4));
      if (f32x4.extract_lane(a, 2) == 0) a = b;
      else if (f32x4.extract_lane(b, 2) == 0) b = a;
      v128.store(ends + (index << 4), i8x16.shuffle(a, b, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23));
    }
  }
}
