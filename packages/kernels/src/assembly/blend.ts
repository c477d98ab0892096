// out = round((a·(32768 − w) + b·w) / 32768) for every sample: weights have 15 bits, so products of 16-bit samples fit in 32.

const HALF: u32 = 16384;

/** Blends `count` 8-bit samples; `weight` is b's share, 0…32768. The buffers may have any alignment. */
export function blend8(a: usize, b: usize, out: usize, count: i32, weight: i32): void {
  const wa = i16x8.splat(<i16>(32768 - weight));
  const wb = i16x8.splat(<i16>weight);
  const half = i32x4.splat(<i32>HALF);
  let i = 0;
  for (; i + 16 <= count; i += 16) {
    const va = v128.load(a + i);
    const vb = v128.load(b + i);
    const low = blendLanes(i16x8.extend_low_i8x16_u(va), i16x8.extend_low_i8x16_u(vb), wa, wb, half);
    const high = blendLanes(i16x8.extend_high_i8x16_u(va), i16x8.extend_high_i8x16_u(vb), wa, wb, half);
    v128.store(out + i, i8x16.narrow_i16x8_u(low, high));
  }
  for (; i < count; i++) store<u8>(out + i, <u8>blendOne(load<u8>(a + i), load<u8>(b + i), weight));
}

/** Blends `count` 16-bit samples; addresses in bytes. */
export function blend16(a: usize, b: usize, out: usize, count: i32, weight: i32): void {
  const wa = i16x8.splat(<i16>(32768 - weight));
  const wb = i16x8.splat(<i16>weight);
  const half = i32x4.splat(<i32>HALF);
  let i = 0;
  for (; i + 8 <= count; i += 8) v128.store(out + (i << 1), blendLanes(v128.load(a + (i << 1)), v128.load(b + (i << 1)), wa, wb, half));
  for (; i < count; i++) store<u16>(out + (i << 1), <u16>blendOne(load<u16>(a + (i << 1)), load<u16>(b + (i << 1)), weight));
}

// @ts-ignore: decorator
@inline
function blendOne(a: u32, b: u32, weight: i32): u32 {
  return (a * <u32>(32768 - weight) + b * <u32>weight + HALF) >> 15;
}

// @ts-ignore: decorator
@inline
function blendLanes(a: v128, b: v128, wa: v128, wb: v128, half: v128): v128 {
  const low = i32x4.add(i32x4.add(i32x4.extmul_low_i16x8_u(a, wa), i32x4.extmul_low_i16x8_u(b, wb)), half);
  const high = i32x4.add(i32x4.add(i32x4.extmul_high_i16x8_u(a, wa), i32x4.extmul_high_i16x8_u(b, wb)), half);
  // Results are at most 65535; narrow_i32x4_u saturates signed values, which these, below 2¹⁷ after the shift, never reach.
  return i16x8.narrow_i32x4_u(i32x4.shr_u(low, 15), i32x4.shr_u(high, 15));
}
