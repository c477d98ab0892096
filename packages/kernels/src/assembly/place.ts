// A picture laid into another: moved, turned, scaled. Bilinear.

/**
 * out(x, y) = the plane at M + (a, b; c, d) · ((x, y) − N) + (tx, ty), where M and N are the middles of the plane and of `out`. Up to a
 * sample beyond its edges the plane is as they are; further out there is `black`. `width` × `height` and `outWidth` × `outHeight` samples of
 * `size` bytes.
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
): void {
  if (size == 1) placed<u8>(plane, width, height, a, b, c, d, tx, ty, out, outWidth, outHeight, black);
  else placed<u16>(plane, width, height, a, b, c, d, tx, ty, out, outWidth, outHeight, black);
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
): void {
  const midX = <f32>(outWidth - 1) / 2;
  const midY = <f32>(outHeight - 1) / 2;
  const stride = <usize>width * sizeof<T>();
  const stepX = <i64>(<f64>a * ONE);
  const stepY = <i64>(<f64>c * ONE);
  for (let y = 0; y < outHeight; y++) {
    const dy = <f32>y - midY;
    const rowX = b * dy + tx + <f32>(width - 1) / 2;
    const rowY = d * dy + ty + <f32>(height - 1) / 2;
    // Where the four samples around a point are all there, nothing has to be asked.
    let from = 0;
    let to = outWidth;
    while (from < to && !within(a * (<f32>from - midX) + rowX, c * (<f32>from - midX) + rowY, width, height)) from++;
    while (to > from && !within(a * (<f32>(to - 1) - midX) + rowX, c * (<f32>(to - 1) - midX) + rowY, width, height)) to--;
    let target = out + <usize>(y * outWidth) * sizeof<T>();
    for (let x = 0; x < from; x++, target += sizeof<T>()) {
      const dx = <f32>x - midX;
      store<T>(target, <T>atEdge<T>(plane, width, height, a * dx + rowX, c * dx + rowY, black));
    }
    // In steps of 2⁻³², so that no error adds up.
    const start = <f32>from - midX;
    let u = <i64>(<f64>(a * start + rowX) * ONE);
    let v = <i64>(<f64>(c * start + rowY) * ONE);
    for (let x = from; x < to; x++, target += sizeof<T>(), u += stepX, v += stepY) {
      const at = plane + <usize>(v >> 32) * stride + <usize>(u >> 32) * sizeof<T>();
      const p = <i32>load<T>(at);
      const q = <i32>load<T>(at, sizeof<T>());
      const r = <i32>load<T>(at + stride);
      const s = <i32>load<T>(at + stride, sizeof<T>());
      if (sizeof<T>() == 1) {
        // Weights in 1/256.
        const fx = <i32>((u >> 24) & 255);
        const top = (p << 8) + fx * (q - p);
        const bottom = (r << 8) + fx * (s - r);
        store<T>(target, <T>(((top << 8) + <i32>((v >> 24) & 255) * (bottom - top) + 32768) >> 16));
      } else {
        // In 1/65536.
        const fx = (u >> 16) & 65535;
        const top = (<i64>p << 16) + fx * <i64>(q - p);
        const bottom = (<i64>r << 16) + fx * <i64>(s - r);
        store<T>(target, <T>(((top << 16) + ((v >> 16) & 65535) * (bottom - top) + (<i64>1 << 31)) >> 32));
      }
    }
    for (let x = to; x < outWidth; x++, target += sizeof<T>()) {
      const dx = <f32>x - midX;
      store<T>(target, <T>atEdge<T>(plane, width, height, a * dx + rowX, c * dx + rowY, black));
    }
  }
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
