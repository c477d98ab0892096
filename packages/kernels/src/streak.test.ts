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
        const out = kernels.streak(frame, length, down ? 90 : 0, new Uint8Array(data.length));
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

/** A smooth picture of one plane. */
function hilly(width: number, height: number, at: (x: number, y: number) => number): Frame {
  const layout = parsePixelFormat('gray')!;
  const format = { width, height, layout, colour: NO_COLOUR_TAGS, pixelAspect: { num: 1, den: 1 } };
  return { format, data: Uint8Array.from({ length: width * height }, (_, i) => at(i % width, Math.floor(i / width))) };
}

test('along a slanted line, too, a streak is the mean of what lies on it', () => {
  const [width, height] = [72, 48];
  fc.assert(
    fc.property(
      fc.double({ min: -90, max: 90, noNaN: true }),
      fc.double({ min: 1, max: 30, noNaN: true }),
      fc.double({ min: 0, max: 6, noNaN: true }),
      (degrees, length, phase) => {
        const angle = (degrees * Math.PI) / 180;
        const hill = (x: number, y: number) => 128 + 60 * Math.sin(x / 5 + phase) + 60 * Math.sin(y / 4 - x / 9);
        const out = kernels.streak(hilly(width, height, hill), length, degrees, new Uint8Array(width * height));
        const reach = Math.ceil(length / 2) + 2;
        for (let y = 18; y < height - 18; y += 5)
          for (let x = 18; x < width - 18; x += 5) {
            const steps = 64;
            let sum = 0;
            for (let i = 0; i < steps; i++) {
              const along = length * ((i + 0.5) / steps - 0.5);
              sum += hill(x + along * Math.cos(angle), y + along * Math.sin(angle));
            }
            expect(reach).toBeLessThan(18);
            expect(Math.abs(out[y * width + x]! - sum / steps)).toBeLessThan(4);
          }
      },
    ),
    { numRuns: 60 },
  );
});

test('what is the same along a line stays so, to the corners, in planes of every size', () => {
  const layout = parsePixelFormat('yuv420p10le')!;
  const [width, height] = [64, 40];
  for (const degrees of [-60, -45, -20, 10, 30, 45, 70]) {
    const slope = Math.tan((degrees * Math.PI) / 180);
    const planes = planeSizes(layout, width, height);
    // Of a plane at half the size both ways the line has the same slope.
    const data = new Uint16Array(
      planes.flatMap((plane) =>
        Array.from({ length: plane.width * plane.height }, (_, i) => {
          const [x, y] = [i % plane.width, Math.floor(i / plane.width)];
          const across = Math.abs(slope) > 1 ? x - y / slope : y - slope * x;
          return Math.round(500 + 3 * across);
        }),
      ),
    );
    const format = { width, height, layout, colour: NO_COLOUR_TAGS, pixelAspect: { num: 1, den: 1 } };
    const frame: Frame = { format, data: new Uint8Array(data.buffer) };
    const out = new Uint16Array(kernels.streak(frame, 12, degrees, new Uint8Array(frame.data.length)).buffer);
    // The edge goes on beyond the picture, so what is near it is off by as much as the slope makes of that.
    let start = 0;
    for (const plane of planes) {
      const inside = (i: number) => {
        const [x, y] = [i % plane.width, Math.floor(i / plane.width)];
        return Math.min(x, plane.width - 1 - x, y, plane.height - 1 - y) > 7;
      };
      for (let i = 0; i < plane.width * plane.height; i++)
        if (inside(i)) expect(Math.abs(out[start + i]! - data[start + i]!)).toBeLessThanOrEqual(2);
      start += plane.width * plane.height;
    }
  }
});
