import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { frameBytes, NO_COLOUR_TAGS, parsePixelFormat, type Frame } from '@idle-bend/core/frame';
import fc from 'fast-check';
import { Kernels } from './kernels.js';

const kernels = new Kernels(new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm')));

const frameOf = (pixelFormat: string, width: number, height: number, fill: (i: number) => number): Frame => {
  const layout = parsePixelFormat(pixelFormat)!;
  const data = new Uint8Array(frameBytes(layout, width, height));
  if (layout.bitDepth > 8) new Uint16Array(data.buffer).forEach((_, i, all) => (all[i] = fill(i)));
  else data.forEach((_, i) => (data[i] = fill(i)));
  return { format: { width, height, layout, colour: NO_COLOUR_TAGS, pixelAspect: { num: 1, den: 1 } }, data };
};

describe('blend', () => {
  test.each(['yuv420p', 'yuv422p10le', 'gray', 'yuva444p12le'])(
    '%s equals its slow twin, odd sizes too',
    (pixelFormat) => {
      const top = 2 ** parsePixelFormat(pixelFormat)!.bitDepth;
      fc.assert(
        fc.property(
          fc.integer({ min: 1, max: 40 }),
          fc.integer({ min: 1, max: 9 }),
          fc.double({ min: 0, max: 1, noNaN: true }),
          fc.nat(1e6),
          (width, height, fraction, seed) => {
            const a = frameOf(pixelFormat, width, height, (i) => (i * 7919 + seed) % top);
            const b = frameOf(pixelFormat, width, height, (i) => (i * 104729 + seed * 3) % top);
            const out = kernels.blend(a, b, fraction, new Uint8Array(a.data.length));
            const weight = Math.round(fraction * 32768);
            const samples = (data: Uint8Array) => (top > 256 ? new Uint16Array(data.buffer) : data);
            const [x, y, z] = [samples(a.data), samples(b.data), samples(out)];
            for (let i = 0; i < x.length; i++)
              expect(z[i]).toBe(Math.floor((x[i]! * (32768 - weight) + y[i]! * weight + 16384) / 32768));
          },
        ),
      );
    },
  );

  test('a 16-bit white stays white, and 0 and 1 give the frames themselves', () => {
    const white = frameOf('yuv444p16le', 9, 5, () => 65535);
    const black = frameOf('yuv444p16le', 9, 5, () => 0);
    expect(kernels.blend(white, white, 0.37, new Uint8Array(white.data.length))).toEqual(white.data);
    expect(kernels.blend(black, white, 0, new Uint8Array(white.data.length))).toEqual(black.data);
    expect(kernels.blend(black, white, 1, new Uint8Array(white.data.length))).toEqual(white.data);
  });

  test('what cannot be blended is refused', () => {
    const [a, b] = [frameOf('gray', 4, 4, () => 0), frameOf('gray', 5, 4, () => 0)];
    expect(() => kernels.blend(a, b, 0.5, new Uint8Array(16))).toThrow(RangeError);
    expect(() => kernels.blend(a, a, 1.5, new Uint8Array(16))).toThrow(/outside 0 to 1/);
  });
});

describe('to the screen', () => {
  const colourOf = (y: number, u: number, v: number, matrix: string, range: 'limited' | 'full') => {
    const frame = frameOf('yuv420p', 5, 3, (i) => (i < 15 ? y : i < 21 ? u : v));
    const tagged: Frame = { ...frame, format: { ...frame.format, colour: { ...NO_COLOUR_TAGS, matrix, range } } };
    return [...kernels.toRgba(tagged, new Uint8ClampedArray(60)).slice(56)];
  };

  test('known answers: black, white, the 75 % bars of BT.709', () => {
    expect(colourOf(16, 128, 128, 'bt709', 'limited')).toEqual([0, 0, 0, 255]);
    expect(colourOf(235, 128, 128, 'bt709', 'limited')).toEqual([255, 255, 255, 255]);
    expect(colourOf(255, 128, 128, 'bt709', 'full')).toEqual([255, 255, 255, 255]);
    // 75 % red in BT.709, 8 bit: Y 51, Cb 109, Cr 212.
    const [r, g, b] = colourOf(51, 109, 212, 'bt709', 'limited') as [number, number, number];
    expect(Math.abs(r - 191)).toBeLessThanOrEqual(1);
    expect(g).toBeLessThanOrEqual(1);
    expect(b).toBeLessThanOrEqual(1);
    // 75 % green in BT.601: Y 112, Cb 72, Cr 58.
    const green = colourOf(112, 72, 58, 'smpte170m', 'limited');
    expect(Math.abs(green[1]! - 191)).toBeLessThanOrEqual(1);
    expect(Math.max(green[0]!, green[2]!)).toBeLessThanOrEqual(1);
  });
});

describe('laid into another picture', () => {
  test('inside it every sample is what bilinear interpolation says, whatever the move, turn and width', () => {
    let inside = 0;
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 45 }),
        fc.double({ min: 0.6, max: 1.6, noNaN: true }),
        fc.double({ min: -0.6, max: 0.6, noNaN: true }),
        fc.double({ min: -9, max: 9, noNaN: true }),
        fc.double({ min: -6, max: 6, noNaN: true }),
        (width, scale, turn, x, y) => {
          const picture = frameOf('gray', 40, 30, (i) => (i * 7919 + ((i * i) % 31)) % 256);
          const [cos, sin] = [scale * Math.cos(turn), scale * Math.sin(turn)];
          const format = { ...picture.format, width, height: 12 };
          const placing = { matrix: [cos, -sin, sin, cos], shift: [x, y] } as const;
          const out = kernels.place(picture, format, placing, new Uint8Array(width * 12));
          const at = (u: number, v: number) => picture.data[v * 40 + u]!;
          for (let j = 0; j < 12; j++)
            for (let i = 0; i < width; i++) {
              const [dx, dy] = [i - (width - 1) / 2, j - 5.5];
              const [u, v] = [cos * dx - sin * dy + x + 19.5, sin * dx + cos * dy + y + 14.5];
              if (u < 0.01 || v < 0.01 || u > 38.99 || v > 28.99) continue;
              const [left, top] = [Math.floor(u), Math.floor(v)];
              const [fx, fy] = [u - left, v - top];
              const row = (r: number) => (1 - fx) * at(left, r) + fx * at(left + 1, r);
              // Weights are in 1/256: half a code, and what neighbours of 255 make of that.
              expect(Math.abs(out[j * width + i]! - ((1 - fy) * row(top) + fy * row(top + 1)))).toBeLessThan(2.6);
              inside++;
            }
        },
      ),
      { numRuns: 300 },
    );
    expect(inside).toBeGreaterThan(10_000);
  });
});
