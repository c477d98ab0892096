// A picture pushed out of square, so that a slanted line becomes a row or a column, and back again.

/**
 * A plane of `width` × `height` samples of `size` bytes whose columns are moved against each other: sample (x, y) of `out` is what stands in
 * column x at y + `slope` · (x − (width − 1) / 2), counted from both planes' middles, between two samples in proportion; beyond the plane
 * its edge goes on. `out` has `outSize` rows of the same width. With `down` rows are moved along x in the same way, and `outSize` is its width.
 */
export function shear(plane: usize, size: i32, width: i32, height: i32, slope: f32, down: i32, out: usize, outSize: i32): void {
  if (size == 1) sheared<u8>(plane, width, height, slope, down, out, outSize);
  else sheared<u16>(plane, width, height, slope, down, out, outSize);
}

/** Places between samples are told in 256 parts. */
const PARTS: i32 = 8;

function sheared<T>(plane: usize, width: i32, height: i32, slope: f32, down: i32, out: usize, outSize: i32): void {
  const outWidth = down != 0 ? outSize : width;
  const outHeight = down != 0 ? height : outSize;
  // Along what is moved, and from line to line across it.
  const last = (down != 0 ? width : height) - 1;
  const step = down != 0 ? 1 : width;
  const beside = down != 0 ? width : 1;
  const middle = <f32>((down != 0 ? height : width) - 1) / 2;
  const off = <f32>(last + 1 - outSize) / 2;
  for (let y = 0; y < outHeight; y++) {
    for (let x = 0; x < outWidth; x++) {
      const along = down != 0 ? x : y;
      const line = down != 0 ? y : x;
      const place = <i32>Mathf.floor((<f32>along + off + slope * (<f32>line - middle)) * <f32>(1 << PARTS) + 0.5);
      const whole = place >> PARTS;
      const part = place & ((1 << PARTS) - 1);
      const from = plane + <usize>(line * beside) * sizeof<T>();
      const a = <i32>load<T>(from + <usize>(max(0, min(last, whole)) * step) * sizeof<T>());
      const b = <i32>load<T>(from + <usize>(max(0, min(last, whole + 1)) * step) * sizeof<T>());
      store<T>(out + <usize>(y * outWidth + x) * sizeof<T>(), <T>(((a << PARTS) + (b - a) * part + (1 << (PARTS - 1))) >> PARTS));
    }
  }
}
