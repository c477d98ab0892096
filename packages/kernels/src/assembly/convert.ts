// Codes of one colour space, depth and chroma sampling as codes of another (see core's `conversionOf`). Rows are worked on in 32-bit floats
// at full chroma; chroma is interpolated where it lies and gathered there again. The plan is a block of floats, `P_…` below.

const TABLE: f32 = 4096.0;
const MIN_CODE: f32 = -0.5;
const CODE_STEP: f32 = 4096.0 / 2.0;
const ROOT_STEP: f32 = 4096.0 / 2.7;

// What stands where in the plan, in floats.
const P_IN: i32 = 0; // luma: offset, scale; chroma: offset, scale; red by Cr, green by Cb, green by Cr, blue by Cb
const P_OUT: i32 = 8; // luma: offset, scale; chroma: offset, scale; weights of red, green, blue; chroma gains of blue and red
const P_OUT_GAINS: i32 = 15;
const P_MATRIX: i32 = 17; // nine of the primaries

// @ts-ignore: decorator
@inline
function at(base: usize, i: i32): f32 {
  return load<f32>(base + (<usize>i << 2));
}

// @ts-ignore: decorator
@inline
function sample(base: usize, size: i32, i: i32): f32 {
  return size == 1 ? <f32>load<u8>(base + i) : <f32>load<u16>(base + (<usize>i << 1));
}

// @ts-ignore: decorator
@inline
function put(base: usize, size: i32, i: i32, value: f32, top: f32): void {
  const code = max<f32>(0.0, min<f32>(top, floor<f32>(value + 0.5)));
  if (size == 1) store<u8>(base + i, <u8>code);
  else store<u16>(base + (<usize>i << 1), <u16>code);
}

/** A row of luma (or of one colour of three) as floats from 0 to 1. */
export function readRow(plane: usize, size: i32, width: i32, row: i32, offset: f32, scale: f32, out: usize): void {
  const from = plane + <usize>(row * width * size);
  for (let x = 0; x < width; x++) store<f32>(out + (<usize>x << 2), (sample(from, size, x) - offset) * scale);
}

/**
 * A row of chroma at full sampling: between samples by straight lines. `siteX`, `siteY`: where chroma sample 0 lies, in samples of luma;
 * `shiftX`, `shiftY`: log2 of how many of those share one.
 */
export function readChromaRow(
  plane: usize, size: i32, width: i32, height: i32, fullWidth: i32, row: i32,
  shiftX: i32, shiftY: i32, siteX: f32, siteY: f32, offset: f32, scale: f32, out: usize,
): void {
  const down = (<f32>row - siteY) / <f32>(1 << shiftY);
  const y0 = <i32>floor<f32>(down);
  const fy = down - <f32>y0;
  const above = plane + <usize>(max(0, min(height - 1, y0)) * width * size);
  const below = plane + <usize>(max(0, min(height - 1, y0 + 1)) * width * size);
  const step: f32 = 1.0 / <f32>(1 << shiftX);
  for (let x = 0; x < fullWidth; x++) {
    const across = (<f32>x - siteX) * step;
    const x0 = <i32>floor<f32>(across);
    const fx = across - <f32>x0;
    const a = max(0, min(width - 1, x0));
    const b = max(0, min(width - 1, x0 + 1));
    const top = sample(above, size, a) * (1.0 - fx) + sample(above, size, b) * fx;
    const bottom = sample(below, size, a) * (1.0 - fx) + sample(below, size, b) * fx;
    store<f32>(out + (<usize>x << 2), (top * (1.0 - fy) + bottom * fy - offset) * scale);
  }
}

// @ts-ignore: decorator
@inline
function ofCode(table: usize, code: f32): f32 {
  const u = max<f32>(0.0, min<f32>(TABLE - 0.001, (code - MIN_CODE) * CODE_STEP));
  const i = <i32>u;
  const a = at(table, i);
  return a + (at(table, i + 1) - a) * (u - <f32>i);
}

// @ts-ignore: decorator
@inline
function ofLight(table: usize, light: f32): f32 {
  const u = min<f32>(TABLE - 0.001, sqrt<f32>(sqrt<f32>(light)) * ROOT_STEP);
  const i = <i32>u;
  const a = at(table, i);
  return a + (at(table, i + 1) - a) * (u - <f32>i);
}

/** Luma and chroma (0 … 1, −½ … ½) as red, green and blue. */
export function toRgb(r: usize, g: usize, b: usize, count: i32, plan: usize): void {
  const redCr = at(plan, P_IN + 4);
  const greenCb = at(plan, P_IN + 5);
  const greenCr = at(plan, P_IN + 6);
  const blueCb = at(plan, P_IN + 7);
  for (let i = 0; i < count; i++) {
    const o = <usize>i << 2;
    const y = load<f32>(r + o);
    const cb = load<f32>(g + o);
    const cr = load<f32>(b + o);
    store<f32>(r + o, y + redCr * cr);
    store<f32>(g + o, y - greenCb * cb - greenCr * cr);
    store<f32>(b + o, y + blueCb * cb);
  }
}

/** Red, green and blue as luma and chroma. */
export function fromRgb(r: usize, g: usize, b: usize, count: i32, plan: usize): void {
  const kr = at(plan, P_OUT + 4);
  const kg = at(plan, P_OUT + 5);
  const kb = at(plan, P_OUT + 6);
  const blue = at(plan, P_OUT_GAINS);
  const red = at(plan, P_OUT_GAINS + 1);
  for (let i = 0; i < count; i++) {
    const o = <usize>i << 2;
    const vr = load<f32>(r + o);
    const vb = load<f32>(b + o);
    const y = kr * vr + kg * load<f32>(g + o) + kb * vb;
    store<f32>(r + o, y);
    store<f32>(g + o, (vb - y) * blue);
    store<f32>(b + o, (vr - y) * red);
  }
}

/** Codes as linear light. */
export function codesToLight(row: usize, count: i32, table: usize): void {
  for (let i = 0; i < count; i++) {
    const o = <usize>i << 2;
    store<f32>(row + o, ofCode(table, load<f32>(row + o)));
  }
}

/** Light as codes; below zero the curve is mirrored. */
export function lightToCodes(row: usize, count: i32, table: usize, clipped: i32): void {
  for (let i = 0; i < count; i++) {
    const o = <usize>i << 2;
    let light = load<f32>(row + o);
    if (clipped) light = max<f32>(0.0, min<f32>(1.0, light));
    store<f32>(row + o, light < 0.0 ? -ofLight(table, -light) : ofLight(table, light));
  }
}

/** Scales light by what the table has for its luminance, or without weights (all zero) for its brightest part. */
export function gain(r: usize, g: usize, b: usize, count: i32, wr: f32, wg: f32, wb: f32, table: usize): void {
  const weighed = wr + wg + wb > 0.0;
  for (let i = 0; i < count; i++) {
    const o = <usize>i << 2;
    const vr = load<f32>(r + o);
    const vg = load<f32>(g + o);
    const vb = load<f32>(b + o);
    const key = weighed ? wr * vr + wg * vg + wb * vb : max<f32>(vr, max<f32>(vg, vb));
    const by = ofLight(table, max<f32>(0.0, key));
    store<f32>(r + o, vr * by);
    store<f32>(g + o, vg * by);
    store<f32>(b + o, vb * by);
  }
}

/** Light of some primaries as that of others. */
export function mixPrimaries(r: usize, g: usize, b: usize, count: i32, plan: usize): void {
  for (let i = 0; i < count; i++) {
    const o = <usize>i << 2;
    const vr = load<f32>(r + o);
    const vg = load<f32>(g + o);
    const vb = load<f32>(b + o);
    store<f32>(r + o, at(plan, P_MATRIX) * vr + at(plan, P_MATRIX + 1) * vg + at(plan, P_MATRIX + 2) * vb);
    store<f32>(g + o, at(plan, P_MATRIX + 3) * vr + at(plan, P_MATRIX + 4) * vg + at(plan, P_MATRIX + 5) * vb);
    store<f32>(b + o, at(plan, P_MATRIX + 6) * vr + at(plan, P_MATRIX + 7) * vg + at(plan, P_MATRIX + 8) * vb);
  }
}

/** Writes a row of floats as codes. */
export function writeRow(row: usize, count: i32, plane: usize, size: i32, index: i32, offset: f32, scale: f32, top: f32): void {
  const to = plane + <usize>(index * count * size);
  for (let x = 0; x < count; x++) put(to, size, x, load<f32>(row + (<usize>x << 2)) * scale + offset, top);
}

/**
 * Gathers rows of chroma at full sampling into one of fewer samples. `first`, `second`: the rows it lies between (the same one where it is
 * not shared downwards); `left`: it lies on the even samples, else between two.
 */
export function writeChromaRow(
  first: usize, second: usize, fullWidth: i32, shiftX: i32, left: i32,
  plane: usize, size: i32, width: i32, index: i32, offset: f32, scale: f32, top: f32,
): void {
  const to = plane + <usize>(index * width * size);
  for (let x = 0; x < width; x++) {
    let value: f32 = 0.0;
    if (shiftX == 0) value = mean(first, second, x, fullWidth);
    else if (left && shiftX == 1) value = 0.25 * mean(first, second, 2 * x - 1, fullWidth) + 0.5 * mean(first, second, 2 * x, fullWidth) + 0.25 * mean(first, second, 2 * x + 1, fullWidth);
    else {
      const many = 1 << shiftX;
      for (let n = 0; n < many; n++) value += mean(first, second, (x << shiftX) + n, fullWidth);
      value /= <f32>many;
    }
    put(to, size, x, value * scale + offset, top);
  }
}

// @ts-ignore: decorator
@inline
function mean(first: usize, second: usize, x: i32, width: i32): f32 {
  const o = <usize>max(0, min(width - 1, x)) << 2;
  return 0.5 * (load<f32>(first + o) + load<f32>(second + o));
}
