// The picture in between: every sample taken from both pictures where its motion says it was, and blended.
// Sampling is by Catmull–Rom cubics (R. Keys, "Cubic Convolution Interpolation for Digital Image Processing", IEEE TASSP 29,
// 1981) at 64 phases.

import { between, eightShares, q15 } from './lanes';

const PHASES: i32 = 64;
/** For each phase 4 weights, Q14. */
const across: usize = memory.data(PHASES * 8, 16);
/** For each phase the 4 weights, Q15, each over 4 lanes. */
const down: usize = memory.data(PHASES * 32, 16);
let ready = false;

function prepare(): void {
  if (ready) return;
  ready = true;
  for (let p = 0; p < PHASES; p++) {
    const t = <f64>p / PHASES;
    const w0 = -0.5 * t + t * t - 0.5 * t * t * t;
    const w1 = 1 - 2.5 * t * t + 1.5 * t * t * t;
    const w2 = 0.5 * t + 2 * t * t - 1.5 * t * t * t;
    const w3 = -0.5 * t * t + 0.5 * t * t * t;
    for (let k = 0; k < 4; k++) {
      const w = k == 0 ? w0 : k == 1 ? w1 : k == 2 ? w2 : w3;
      const q14 = <i16>Math.round(w * 16384);
      const q15 = <i16>Math.min(32767, Math.round(w * 32768));
      store<i16>(across + p * 8 + k * 2, q14);
      for (let lane = 0; lane < 4; lane++) store<i16>(down + p * 32 + k * 8 + lane * 2, q15);
    }
  }
}

let planeA: usize = 0;
let planeB: usize = 0;
let planeStride: i32 = 0;
/** Samples of this plane per grid step, and the furthest places, each for x, y, x, y. */
let scales: v128 = f32x4.splat(1);
let lasts: v128 = f32x4.splat(0);

/** Four neighbouring columns of a plane about (px, py) phases, each weighed along y: the first half of eight lanes and the second are to be added. */
// @ts-ignore: decorator
@inline
function columnsAt(plane: usize, px: i32, py: i32): v128 {
  const at = plane + ((((py >> 6) - 1) * planeStride + (px >> 6) - 1) << 1);
  const bytes = planeStride << 1;
  const weight = down + ((py & 63) << 5);
  const upper = v128.load64_lane(at + bytes, v128.load64_zero(at), 1);
  const lower = v128.load64_lane(at + 3 * bytes, v128.load64_zero(at + 2 * bytes), 1);
  return i16x8.add(i16x8.q15mulr_sat_s(upper, v128.load(weight)), i16x8.q15mulr_sat_s(lower, v128.load(weight + 16)));
}

/**
 * What both pictures give to the sample at `here` (x, y, x, y) under one vector (grid steps) and their weights, `share` of it: four
 * numbers to be added up, 12-bit scale times 16384.
 */
// @ts-ignore: decorator
@inline
function given(here: v128, vector: v128, w0: f32, w1: f32, share: f32): v128 {
  const places = f32x4.pmax(f32x4.splat(-4), f32x4.pmin(lasts, f32x4.add(here, f32x4.mul(vector, scales))));
  const phases = i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.add(f32x4.mul(places, f32x4.splat(<f32>PHASES)), f32x4.splat(0.5))));
  const ax = i32x4.extract_lane(phases, 0);
  const bx = i32x4.extract_lane(phases, 2);
  const first = columnsAt(planeA, ax, i32x4.extract_lane(phases, 1));
  const second = columnsAt(planeB, bx, i32x4.extract_lane(phases, 3));
  const columns = i16x8.add(
    i8x16.shuffle(first, second, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23),
    i8x16.shuffle(first, second, 8, 9, 10, 11, 12, 13, 14, 15, 24, 25, 26, 27, 28, 29, 30, 31),
  );
  const weights = v128.load64_lane(across + ((bx & 63) << 3), v128.load64_zero(across + ((ax & 63) << 3)), 1);
  const part = share / (w0 + w1);
  const parts = f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(w0 * part), 2, w1 * part), 3, w1 * part);
  return f32x4.mul(f32x4.convert_i32x4_s(i32x4.dot_i16x8_s(columns, weights)), parts);
}

/** Four numbers added up, at 12-bit scale. */
// @ts-ignore: decorator
@inline
function added(lanes: v128): f32 {
  const pairs = f32x4.add(lanes, i8x16.shuffle(lanes, lanes, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
  return (f32x4.extract_lane(pairs, 0) + f32x4.extract_lane(pairs, 1)) * (<f32>1 / <f32>16384);
}

/**
 * Makes one plane of `width` × `height` samples. Planes `a` and `b` are 12-bit with borders; the grid has `gridWidth` ×
 * `gridHeight` points (at least 2 × 2); `perX`, `perY` are grid steps per sample of this plane, at most 1. `bits` is the
 * output's depth; 8 writes bytes.
 */
export function synthesise(
  a: usize,
  b: usize,
  stride: i32,
  width: i32,
  height: i32,
  vectors: usize,
  weights: usize,
  gridWidth: i32,
  gridHeight: i32,
  perX: f32,
  perY: f32,
  out: usize,
  bits: i32,
): void {
  prepare();
  planeA = a;
  planeB = b;
  planeStride = stride;
  scales = f32x4(<f32>1 / perX, <f32>1 / perY, <f32>1 / perX, <f32>1 / perY);
  lasts = f32x4(<f32>(width + 3), <f32>(height + 3), <f32>(width + 3), <f32>(height + 3));
  const most: f32 = <f32>((1 << bits) - 1);
  const gain = <f32>(1 << bits) / <f32>4096;
  const size = bits == 8 ? 0 : 1;
  // Rows between the same two grid rows go together.
  // Where grid cells are as wide as a run, runs begin where cells do: none lies in two.
  const cell = <i32>(<f32>1 / perX);
  const inCells = cell >= RUN;
  const first = inCells && cell == RUN ? RUN / 2 : RUN;
  for (let y = 0; y < height; ) {
    const j = gridPlace(y, perY, gridHeight);
    let below = y + 1;
    while (below < height && below < y + ROWS && gridPlace(below, perY, gridHeight) == j) below++;
    const row = j * gridWidth;
    let end: i32 = 0;
    for (let x = 0; x < width; x += end) {
      end = min(x == 0 ? first : RUN, width - x);
      if (end == RUN) {
        const i0 = gridPlace(x, perX, gridWidth);
        const i1 = gridPlace(x + RUN - 1, perX, gridWidth) + 1;
        const to = out + ((y * width + x) << size);
        if (rigid(vectors, weights, row, gridWidth, i0, i1, x, y, width, height)) {
          makeTogether(below - y, to, width << size, bits);
          continue;
        }
        if (inCells && i1 == i0 + 1 && cornersMade(vectors, weights, row, gridWidth, i0, x, y, below - y, width, height)) {
          const fx = (<f32>x + <f32>0.5) * perX - <f32>0.5 - <f32>i0;
          const fy = (<f32>y + <f32>0.5) * perY - <f32>0.5 - <f32>j;
          makeOfCorners(fx, perX, fy, perY, below - y, to, width << size, bits);
          continue;
        }
      }
      if (end == RUN && !inCells) {
        // Half as long more of them are rigid.
        end = RUN / 2;
        const i0 = gridPlace(x, perX, gridWidth);
        const i1 = gridPlace(x + end - 1, perX, gridWidth) + 1;
        if (rigid(vectors, weights, row, gridWidth, i0, i1, x, y, width, height)) {
          makeHalf(below - y, out + ((y * width + x) << size), width << size, bits);
          continue;
        }
      }
      for (let r = y; r < below; r++) {
        const gy = Mathf.max(0, Mathf.min(<f32>(gridHeight - 1), (<f32>r + <f32>0.5) * perY - <f32>0.5));
        const to = out + ((r * width + x) << size);
        for (let k = 0; k < end; k++) {
          const value = sample(vectors, weights, row, gridWidth, <f32>(x + k), <f32>r, perX, gy - <f32>j);
          const rounded = <i32>Mathf.max(0, Mathf.min(most, value * gain + <f32>0.5));
          if (size == 0) store<u8>(to + k, <u8>rounded);
          else store<u16>(to + (k << 1), <u16>rounded);
        }
      }
    }
    y = below;
  }
}
const RUN: i32 = 8;
const ROWS: i32 = 8;
/** Grid points whose ways differ by less than this many grid steps move as one. */
const SAME: f32 = 0.75;
/** Samples in a row whose ways differ by less than this many grid steps are moved together. */
const RIGID: f32 = 0.25;

/** The grid row or column before sample `at`. */
// @ts-ignore: decorator
@inline
function gridPlace(at: i32, per: f32, gridSize: i32): i32 {
  return min(<i32>Mathf.max(0, (<f32>at + <f32>0.5) * per - <f32>0.5), gridSize - 2);
}

/** One sample where ways differ from sample to sample. */
function sample(vectors: usize, weights: usize, row: i32, gridWidth: i32, x: f32, y: f32, perX: f32, fy: f32): f32 {
  const gx = Mathf.max(0, Mathf.min(<f32>(gridWidth - 1), (x + <f32>0.5) * perX - <f32>0.5));
  const i = min(<i32>gx, gridWidth - 2);
  const fx = gx - <f32>i;
  const n0 = row + i;
  const n1 = n0 + gridWidth;
  const v00 = v128.load(vectors + (n0 << 4));
  const v10 = v128.load(vectors + (n0 << 4) + 16);
  const v01 = v128.load(vectors + (n1 << 4));
  const v11 = v128.load(vectors + (n1 << 4) + 16);
  const k00 = (<f32>1 - fx) * (<f32>1 - fy);
  const k10 = fx * (<f32>1 - fy);
  const k01 = (<f32>1 - fx) * fy;
  const k11 = fx * fy;
  const w0 = weights + (n0 << 3);
  const w1 = weights + (n1 << 3);
  const here = f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(x), 1, y), 3, y);
  const spread = f32x4.sub(f32x4.pmax(f32x4.pmax(v00, v10), f32x4.pmax(v01, v11)), f32x4.pmin(f32x4.pmin(v00, v10), f32x4.pmin(v01, v11)));
  if (v128.any_true(f32x4.gt(spread, f32x4.splat(SAME)))) {
    // Motions meet here: what each makes is blended, not the motions. Mostly two meet along an edge: then neighbours on its sides are one.
    if (alike(v00, v01) && alike(v10, v11))
      return added(f32x4.add(givenByPair(here, v00, v01, k00, k01, w0, w1), givenByPair(here, v10, v11, k10, k11, w0 + 8, w1 + 8)));
    if (alike(v00, v10) && alike(v01, v11))
      return added(f32x4.add(givenByPair(here, v00, v10, k00, k10, w0, w0 + 8), givenByPair(here, v01, v11, k01, k11, w1, w1 + 8)));
    const upper = f32x4.add(
      given(here, v00, load<f32>(w0), load<f32>(w0 + 4), k00),
      given(here, v10, load<f32>(w0 + 8), load<f32>(w0 + 12), k10),
    );
    const lower = f32x4.add(
      given(here, v01, load<f32>(w1), load<f32>(w1 + 4), k01),
      given(here, v11, load<f32>(w1 + 8), load<f32>(w1 + 12), k11),
    );
    return added(f32x4.add(upper, lower));
  }
  const vector = f32x4.add(
    f32x4.add(f32x4.mul(v00, f32x4.splat(k00)), f32x4.mul(v10, f32x4.splat(k10))),
    f32x4.add(f32x4.mul(v01, f32x4.splat(k01)), f32x4.mul(v11, f32x4.splat(k11))),
  );
  const first = k00 * load<f32>(w0) + k10 * load<f32>(w0 + 8) + k01 * load<f32>(w1) + k11 * load<f32>(w1 + 8);
  const second = k00 * load<f32>(w0 + 4) + k10 * load<f32>(w0 + 12) + k01 * load<f32>(w1 + 4) + k11 * load<f32>(w1 + 12);
  return added(given(here, vector, first, second, 1));
}

// @ts-ignore: decorator
@inline
function alike(v: v128, w: v128): bool {
  return !v128.any_true(f32x4.gt(f32x4.abs(f32x4.sub(v, w)), f32x4.splat(SAME)));
}

/** What two grid points that move alike give together, by their shares; `wv` and `ww` are where their weights are. */
// @ts-ignore: decorator
@inline
function givenByPair(here: v128, v: v128, w: v128, kv: f32, kw: f32, wv: usize, ww: usize): v128 {
  const whole = Mathf.max(kv + kw, <f32>1e-6);
  const vector = f32x4.add(f32x4.mul(v, f32x4.splat(kv / whole)), f32x4.mul(w, f32x4.splat(kw / whole)));
  const first = kv * load<f32>(wv) + kw * load<f32>(ww);
  const second = kv * load<f32>(wv + 4) + kw * load<f32>(ww + 4);
  return given(here, vector, first + <f32>1e-12, second, kv + kw);
}

// What the last rigid run is made of: the places of its first sample in both pictures, in phases, and the second's share.
let aX: i32 = 0;
let aY: i32 = 0;
let bX: i32 = 0;
let bY: i32 = 0;
let share: f32 = 0;

/** Whether every grid point around a run moves alike and is seen alike; if so, sets what it is made of. */
// @ts-ignore: decorator
@inline
function rigid(vectors: usize, weights: usize, row: i32, gridWidth: i32, i0: i32, i1: i32, x: i32, y: i32, width: i32, height: i32): bool {
  let low = v128.load(vectors + ((row + i0) << 4));
  let high = low;
  let lightest = v128.load64_splat(weights + ((row + i0) << 3));
  let heaviest = lightest;
  for (let i = i0; i <= i1; i++) {
    const upper = v128.load(vectors + ((row + i) << 4));
    const lower = v128.load(vectors + ((row + gridWidth + i) << 4));
    low = f32x4.pmin(low, f32x4.pmin(upper, lower));
    high = f32x4.pmax(high, f32x4.pmax(upper, lower));
    const w = v128.load64_splat(weights + ((row + i) << 3));
    const v = v128.load64_splat(weights + ((row + gridWidth + i) << 3));
    lightest = f32x4.pmin(lightest, f32x4.pmin(w, v));
    heaviest = f32x4.pmax(heaviest, f32x4.pmax(w, v));
  }
  if (v128.any_true(f32x4.gt(f32x4.sub(high, low), f32x4.splat(RIGID)))) return false;
  if (v128.any_true(f32x4.gt(f32x4.sub(heaviest, lightest), f32x4.splat(0.01)))) return false;
  const middle = f32x4.mul(f32x4.add(low, high), f32x4.splat(0.5));
  if (!inReach(x, y, middle, width, height)) return false;
  const vector = f32x4.mul(middle, scales);
  const ax = <f32>x + f32x4.extract_lane(vector, 0);
  const ay = <f32>y + f32x4.extract_lane(vector, 1);
  const bx = <f32>x + f32x4.extract_lane(vector, 2);
  const by = <f32>y + f32x4.extract_lane(vector, 3);
  aX = phase(ax);
  aY = phase(ay);
  bX = phase(bx);
  bY = phase(by);
  const w0 = f32x4.extract_lane(lightest, 0) + f32x4.extract_lane(heaviest, 0);
  const w1 = f32x4.extract_lane(lightest, 1) + f32x4.extract_lane(heaviest, 1);
  share = w1 / (w0 + w1);
  return true;
}

// @ts-ignore: decorator
@inline
function phase(place: f32): i32 {
  const p = <i32>Mathf.floor(place * <f32>PHASES + <f32>0.5);
  // A thirty-second of a sample beside a sample nobody sees, and it is then taken as it is.
  const off = ((p + PHASES / 2) & (PHASES - 1)) - PHASES / 2;
  return abs(off) <= WHOLE ? p - off : p;
}
const WHOLE: i32 = 2;

/** What each of the four grid points around a run would make of it, 8 rows of 8 samples each. */
const corners: usize = memory.data(4 * ROWS * 16, 16);

/**
 * Where motions meet around a run that lies in one grid cell: what each of its four points makes, as a whole; see `sample`. Answers false,
 * and makes nothing, where they move alike or one would look too far outside.
 */
function cornersMade(
  vectors: usize,
  weights: usize,
  row: i32,
  gridWidth: i32,
  i: i32,
  x: i32,
  y: i32,
  rows: i32,
  width: i32,
  height: i32,
): bool {
  const upper = row + i;
  const lower = upper + gridWidth;
  const v00 = v128.load(vectors + (upper << 4));
  const v10 = v128.load(vectors + (upper << 4) + 16);
  const v01 = v128.load(vectors + (lower << 4));
  const v11 = v128.load(vectors + (lower << 4) + 16);
  const low = f32x4.pmin(f32x4.pmin(v00, v10), f32x4.pmin(v01, v11));
  const high = f32x4.pmax(f32x4.pmax(v00, v10), f32x4.pmax(v01, v11));
  if (!v128.any_true(f32x4.gt(f32x4.sub(high, low), f32x4.splat(SAME)))) return false;
  if (!inReach(x, y, low, width, height) || !inReach(x, y, high, width, height)) return false;
  for (let corner = 0; corner < 4; corner++) {
    const n = corner < 2 ? upper + corner : lower + corner - 2;
    const way = f32x4.mul(v128.load(vectors + (n << 4)), scales);
    const w0 = load<f32>(weights + (n << 3));
    const w1 = load<f32>(weights + (n << 3) + 4);
    const to = corners + corner * ROWS * 16;
    const part = w1 / (w0 + w1);
    const onlyB = part > ONLY;
    sampleRows(
      onlyB ? planeB : planeA,
      phase(<f32>x + (onlyB ? f32x4.extract_lane(way, 2) : f32x4.extract_lane(way, 0))),
      phase(<f32>y + (onlyB ? f32x4.extract_lane(way, 3) : f32x4.extract_lane(way, 1))),
      rows,
      to,
    );
    if (onlyB || part < 1 - ONLY) continue;
    sampleRows(planeB, phase(<f32>x + f32x4.extract_lane(way, 2)), phase(<f32>y + f32x4.extract_lane(way, 3)), rows, rowsB);
    const share = q15(part);
    for (let at = 0; at < rows << 4; at += 16) v128.store(to + at, between(v128.load(to + at), v128.load(rowsB + at), share));
  }
  return true;
}
/** A picture with more than this share is all there is. */
const ONLY: f32 = 0.996;

/** The run that `cornersMade` made four times over, each sample between the four by its place in the cell. */
function makeOfCorners(fx: f32, perX: f32, fy: f32, perY: f32, rows: i32, to: usize, next: i32, bits: i32): void {
  const across = eightShares(fx, perX);
  for (let r = 0; r < rows; r++) {
    const at = corners + (r << 4);
    const upper = between(v128.load(at), v128.load(at + ROWS * 16), across);
    const lower = between(v128.load(at + 2 * ROWS * 16), v128.load(at + 3 * ROWS * 16), across);
    store8(to, between(upper, lower, q15(Mathf.max(0, Mathf.min(1, fy + perY * <f32>r)))), bits);
    to += next;
  }
}

/** Whether a run that is moved so far still lies within what a plane's border covers. */
// @ts-ignore: decorator
@inline
function inReach(x: i32, y: i32, vector: v128, width: i32, height: i32): bool {
  const place = f32x4.add(f32x4(<f32>x, <f32>y, <f32>x, <f32>y), f32x4.mul(vector, scales));
  const far = f32x4(<f32>(width - 4), <f32>(height + 3 - ROWS), <f32>(width - 4), <f32>(height + 3 - ROWS));
  return i32x4.all_true(v128.and(f32x4.gt(place, f32x4.splat(-8)), f32x4.lt(place, far)));
}

/** Makes `rows` rows of a rigid run, 8 samples each; `next` is the output's bytes from row to row. */
function makeTogether(rows: i32, to: usize, next: i32, bits: i32): void {
  const onlyA = share < <f32>0.004;
  const onlyB = share > <f32>0.996;
  if (!onlyB) sampleRows(planeA, aX, aY, rows, rowsA);
  if (!onlyA) sampleRows(planeB, bX, bY, rows, rowsB);
  const from = onlyB ? rowsB : rowsA;
  const part = onlyA || onlyB ? i16x8.splat(0) : q15(share);
  for (let r = 0; r < rows; r++) {
    const a = v128.load(from + (r << 4));
    store8(to, between(a, v128.load(rowsB + (r << 4)), part), bits);
    to += next;
  }
}
/** The same for its first four samples. */
function makeHalf(rows: i32, to: usize, next: i32, bits: i32): void {
  const wide = bits == 8 ? 0 : 1;
  makeTogether(rows, halves, 16, bits);
  for (let r = 0; r < rows; r++) {
    const from = halves + (r << 4);
    if (wide == 0) store<u32>(to, load<u32>(from));
    else store<u64>(to, load<u64>(from));
    to += next;
  }
}
const halves: usize = memory.data(ROWS * 16, 16);
const rowsA: usize = memory.data(ROWS * 16, 16);
const rowsB: usize = memory.data(ROWS * 16, 16);

/** Rows of eight neighbouring samples at one fraction, 12-bit, into `to`. */
function sampleRows(plane: usize, px: i32, py: i32, rows: i32, to: usize): void {
  const bytes = planeStride << 1;
  let at = plane + (((py >> 6) * planeStride + (px >> 6)) << 1);
  const dx = px & 63;
  const dy = py & 63;
  if ((dx | dy) == 0) {
    for (let r = 0; r < rows; r++) {
      v128.store(to + (r << 4), v128.load(at));
      at += bytes;
    }
    return;
  }
  at -= 2;
  const x0 = v128.load64_splat(down + (dx << 5));
  const x1 = v128.load64_splat(down + (dx << 5) + 8);
  const x2 = v128.load64_splat(down + (dx << 5) + 16);
  const x3 = v128.load64_splat(down + (dx << 5) + 24);
  if (dy == 0) {
    for (let r = 0; r < rows; r++) {
      v128.store(to + (r << 4), along(v128.load(at), v128.load(at + 16), x0, x1, x2, x3));
      at += bytes;
    }
    return;
  }
  const y0 = v128.load64_splat(down + (dy << 5));
  const y1 = v128.load64_splat(down + (dy << 5) + 8);
  const y2 = v128.load64_splat(down + (dy << 5) + 16);
  const y3 = v128.load64_splat(down + (dy << 5) + 24);
  let l0 = v128.load(at - bytes);
  let r0 = v128.load(at - bytes + 16);
  let l1 = v128.load(at);
  let r1 = v128.load(at + 16);
  let l2 = v128.load(at + bytes);
  let r2 = v128.load(at + bytes + 16);
  at += 2 * bytes;
  for (let r = 0; r < rows; r++) {
    const l3 = v128.load(at);
    const r3 = v128.load(at + 16);
    const left = weigh(l0, l1, l2, l3, y0, y1, y2, y3);
    const right = weigh(r0, r1, r2, r3, y0, y1, y2, y3);
    v128.store(to + (r << 4), dx == 0 ? i8x16.shuffle(left, right, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17) : along(left, right, x0, x1, x2, x3));
    l0 = l1;
    l1 = l2;
    l2 = l3;
    r0 = r1;
    r1 = r2;
    r2 = r3;
    at += bytes;
  }
}

// @ts-ignore: decorator
@inline
function weigh(a: v128, b: v128, c: v128, d: v128, wa: v128, wb: v128, wc: v128, wd: v128): v128 {
  return i16x8.add(
    i16x8.add(i16x8.q15mulr_sat_s(a, wa), i16x8.q15mulr_sat_s(b, wb)),
    i16x8.add(i16x8.q15mulr_sat_s(c, wc), i16x8.q15mulr_sat_s(d, wd)),
  );
}

/** Eight samples between those of `left` and `right`, 16 in a row of which the first is one before. */
// @ts-ignore: decorator
@inline
function along(left: v128, right: v128, x0: v128, x1: v128, x2: v128, x3: v128): v128 {
  return weigh(
    left,
    i8x16.shuffle(left, right, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17),
    i8x16.shuffle(left, right, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19),
    i8x16.shuffle(left, right, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21),
    x0,
    x1,
    x2,
    x3,
  );
}

/** Writes eight 12-bit samples at the output's depth. */
// @ts-ignore: decorator
@inline
export function store8(to: usize, run: v128, bits: i32): void {
  const value = i16x8.max_s(run, i16x8.splat(0));
  if (bits == 8) {
    const bytes = i16x8.shr_u(i16x8.add(value, i16x8.splat(8)), 4);
    v128.store64_lane(to, i8x16.narrow_i16x8_u(bytes, bytes), 0);
  } else if (bits <= 12) {
    const shift = 12 - bits;
    const most = (1 << bits) - 1;
    const half = (1 << shift) >> 1;
    v128.store(to, i16x8.min_s(i16x8.shr_u(i16x8.add(value, i16x8.splat(<i16>half)), shift), i16x8.splat(<i16>most)));
  } else v128.store(to, i16x8.shl(i16x8.min_s(value, i16x8.splat(4095)), bits - 12));
}
