import { readFileSync } from 'node:fs';
import { expect, test } from '@jest/globals';
import { NO_COLOUR_TAGS, parsePixelFormat, planeSizes, type Frame } from '@idle-bend/core/frame';
import fc from 'fast-check';
import { Kernels } from './kernels.js';

const kernels = new Kernels(new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm')));

/** The mean of a row's samples over `length` about each place, a stretch that ends inside a sample taking that share of it. */
function meansOf(row: readonly number[], length: number): number[] {
  const at = (i: number) => row[Math.max(0, Math.min(row.length - 1, i))]!;
  const half = length / 2;
  return row.map((_, x) => {
    let sum = 0;
    for (let i = Math.floor(x - half); i <= Math.ceil(x + half); i++)
      sum += at(i) * Math.max(0, Math.min(x + half, i + 0.5) - Math.max(x - half, i - 0.5));
    return sum / length;
  });
}

test('a streak is the mean along rows or columns, in every plane, however long it is', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('gray', 'yuv420p', 'yuv422p10le', 'gbrp'),
      fc.integer({ min: 2, max: 40 }),
      fc.integer({ min: 2, max: 12 }),
      fc.double({ min: 1, max: 60, noNaN: true }),
      fc.boolean(),
      fc.nat(1000),
      (name, halfWidth, halfHeight, length, down, seed) => {
        const layout = parsePixelFormat(name)!;
        const [width, height] = [2 * halfWidth, 2 * halfHeight];
        const planes = planeSizes(layout, width, height);
        const wide = layout.bitDepth > 8;
        const data = new Uint8Array(planes.reduce((sum, { bytes }) => sum + bytes, 0));
        const samples = wide ? new Uint16Array(data.buffer) : data;
        samples.forEach((_, i) => (samples[i] = (((i + seed) * 2654435761) >>> 8) % 2 ** layout.bitDepth));
        const format = { width, height, layout, colour: NO_COLOUR_TAGS, pixelAspect: { num: 1, den: 1 } };
        const frame: Frame = { format, data };
        const out = kernels.streak(frame, length, down, new Uint8Array(data.length));
        const made = wide ? new Uint16Array(out.buffer) : out;
        let start = 0;
        for (const plane of planes) {
          const own = Math.max(1, length * (down ? plane.height / height : plane.width / width));
          const sample = (x: number, y: number) => start + y * plane.width + x;
          const lines = down ? plane.width : plane.height;
          const count = down ? plane.height : plane.width;
          for (let line = 0; line < lines; line++) {
            const places = Array.from({ length: count }, (_, i) => (down ? sample(line, i) : sample(i, line)));
            const wanted = meansOf(
              places.map((place) => samples[place]!),
              own,
            );
            // Shares of a sample are whole parts of it: 1/256, or 1/16 where samples have two bytes.
            const off = Math.max(...places.map((place, i) => Math.abs(made[place]! - wanted[i]!)));
            expect(off).toBeLessThanOrEqual(0.51 + (2 ** layout.bitDepth / own) * (wide ? 1 / 16 : 1 / 256));
          }
          start += plane.width * plane.height;
        }
      },
    ),
    { numRuns: 200 },
  );
});
