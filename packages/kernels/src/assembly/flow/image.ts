// Luma planes as 12-bit values in 16-bit lanes, with a border of repeated edge samples all round, and their pyramid.
// A plane is named by the address of its pixel (0, 0) and its stride in samples.

/** Samples of border on every side of a plane: a patch may hang over the edge by its own size and half as much again. */
const BORDER: i32 = 16;

/** Widens 8-bit samples to 12 bits; `sourceStride` in bytes. */
export function widen8(source: usize, sourceStride: i32, plane: usize, stride: i32, width: i32, height: i32): void {
  for (let y = 0; y < height; y++) {
    const from = source + y * sourceStride;
    const to = plane + ((y * stride) << 1);
    let x = 0;
    for (; x + 8 <= width; x += 8) v128.store(to + (x << 1), i16x8.shl(v128.load8x8_u(from + x), 4));
    for (; x < width; x++) store<u16>(to + (x << 1), <u16>load<u8>(from + x) << 4);
  }
  repeatEdges(plane, stride, width, height);
}

/** Brings 16-bit samples of `bits` significant bits to 12 bits; `sourceStride` in samples. */
export function widen16(source: usize, sourceStride: i32, plane: usize, stride: i32, width: i32, height: i32, bits: i32): void {
  for (let y = 0; y < height; y++) {
    const from = source + ((y * sourceStride) << 1);
    const to = plane + ((y * stride) << 1);
    for (let x = 0; x < width; x++) {
      const value: u32 = load<u16>(from + (x << 1));
      store<u16>(to + (x << 1), <u16>(bits <= 12 ? value << (12 - bits) : value >> (bits - 12)));
    }
  }
  repeatEdges(plane, stride, width, height);
}

/** Fills the border with the nearest sample of the picture. */
export function repeatEdges(plane: usize, stride: i32, width: i32, height: i32): void {
  for (let y = 0; y < height; y++) {
    const row = plane + ((y * stride) << 1);
    const left = load<u16>(row);
    const right = load<u16>(row + ((width - 1) << 1));
    for (let x = 1; x <= BORDER; x++) store<u16>(row - (x << 1), left);
    for (let x = width; x < stride - BORDER; x++) store<u16>(row + (x << 1), right);
  }
  const bytes = stride << 1;
  const start = plane - (BORDER << 1);
  for (let y = 1; y <= BORDER; y++) {
    memory.copy(start - y * bytes, start, bytes);
    memory.copy(start + (height - 1 + y) * bytes, start + (height - 1) * bytes, bytes);
  }
}

/** The next coarser level: each sample the mean of 2 × 2. `width` and `height` are the target's. */
export function halve(source: usize, sourceStride: i32, plane: usize, stride: i32, width: i32, height: i32): void {
  const ones = i16x8.splat(1);
  const two = i32x4.splat(2);
  for (let y = 0; y < height; y++) {
    const upper = source + ((2 * y * sourceStride) << 1);
    const lower = upper + (sourceStride << 1);
    const to = plane + ((y * stride) << 1);
    // Reads and writes past the width stay inside the border.
    for (let x = 0; x < width; x += 8) {
      const a = i16x8.add(v128.load(upper + (x << 2)), v128.load(lower + (x << 2)));
      const b = i16x8.add(v128.load(upper + (x << 2) + 16), v128.load(lower + (x << 2) + 16));
      const low = i32x4.shr_s(i32x4.add(i32x4.dot_i16x8_s(a, ones), two), 2);
      const high = i32x4.shr_s(i32x4.add(i32x4.dot_i16x8_s(b, ones), two), 2);
      v128.store(to + (x << 1), i16x8.narrow_i32x4_s(low, high));
    }
  }
  repeatEdges(plane, stride, width, height);
}

/** Twice the slope along each axis by central differences, over the picture; same strides as the plane. */
export function slopes(plane: usize, stride: i32, width: i32, height: i32, alongX: usize, alongY: usize): void {
  const bytes = stride << 1;
  for (let y = 0; y < height; y++) {
    const offset = (y * stride) << 1;
    for (let x = 0; x < width; x += 8) {
      const at = offset + (x << 1);
      v128.store(alongX + at, i16x8.sub(v128.load(plane + at + 2), v128.load(plane + at - 2)));
      v128.store(alongY + at, i16x8.sub(v128.load(plane + at + bytes), v128.load(plane + at - bytes)));
    }
  }
}
