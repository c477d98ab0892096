// A picture drawn closer, turned and moved: bilinear, edges held.

/**
 * out(x, y) = the plane at (cx, cy) + (a, b; c, d) · (x − cx − moveX, y − cy − moveY), (cx, cy) its middle. `width` × `height` samples
 * of `size` bytes.
 */
export function place(plane: usize, size: i32, width: i32, height: i32, a: f32, b: f32, c: f32, d: f32, moveX: f32, moveY: f32, out: usize): void {
  const midX = <f32>(width - 1) / 2;
  const midY = <f32>(height - 1) / 2;
  const lastX = <f32>(width - 1);
  const lastY = <f32>(height - 1);
  for (let y = 0; y < height; y++) {
    const dy = <f32>y - midY - moveY;
    for (let x = 0; x < width; x++) {
      const dx = <f32>x - midX - moveX;
      const sx = Mathf.max(0, Mathf.min(lastX, a * dx + b * dy + midX));
      const sy = Mathf.max(0, Mathf.min(lastY, c * dx + d * dy + midY));
      const y0 = min(<i32>sy, max(0, height - 2));
      const fy = sy - <f32>y0;
      const below = min(y0 + 1, height - 1);
      const x0 = min(<i32>sx, max(0, width - 2));
      const fx = sx - <f32>x0;
      const beside = min(x0 + 1, width - 1);
      const top = (<f32>1 - fx) * sample(plane, size, y0 * width + x0) + fx * sample(plane, size, y0 * width + beside);
      const bottom = (<f32>1 - fx) * sample(plane, size, below * width + x0) + fx * sample(plane, size, below * width + beside);
      const value = <u32>((<f32>1 - fy) * top + fy * bottom + <f32>0.5);
      if (size == 1) store<u8>(out + y * width + x, <u8>value);
      else store<u16>(out + ((y * width + x) << 1), <u16>value);
    }
  }
}

// @ts-ignore: decorator
@inline
function sample(plane: usize, size: i32, at: i32): f32 {
  return size == 1 ? <f32>load<u8>(plane + at) : <f32>load<u16>(plane + (at << 1));
}
