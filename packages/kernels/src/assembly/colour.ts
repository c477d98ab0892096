/**
 * 8-bit 4:2:0 planes to RGBA for display. Coefficients are 16.16 fixed point: r = ky(y−oy) + krv·v, and so on.
 * Chroma is taken from the sample that covers the pixel: for looking at, never for export.
 */
export function yuv420ToRgba(
  y: usize,
  u: usize,
  v: usize,
  out: usize,
  width: i32,
  height: i32,
  offsetY: i32,
  ky: i32,
  krv: i32,
  kgu: i32,
  kgv: i32,
  kbu: i32,
): void {
  const chromaWidth = (width + 1) >> 1;
  for (let row = 0; row < height; row++) {
    const luma = y + row * width;
    const chroma = (row >> 1) * chromaWidth;
    let target = out + row * width * 4;
    let r: i32 = 0;
    let g: i32 = 0;
    let b: i32 = 0;
    for (let x = 0; x < width; x++) {
      if ((x & 1) == 0) {
        const cu: i32 = <i32>load<u8>(u + chroma + (x >> 1)) - 128;
        const cv: i32 = <i32>load<u8>(v + chroma + (x >> 1)) - 128;
        r = krv * cv + 32768;
        g = 32768 - kgu * cu - kgv * cv;
        b = kbu * cu + 32768;
      }
      const base = (<i32>load<u8>(luma + x) - offsetY) * ky;
      store<u32>(target, <u32>clamp8((base + r) >> 16) | (<u32>clamp8((base + g) >> 16) << 8) | (<u32>clamp8((base + b) >> 16) << 16) | 0xff000000);
      target += 4;
    }
  }
}

// @ts-ignore: decorator
@inline
function clamp8(value: i32): i32 {
  return value < 0 ? 0 : value > 255 ? 255 : value;
}
