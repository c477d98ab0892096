import { frameBytes, NO_COLOUR_TAGS, parsePixelFormat, planeSizes, type Frame } from '@idle-bend/core/frame';

/** A frame whose planes are drawn by `value(x, y, plane)` on a scale of 0…1, at sample centres. For tests. */
export function drawn(
  pixelFormat: string,
  width: number,
  height: number,
  value: (x: number, y: number, plane: number) => number,
): Frame {
  const layout = parsePixelFormat(pixelFormat)!;
  const bytes = new Uint8Array(frameBytes(layout, width, height));
  const samples = layout.bitDepth > 8 ? new Uint16Array(bytes.buffer) : bytes;
  const most = 2 ** layout.bitDepth - 1;
  let at = 0;
  planeSizes(layout, width, height).forEach((plane, p) => {
    const [stepX, stepY] = [Math.round(width / plane.width), Math.round(height / plane.height)];
    for (let y = 0; y < plane.height; y++)
      for (let x = 0; x < plane.width; x++)
        samples[at++] = Math.max(
          0,
          Math.min(most, Math.round(value((x + 0.5) * stepX - 0.5, (y + 0.5) * stepY - 0.5, p) * most)),
        );
  });
  return { format: { width, height, layout, colour: NO_COLOUR_TAGS, pixelAspect: { num: 1, den: 1 } }, data: bytes };
}

/** A smooth endless texture without a period that would look like another place: 0.2…0.8. */
export function texture(seed: number): (x: number, y: number) => number {
  const waves = Array.from({ length: 14 }, (_, i) => {
    const turn = seed * 1.7 + i * 2.399;
    const length = 9 + ((i * 7919 + seed * 104729) % 41);
    return {
      x: (Math.cos(turn) * 2 * Math.PI) / length,
      y: (Math.sin(turn) * 2 * Math.PI) / length,
      at: i * 1.3 + seed,
    };
  });
  const { sin } = Math;
  return (x, y) => {
    let sum = 0;
    for (const wave of waves) sum += sin(wave.x * x + wave.y * y + wave.at);
    return 0.5 + 0.3 * Math.tanh(sum / 4);
  };
}

/** Mean absolute difference of two planes of 8-bit samples, `margin` samples at the edges left out. */
export function difference(a: Uint8Array, b: Uint8Array, width: number, height: number, margin = 0): number {
  let sum = 0;
  for (let y = margin; y < height - margin; y++)
    for (let x = margin; x < width - margin; x++) sum += Math.abs(a[y * width + x]! - b[y * width + x]!);
  return sum / ((width - 2 * margin) * (height - 2 * margin));
}
