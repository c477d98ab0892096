// The motion of a pair, carried to a moment in between. Every grid point of that moment ends up with one vector of four
// numbers: the way to where it is in the first picture (x, y) and to where it is in the second (x, y), in grid steps.
import { lastCellOf, lastPointOf, pairAt } from './lanes';

/**
 * Carries one side's field along itself. `part` is the share of the way to the moment. A point bows away from the straight
 * line by t(t−1)/2 · (a₀·(2−t)/3 + a₁·(1+t)/3), t = part: the cubic through its places in four pictures (Newton's divided
 * differences), `ends` its accelerations on the grid of every second point (0: straight). With `kinked` it goes straight
 * up to where its velocity jumps and straight on from there: see `kink`. Where several land the one with most trust stays, then the one that
 * lands nearest. `first` says whether this side is the first picture (the way back comes first in the vector).
 * Scores are below 0 where nothing landed, otherwise the trust.
 */
export function project(
  field: usize,
  trust: usize,
  ends: usize,
  width: i32,
  height: i32,
  part: f32,
  kinked: bool,
  first: bool,
  vectors: usize,
  scores: usize,
): void {
  const bow = <f32>0.5 * part * (part - <f32>1);
  const bow0 = f32x4.splat((bow * (<f32>2 - part)) / <f32>3);
  const bow1 = f32x4.splat((bow * (<f32>1 + part)) / <f32>3);
  const parts = f32x4.splat(part);
  const columns = (width + 1) >> 1;
  const lastPoint = lastPointOf(width, height);
  const lastCell = lastCellOf(width, height);
  const exact = f32x4.splat(EXACT);
  // Four bytes of 0xbf are about −1.5.
  memory.fill(scores, 0xbf, (width * height) << 2);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const index = y * width + x;
      const flow = v128.load64_splat(field + (index << 3));
      let gone = f32x4.mul(flow, parts);
      if (ends != 0) {
        const at = v128.load(ends + (((y >> 1) * columns + (x >> 1)) << 4));
        gone = f32x4.add(gone, kinked ? kink(at, part) : bend(at, bow0, bow1));
      }
      const place = f32x4.add(f32x4(<f32>x, <f32>y, <f32>x, <f32>y), gone);
      const corner = f32x4.floor(place);
      const beyond = f32x4.sub(place, corner);
      const ax = f32x4.extract_lane(beyond, 0);
      const ay = f32x4.extract_lane(beyond, 1);
      const whole = i32x4.trunc_sat_f32x4_s(corner);
      const ix = i32x4.extract_lane(whole, 0);
      const iy = i32x4.extract_lane(whole, 1);
      if (ix < -1 || iy < -1 || ix >= width || iy >= height) continue;
      const held = load<f32>(trust + (index << 2));
      const vector = ways(flow, gone, first);
      const bx = <f32>1 - ax;
      const by = <f32>1 - ay;
      const isInside = <u32>ix < <u32>(width - 1) && <u32>iy < <u32>(height - 1);
      if (isInside) {
        const at = iy * width + ix;
        put(at, held + <f32>0.5 * bx * by, vector, vectors, scores);
        if (ax > EXACT) put(at + 1, held + <f32>0.5 * ax * by, vector, vectors, scores);
        if (ay <= EXACT) continue;
        put(at + width, held + <f32>0.5 * bx * ay, vector, vectors, scores);
        if (ax > EXACT) put(at + width + 1, held + <f32>0.5 * ax * ay, vector, vectors, scores);
        continue;
      }
      land(ix, iy, held + <f32>0.5 * bx * by, width, height, vector, vectors, scores);
      if (ax > EXACT) land(ix + 1, iy, held + <f32>0.5 * ax * by, width, height, vector, vectors, scores);
      if (ay > EXACT) land(ix, iy + 1, held + <f32>0.5 * bx * ay, width, height, vector, vectors, scores);
      if (ax > EXACT && ay > EXACT) land(ix + 1, iy + 1, held + <f32>0.5 * ax * ay, width, height, vector, vectors, scores);
    }
  }
  // A vector that landed a little aside stands for its landing point: take the field's value where this point came from.
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const index = y * width + x;
      if (load<f32>(scores + (index << 2)) < 0) continue;
      const vector = v128.load(vectors + (index << 4));
      const back = first
        ? i8x16.shuffle(vector, vector, 0, 1, 2, 3, 4, 5, 6, 7, 0, 1, 2, 3, 4, 5, 6, 7)
        : i8x16.shuffle(vector, vector, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15);
      const place = f32x4.add(f32x4(<f32>x, <f32>y, <f32>x, <f32>y), back);
      const near = f32x4.nearest(place);
      const whole = i32x4.trunc_sat_f32x4_s(f32x4.pmax(f32x4.splat(0), f32x4.pmin(lastPoint, near)));
      const sx = i32x4.extract_lane(whole, 0);
      const sy = i32x4.extract_lane(whole, 1);
      store<f32>(scores + (index << 2), load<f32>(trust + ((sy * width + sx) << 2)));
      if (!v128.any_true(f32x4.ge(f32x4.abs(f32x4.sub(place, near)), exact))) continue;
      const flow = pairAt(field, width, place, lastPoint, lastCell);
      let gone = f32x4.mul(flow, parts);
      if (ends != 0) {
        const at = v128.load(ends + (((sy >> 1) * columns + (sx >> 1)) << 4));
        gone = f32x4.add(gone, kinked ? kink(at, part) : bend(at, bow0, bow1));
      }
      const off = f32x4.abs(f32x4.add(gone, back));
      if (f32x4.extract_lane(off, 0) + f32x4.extract_lane(off, 1) < <f32>0.7)
        v128.store(vectors + (index << 4), ways(flow, gone, first));
    }
  }
}

/** What lands this near to a grid point lands on it alone. */
const EXACT: f32 = 0.06;

/** How far a point is off the straight line, twice over. */
// @ts-ignore: decorator
@inline
function bend(ends: v128, bow0: v128, bow1: v128): v128 {
  const near = i8x16.shuffle(ends, ends, 0, 1, 2, 3, 4, 5, 6, 7, 0, 1, 2, 3, 4, 5, 6, 7);
  const far = i8x16.shuffle(ends, ends, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15);
  return f32x4.add(f32x4.mul(near, bow0), f32x4.mul(far, bow1));
}

/**
 * How far a point is off the straight line, twice over, where its velocity jumps by d at a share p of the way: seen from the two pictures
 * that is an acceleration of a₀ = (1 − p)·d at this one and a₁ = p·d at the other. So p = |a₁| / (|a₀| + |a₁|), and there the point
 * is off by −p·(1 − p)·(a₀ + a₁), less before and after in proportion.
 */
function kink(ends: v128, part: f32): v128 {
  const squares = f32x4.mul(ends, ends);
  const near = Mathf.sqrt(f32x4.extract_lane(squares, 0) + f32x4.extract_lane(squares, 1));
  const far = Mathf.sqrt(f32x4.extract_lane(squares, 2) + f32x4.extract_lane(squares, 3));
  if (near + far < STILL) return f32x4.splat(0);
  const place = far / (near + far);
  const share = part < place ? part / place : (<f32>1 - part) / (<f32>1 - place);
  const jump = f32x4.add(ends, i8x16.shuffle(ends, ends, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
  return f32x4.mul(jump, f32x4.splat(-place * (<f32>1 - place) * share));
}
/** Less acceleration than this, in grid steps, is no jump. */
const STILL: f32 = 0.01;

/** (−gone, flow − gone), or the other way round for the second picture; both come in twice over. */
// @ts-ignore: decorator
@inline
function ways(flow: v128, gone: v128, first: bool): v128 {
  const zero = f32x4.splat(0);
  const whole = first
    ? i8x16.shuffle(zero, flow, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23)
    : i8x16.shuffle(flow, zero, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23);
  return f32x4.sub(whole, gone);
}

// @ts-ignore: decorator
@inline
function land(x: i32, y: i32, score: f32, width: i32, height: i32, vector: v128, vectors: usize, scores: usize): void {
  if (<u32>x < <u32>width && <u32>y < <u32>height) put(y * width + x, score, vector, vectors, scores);
}

// @ts-ignore: decorator
@inline
function put(index: i32, score: f32, vector: v128, vectors: usize, scores: usize): void {
  if (score <= load<f32>(scores + (index << 2))) return;
  store<f32>(scores + (index << 2), score);
  v128.store(vectors + (index << 4), vector);
}
