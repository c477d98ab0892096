// A picture laid into another: moved, turned, scaled. Bilinear.

/**
 * out(x, y) = the plane at M + (a, b; c, d) · ((x, y) − N) + (tx, ty), where M and N are the middles of the plane and of `out`. Up to a
 * sample beyond its edges the plane is as they are; further out there is `black`. `width` × `height` and `outWidth` × `outHeight` samples of
 * `size` bytes; only columns `left` … `right` − 1 of rows `top` … `bottom` − 1 are written.
 */
export function place(
  plane: usize,
  size: i32,
  width: i32,
  height: i32,
  a: f32,
  b: f32,
  c: f32,
  d: f32,
  tx: f32,
  ty: f32,
  out: usize,
  outWidth: i32,
  outHeight: i32,
  black: i32,
  left: i32,
  right: i32,
  top: i32,
  bottom: i32,
): void {
  if (size == 1) placed<u8>(plane, width, height, a, b, c, d, tx, ty, out, outWidth, outHeight, black, left, right, top, bottom);
  else placed<u16>(plane, width, height, a, b, c, d, tx, ty, out, outWidth, outHeight, black, left, right, top, bottom);
}

function placed<T>(
  plane: usize,
  width: i32,
  height: i32,
  a: f32,
  b: f32,
  c: f32,
  d: f32,
  tx: f32,
  ty: f32,
  out: usize,
  outWidth: i32,
  outHeight: i32,
  black: i32,
  left: i32,
  right: i32,
  top: i32,
  bottom: i32,
): void {
  const midX = <f32>(outWidth - 1) / 2;
  const midY = <f32>(outHeight - 1) / 2;
  const stride = <usize>width * sizeof<T>();
  const stepX = <i64>(<f64>a * ONE);
  const stepY = <i64>(<f64>c * ONE);
  for (let y = top; y < bottom; y++) {
    const dy = <f32>y - midY;
    const rowX = b * dy + tx + <f32>(width - 1) / 2;
    const rowY = d * dy + ty + <f32>(height - 1) / 2;
    // Where the four samples around a point are all there, nothing has to be asked.
    let from = left;
    let to = right;
    while (from < to && !within(a * (<f32>from - midX) + rowX, c * (<f32>from - midX) + rowY, width, height)) from++;
    while (to > from && !within(a * (<f32>(to - 1) - midX) + rowX, c * (<f32>(to - 1) - midX) + rowY, width, height)) to--;
    let target = out + <usize>(y * outWidth + left) * sizeof<T>();
    for (let x = left; x < from; x++, target += sizeof<T>()) {
      const dx = <f32>x - midX;
      store<T>(target, <T>atEdge<T>(plane, width, height, a * dx + rowX, c * dx + rowY, black));
    }
    // In steps of 2⁻³², so that no error adds up.
    const start = <f32>from - midX;
    let u = <i64>(<f64>(a * start + rowX) * ONE);
    let v = <i64>(<f64>(c * start + rowY) * ONE);
    let x = from;
    if (sizeof<T>() == 1 && to - from >= 4) {
      const count = (to - from) & ~3;
      fourAtOnce(plane, stride, u, v, stepX, stepY, target, count);
      x += count;
      target += count;
      u += <i64>count * stepX;
      v += <i64>count * stepY;
    }
    for (; x < to; x++, target += sizeof<T>(), u += stepX, v += stepY) {
      const at = plane + <usize>(v >> 32) * stride + <usize>(u >> 32) * sizeof<T>();
      const p = <i32>load<T>(at);
      const q = <i32>load<T>(at, sizeof<T>());
      const r = <i32>load<T>(at + stride);
      const s = <i32>load<T>(at + stride, sizeof<T>());
      if (sizeof<T>() == 1) {
        // Weights in 1/256.
        const fx = <i32>((u >> 24) & 255);
        const above = (p << 8) + fx * (q - p);
        const below = (r << 8) + fx * (s - r);
        store<T>(target, <T>(((above << 8) + <i32>((v >> 24) & 255) * (below - above) + 32768) >> 16));
      } else {
        // In 1/65536.
        const fx = (u >> 16) & 65535;
        const above = (<i64>p << 16) + fx * <i64>(q - p);
        const below = (<i64>r << 16) + fx * <i64>(s - r);
        store<T>(target, <T>(((above << 16) + ((v >> 16) & 65535) * (below - above) + (<i64>1 << 31)) >> 32));
      }
    }
    for (let x = to; x < right; x++, target += sizeof<T>()) {
      const dx = <f32>x - midX;
      store<T>(target, <T>atEdge<T>(plane, width, height, a * dx + rowX, c * dx + rowY, black));
    }
  }
}

/**
 * `count` bytes of a row, a multiple of four, each from the four samples around (u, v) in 2⁻³²: to the bit what one at a time would be.
 * Two samples beside each other are one 16-bit load, and weighing them is one multiply-and-add.
 */
function fourAtOnce(plane: usize, stride: usize, u: i64, v: i64, stepX: i64, stepY: i64, out: usize, count: i32): void {
  let u01 = pair(u, u + stepX);
  let u23 = pair(u + 2 * stepX, u + 3 * stepX);
  let v01 = pair(v, v + stepY);
  let v23 = pair(v + 2 * stepY, v + 3 * stepY);
  const aheadX = i64x2.splat(4 * stepX);
  const aheadY = i64x2.splat(4 * stepY);
  const whole = i32x4.splat(256);
  const half = i32x4.splat(32768);
  const row = i32x4.splat(<i32>stride);
  for (let n = 0; n < count; n += 4) {
    const at = i32x4.add(i32x4.mul(highWords(v01, v23), row), highWords(u01, u23));
    const p0 = plane + <usize>i32x4.extract_lane(at, 0);
    const p1 = plane + <usize>i32x4.extract_lane(at, 1);
    const p2 = plane + <usize>i32x4.extract_lane(at, 2);
    const p3 = plane + <usize>i32x4.extract_lane(at, 3);
    let above = v128.load_lane<u16>(p0, i32x4.splat(0), 0);
    above = v128.load_lane<u16>(p1, above, 1);
    above = v128.load_lane<u16>(p2, above, 2);
    above = v128.load_lane<u16>(p3, above, 3);
    let below = v128.load_lane<u16>(p0 + stride, i32x4.splat(0), 0);
    below = v128.load_lane<u16>(p1 + stride, below, 1);
    below = v128.load_lane<u16>(p2 + stride, below, 2);
    below = v128.load_lane<u16>(p3 + stride, below, 3);
    // Weights of the left and the right one, in 1/256.
    const fx = i32x4.shr_u(lowWords(u01, u23), 24);
    const weights = v128.or(i32x4.shl(fx, 16), i32x4.sub(whole, fx));
    const top = i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(above), weights);
    const bottom = i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(below), weights);
    const fy = i32x4.shr_u(lowWords(v01, v23), 24);
    const sum = i32x4.add(i32x4.add(i32x4.shl(top, 8), i32x4.mul(fy, i32x4.sub(bottom, top))), half);
    const codes = i32x4.shr_u(sum, 16);
    const words = i16x8.narrow_i32x4_u(codes, codes);
    v128.store_lane<u32>(out + n, i8x16.narrow_i16x8_u(words, words), 0);
    u01 = i64x2.add(u01, aheadX);
    u23 = i64x2.add(u23, aheadX);
    v01 = i64x2.add(v01, aheadY);
    v23 = i64x2.add(v23, aheadY);
  }
}

// @ts-ignore: decorator
@inline
function pair(first: i64, second: i64): v128 {
  return i64x2.replace_lane(i64x2.splat(first), 1, second);
}

// @ts-ignore: decorator
@inline
function highWords(a: v128, b: v128): v128 {
  return i8x16.shuffle(a, b, 4, 5, 6, 7, 12, 13, 14, 15, 20, 21, 22, 23, 28, 29, 30, 31);
}

// @ts-ignore: decorator
@inline
function lowWords(a: v128, b: v128): v128 {
  return i8x16.shuffle(a, b, 0, 1, 2, 3, 8, 9, 10, 11, 16, 17, 18, 19, 24, 25, 26, 27);
}

const ONE: f64 = 4294967296;

// @ts-ignore: decorator
@inline
function within(sx: f32, sy: f32, width: i32, height: i32): bool {
  return sx >= 0 && sy >= 0 && sx < <f32>(width - 1) && sy < <f32>(height - 1);
}

function atEdge<T>(plane: usize, width: i32, height: i32, x: f32, y: f32, black: i32): i32 {
  if (x <= -1 || y <= -1 || x >= <f32>width || y >= <f32>height) return black;
  const sx = max<f32>(0, min<f32>(<f32>(width - 1), x));
  const sy = max<f32>(0, min<f32>(<f32>(height - 1), y));
  const x0 = min(<i32>sx, max(0, width - 2));
  const y0 = min(<i32>sy, max(0, height - 2));
  const fx = sx - <f32>x0;
  const fy = sy - <f32>y0;
  const beside = min(x0 + 1, width - 1);
  const below = min(y0 + 1, height - 1);
  const top = (<f32>1 - fx) * sample<T>(plane, y0 * width + x0) + fx * sample<T>(plane, y0 * width + beside);
  const bottom = (<f32>1 - fx) * sample<T>(plane, below * width + x0) + fx * sample<T>(plane, below * width + beside);
  return <i32>((<f32>1 - fy) * top + fy * bottom + <f32>0.5);
}

// @ts-ignore: decorator
@inline
function sample<T>(plane: usize, at: i32): f32 {
  return <f32>load<T>(plane + <usize>at * sizeof<T>());
}

/** The plane at half its size, each sample the mean of two by two; an odd last row or column counts twice. `out` may be the plane itself. */
export function shrink(plane: usize, size: i32, width: i32, height: i32, out: usize): void {
  const across = (width + 1) >> 1;
  const down = (height + 1) >> 1;
  for (let y = 0; y < down; y++) {
    const above = 2 * y * width;
    const below = min(2 * y + 1, height - 1) * width;
    for (let x = 0; x < across; x++) {
      const left = 2 * x;
      const right = min(left + 1, width - 1);
      const sum = code(plane, size, above + left) + code(plane, size, above + right) + code(plane, size, below + left) + code(plane, size, below + right);
      const at = y * across + x;
      if (size == 1) store<u8>(out + at, <u8>((sum + 2) >> 2));
      else store<u16>(out + (at << 1), <u16>((sum + 2) >> 2));
    }
  }
}

// @ts-ignore: decorator
@inline
function code(plane: usize, size: i32, at: i32): i32 {
  return size == 1 ? <i32>load<u8>(plane + at) : <i32>load<u16>(plane + (at << 1));
}
