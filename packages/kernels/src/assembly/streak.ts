// Every sample becomes the mean of a straight stretch through it, the same for all: along rows or along columns, in one pass of running sums.

/**
 * A plane of `width` × `height` samples of `size` bytes, each the mean over `length` samples about it, along its row or (`down`) its column;
 * beyond its ends a row goes on as its last sample. A stretch that ends inside a sample takes that share of it. `length` is 1 to
 * 2000. `sums` has room for four times `width` words and 4100 more.
 */
export function streak(plane: usize, size: i32, width: i32, height: i32, length: f32, down: i32, out: usize, sums: usize): void {
  if (size == 1) streaked<u8>(plane, width, height, length, down, out, sums);
  else streaked<u16>(plane, width, height, length, down, out, sums);
}

/** Sums are weighed in parts of a sample so small that they stay below 2³¹. */
// @ts-ignore: decorator
@inline
function partBits<T>(): u32 {
  return sizeof<T>() == 1 ? 8 : 4;
}

function streaked<T>(plane: usize, width: i32, height: i32, length: f32, down: i32, out: usize, sums: usize): void {
  // Whole samples to either side, and how much of one more.
  const half = (length - 1) / 2;
  const whole = <i32>Mathf.floor(half);
  const share = <u32>Mathf.round((half - <f32>whole) * <f32>(1 << partBits<T>()));
  const total: u32 = (<u32>(2 * whole + 1) << partBits<T>()) + 2 * share;
  const per = <f32>1 / <f32>total;
  const weighed = sums + (<usize>(width + 4) << 2);
  const words = weighed + (<usize>(width + 4) << 2);
  const bytes = <usize>width * sizeof<T>();
  if (down != 0) begin<T>(plane, width, height, whole, sums);
  for (let y = 0; y < height; y++) {
    if (down != 0) downwards<T>(plane, y, width, height, whole, share, sums, weighed);
    else across<T>(plane + <usize>y * bytes, width, whole, share, weighed, words);
    means<T>(weighed, width, per, out + <usize>y * bytes);
  }
}

/**
 * The weighed sums of the stretches along a row. `words` has room for it and `whole` + 1 samples more at either end, twice: as it is, and
 * what all samples before each add up to.
 */
function across<T>(row: usize, width: i32, whole: i32, share: u32, weighed: usize, words: usize): void {
  const beyond = whole + 1;
  const count = width + 2 * beyond;
  const first = i32x4.splat(<i32>load<T>(row));
  const last = i32x4.splat(<i32>load<T>(row + <usize>(width - 1) * sizeof<T>()));
  for (let i = 0; i < beyond; i += 4) v128.store(words + (<usize>i << 2), first);
  const own = words + (<usize>beyond << 2);
  for (let x = 0; x < width; x += 4) v128.store(own + (<usize>x << 2), four<T>(row + <usize>x * sizeof<T>()));
  for (let i = 0; i < beyond; i += 4) v128.store(own + (<usize>(width + i) << 2), last);
  const before = words + (<usize>(count + 4) << 2);
  let sum = i32x4.splat(0);
  for (let i: usize = 0; i < <usize>count << 2; i += 16) {
    const next = v128.load(words + i);
    // Each with all before it of the four, by two shifts.
    const pairs = i32x4.add(next, i8x16.shuffle(i32x4.splat(0), next, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27));
    const all = i32x4.add(pairs, i8x16.shuffle(i32x4.splat(0), pairs, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23));
    v128.store(before + i, i32x4.sub(i32x4.add(sum, all), next));
    sum = i32x4.add(sum, i8x16.shuffle(all, all, 12, 13, 14, 15, 12, 13, 14, 15, 12, 13, 14, 15, 12, 13, 14, 15));
  }
  const part = i32x4.splat(<i32>share);
  const far = <usize>(2 * beyond) << 2;
  for (let x = 0; x < width; x += 4) {
    const at = <usize>x << 2;
    const inside = i32x4.sub(v128.load(before + at + far), v128.load(before + at + 4));
    const ends = i32x4.add(v128.load(words + at), v128.load(words + at + far));
    v128.store(weighed + at, i32x4.add(i32x4.shl(inside, <i32>partBits<T>()), i32x4.mul(part, ends)));
  }
}

/** The sums of every column's stretch about its first sample. */
function begin<T>(plane: usize, width: i32, height: i32, whole: i32, sums: usize): void {
  memory.fill(sums, 0, <usize>width << 2);
  for (let i = -whole; i <= whole; i++) {
    const from = plane + <usize>(clamped(i, height - 1) * width) * sizeof<T>();
    for (let x: usize = 0; x < <usize>width; x++) store<u32>(sums + (x << 2), load<u32>(sums + (x << 2)) + <u32>load<T>(from + x * sizeof<T>()));
  }
}

/** The weighed sums of the columns' stretches about row `y`; `sums` go on to the next row. */
function downwards<T>(plane: usize, y: i32, width: i32, height: i32, whole: i32, share: u32, sums: usize, weighed: usize): void {
  const last = height - 1;
  const row = <usize>width * sizeof<T>();
  const above = plane + <usize>clamped(y - whole - 1, last) * row;
  const first = plane + <usize>clamped(y - whole, last) * row;
  const below = plane + <usize>clamped(y + whole + 1, last) * row;
  const part = i32x4.splat(<i32>share);
  let x: usize = 0;
  for (; x + 4 <= <usize>width; x += 4) {
    const column = sums + (x << 2);
    const sum = v128.load(column);
    const next = four<T>(below + x * sizeof<T>());
    const ends = i32x4.add(four<T>(above + x * sizeof<T>()), next);
    v128.store(weighed + (x << 2), i32x4.add(i32x4.shl(sum, <i32>partBits<T>()), i32x4.mul(part, ends)));
    v128.store(column, i32x4.sub(i32x4.add(sum, next), four<T>(first + x * sizeof<T>())));
  }
  for (; x < <usize>width; x++) {
    const column = sums + (x << 2);
    const sum = load<u32>(column);
    const next = <u32>load<T>(below + x * sizeof<T>());
    store<u32>(weighed + (x << 2), (sum << partBits<T>()) + share * (<u32>load<T>(above + x * sizeof<T>()) + next));
    store<u32>(column, sum + next - <u32>load<T>(first + x * sizeof<T>()));
  }
}

/** A row of weighed sums as samples, rounded by adding 2²³, beyond which a float has whole numbers only. */
function means<T>(weighed: usize, width: i32, per: f32, out: usize): void {
  const factor = f32x4.splat(per);
  const whole = f32x4.splat(8388608);
  const bits = i32x4.splat(0x7fffff);
  let x: usize = 0;
  for (; x + 8 <= <usize>width; x += 8) {
    const low = f32x4.add(f32x4.mul(f32x4.convert_i32x4_s(v128.load(weighed + (x << 2))), factor), whole);
    const high = f32x4.add(f32x4.mul(f32x4.convert_i32x4_s(v128.load(weighed + (x << 2), 16)), factor), whole);
    const words = i16x8.narrow_i32x4_u(v128.and(low, bits), v128.and(high, bits));
    if (sizeof<T>() == 1) v128.store64_lane(out + x, i8x16.narrow_i16x8_u(words, words), 0);
    else v128.store(out + (x << 1), words);
  }
  for (; x < <usize>width; x++) store<T>(out + x * sizeof<T>(), <T>(reinterpret<u32>(<f32>load<i32>(weighed + (x << 2)) * per + 8388608) & 0x7fffff));
}

/** Four samples as words. */
// @ts-ignore: decorator
@inline
function four<T>(address: usize): v128 {
  if (sizeof<T>() == 1) return i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(address)));
  return i32x4.extend_low_i16x8_u(v128.load64_zero(address));
}

// @ts-ignore: decorator
@inline
function clamped(i: i32, last: i32): i32 {
  return max(0, min(last, i));
}
