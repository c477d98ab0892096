// The editor's hand on what was settled: how far motion is trusted, and whether the two pictures are held apart or let through.
import { within } from './lanes';
import { crossDifference } from './patches';

/** Two places that differ by this much, 12 grey levels, are as likely two things as one. */
const UNLIKE: f32 = 12 * 16;

/**
 * Changes `vectors` and `weights` in place. A point is as sure as the better of its scores, less where the two pictures differ
 * there. Points less sure than 1 − `trust` do not move: both pictures are blended where they are. Where the pictures differ,
 * `keenness` above 0 gives the weightier one more and below 0 brings both back to their distance in time; below 0 the vectors
 * are evened out too. `before` is room for the vectors. Planes are those of the grid.
 */
export function tune(
  a: usize,
  b: usize,
  stride: i32,
  width: i32,
  height: i32,
  fraction: f32,
  scores0: usize,
  scores1: usize,
  trust: f32,
  keenness: f32,
  vectors: usize,
  weights: usize,
  before: usize,
): void {
  for (let pass = 0; pass < <i32>(<f32>-6 * keenness + <f32>0.5); pass++) evenOut(vectors, before, width, height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const index = y * width + x;
      const vector = v128.load(vectors + (index << 4));
      const d = crossDifference(
        a,
        b,
        stride,
        within(<f32>x + f32x4.extract_lane(vector, 0), <f32>width),
        within(<f32>y + f32x4.extract_lane(vector, 1), <f32>height),
        within(<f32>x + f32x4.extract_lane(vector, 2), <f32>width),
        within(<f32>y + f32x4.extract_lane(vector, 3), <f32>height),
      );
      const unlike = (d * d) / (d * d + UNLIKE * UNLIKE);
      const score = Mathf.max(0, Mathf.max(load<f32>(scores0 + (index << 2)), load<f32>(scores1 + (index << 2))));
      if (score * (<f32>1 - unlike) < <f32>1 - trust) {
        v128.store(vectors + (index << 4), f32x4.splat(0));
        store<f32>(weights + (index << 3), <f32>1 - fraction);
        store<f32>(weights + (index << 3) + 4, fraction);
        continue;
      }
      const w0 = load<f32>(weights + (index << 3));
      const w1 = load<f32>(weights + (index << 3) + 4);
      const first = w0 / (w0 + w1);
      const share = keenness > 0 ? keener(first, keenness * unlike) : first + (<f32>1 - fraction - first) * -keenness * unlike;
      store<f32>(weights + (index << 3), share);
      store<f32>(weights + (index << 3) + 4, <f32>1 - share);
    }
  }
}

/** A share of two, moved to the larger one by `by` 0…1. */
// @ts-ignore: decorator
@inline
function keener(share: f32, by: f32): f32 {
  return share + (share < <f32>0.5 ? -share : <f32>1 - share) * by;
}

/** Every vector becomes the mean of its 3 × 3, the edges as they are. */
function evenOut(vectors: usize, before: usize, width: i32, height: i32): void {
  memory.copy(before, vectors, (width * height) << 4);
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const at = before + ((y * width + x) << 4);
      let sum = f32x4.splat(0);
      for (let j = -width; j <= width; j += width)
        for (let i = -1; i <= 1; i++) sum = f32x4.add(sum, v128.load(at + ((j + i) << 4)));
      v128.store(vectors + ((y * width + x) << 4), f32x4.mul(sum, f32x4.splat(1.0 / 9.0)));
    }
  }
}
