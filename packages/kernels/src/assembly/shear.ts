// A picture pushed out of square, so that a slanted line becomes a row or a column, and back again.

/**
 * A plane of `width` × `height` samples of `size` bytes whose columns are moved against each other: sample (x, y) of `out` is what stands in
 * column x at y + `slope` · (x − (width − 1) / 2), counted from both planes' middles, between two samples in proportion; beyond the plane
 * its edge goes on. `out` has `outSize` rows of the same width. With `down` rows are moved along x in the same way, and `outSize` is its
 * width. `places` has room for a word for every column.
 */
export function shear(plane: usize, size: i32, width: i32, height: i32, slope: f32, down: i32, out: usize, outSize: i32, places: usize): void {
  if (down != 0) {
    if (size == 1) rows<u8>(plane, width, height, slope, out, outSize);
    else rows<u16>(plane, width, height, slope, out, outSize);
  } else if (size == 1) columns<u8>(plane, width, height, slope, out, outSize, places);
  else columns<u16>(plane, width, height, slope, out, outSize, places);
}

/** Places between samples are told in 256 parts. */
const PARTS: i32 = 8;
const PART: i32 = (1 << PARTS) - 1;

/** How far a line is moved, in parts: `line` of so many, between planes of two sizes along it. */
// @ts-ignore: decorator
@inline
function moved(line: i32, lines: i32, slope: f32, size: i32, outSize: i32): i32 {
  return <i32>Mathf.floor(((<f32>(size - outSize)) / 2 + slope * (<f32>line - <f32>(lines - 1) / 2)) * <f32>(1 << PARTS) + 0.5);
}

function columns<T>(plane: usize, width: i32, height: i32, slope: f32, out: usize, outSize: i32, places: usize): void {
  for (let x = 0; x < width; x++) store<i32>(places + (<usize>x << 2), moved(x, width, slope, height, outSize));
  const last = height - 1;
  for (let y = 0; y < outSize; y++) {
    const to = out + <usize>(y * width) * sizeof<T>();
    for (let x = 0; x < width; x++) {
      const place = (y << PARTS) + load<i32>(places + (<usize>x << 2));
      const whole = place >> PARTS;
      const from = plane + <usize>x * sizeof<T>();
      const a = <i32>load<T>(from + <usize>(max(0, min(last, whole)) * width) * sizeof<T>());
      const b = <i32>load<T>(from + <usize>(max(0, min(last, whole + 1)) * width) * sizeof<T>());
      store<T>(to + <usize>x * sizeof<T>(), between<T>(a, b, place & PART));
    }
  }
}

function rows<T>(plane: usize, width: i32, height: i32, slope: f32, out: usize, outSize: i32): void {
  for (let y = 0; y < height; y++) {
    const place = moved(y, height, slope, width, outSize);
    const whole = place >> PARTS;
    const part = place & PART;
    const from = plane + <usize>(y * width) * sizeof<T>();
    const to = out + <usize>(y * outSize) * sizeof<T>();
    // Between these both samples are inside the plane.
    const begin = max(0, min(outSize, -whole));
    const end = max(begin, min(outSize, width - 1 - whole));
    const first = load<T>(from);
    const last = load<T>(from + <usize>(width - 1) * sizeof<T>());
    for (let x = 0; x < begin; x++) store<T>(to + <usize>x * sizeof<T>(), first);
    for (let x = begin; x < end; x++) {
      const at = from + <usize>(x + whole) * sizeof<T>();
      store<T>(to + <usize>x * sizeof<T>(), between<T>(<i32>load<T>(at), <i32>load<T>(at + sizeof<T>()), part));
    }
    for (let x = end; x < outSize; x++) store<T>(to + <usize>x * sizeof<T>(), last);
  }
}

// @ts-ignore: decorator
@inline
function between<T>(a: i32, b: i32, part: i32): T {
  return <T>(((a << PARTS) + (b - a) * part + (1 << (PARTS - 1))) >> PARTS);
}
