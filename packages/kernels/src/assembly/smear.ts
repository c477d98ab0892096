// Light gathered along the way: every sample becomes the mean of the samples on a straight stretch through it, as long as the
// picture moves there while the shutter is open (a line integral along the motion, as in B. Cabral and L. Leedom, "Imaging Vector
// Fields Using Line Integral Convolution", SIGGRAPH 1993, with straight lines of each sample's own length).

/** Samples of a stretch are taken no further apart than this share of a sample. */
const CLOSE: f32 = 1;
const MOST: i32 = 512;

/** The grid point nearest to sample `at`. */
// @ts-ignore: decorator
@inline
function nearest(at: i32, per: f32, gridSize: i32): i32 {
  return max(0, min(gridSize - 1, <i32>Mathf.floor((<f32>at + <f32>0.5) * per)));
}

/**
 * Adds `weight` × the mean along the way to `sums` (f32, one for each sample). The plane has `width` × `height` samples of `size`
 * bytes, rows close together. `field` has (u, v) for every point of a grid of `gridWidth` × `gridHeight`; `scaleX`, `scaleY` make
 * them samples of the whole stretch; `perX`, `perY` are grid steps per sample.
 */
export function smear(
  plane: usize,
  size: i32,
  width: i32,
  height: i32,
  field: usize,
  gridWidth: i32,
  gridHeight: i32,
  perX: f32,
  perY: f32,
  scaleX: f32,
  scaleY: f32,
  weight: f32,
  sums: usize,
): void {
  const lastX = width - 1;
  const lastY = height - 1;
  for (let y = 0; y < height; y++) {
    const row = field + ((nearest(y, perY, gridHeight) * gridWidth) << 3);
    for (let x = 0; x < width; x++) {
      const vector = row + (nearest(x, perX, gridWidth) << 3);
      const u = load<f32>(vector) * scaleX;
      const v = load<f32>(vector, 4) * scaleY;
      const taps = max(1, min(MOST, <i32>Mathf.ceil(Mathf.max(Mathf.abs(u), Mathf.abs(v)) / CLOSE)));
      const at = sums + ((y * width + x) << 2);
      if (taps == 1) {
        store<f32>(at, load<f32>(at) + weight * <f32>read(plane, size, y * width + x));
        continue;
      }
      // 16.16 fixed point, from the middle of the first part to that of the last.
      const stepX = <i32>((u / <f32>taps) * 65536);
      const stepY = <i32>((v / <f32>taps) * 65536);
      let px = (x << 16) + 32768 - ((stepX * (taps - 1)) >> 1);
      let py = (y << 16) + 32768 - ((stepY * (taps - 1)) >> 1);
      let sum: u32 = 0;
      for (let i = 0; i < taps; i++) {
        const sx = max(0, min(lastX, px >> 16));
        const sy = max(0, min(lastY, py >> 16));
        sum += read(plane, size, sy * width + sx);
        px += stepX;
        py += stepY;
      }
      store<f32>(at, load<f32>(at) + (weight * <f32>sum) / <f32>taps);
    }
  }
}

// @ts-ignore: decorator
@inline
function read(plane: usize, size: i32, at: i32): u32 {
  return size == 1 ? <u32>load<u8>(plane + at) : <u32>load<u16>(plane + (at << 1));
}

/** Writes `count` sums as samples of `size` bytes, rounded. */
export function gathered(sums: usize, count: i32, size: i32, out: usize): void {
  for (let i = 0; i < count; i++) {
    const value = <u32>(load<f32>(sums + (i << 2)) + <f32>0.5);
    if (size == 1) store<u8>(out + i, <u8>min(255, value));
    else store<u16>(out + (i << 1), <u16>min(65535, value));
  }
}
