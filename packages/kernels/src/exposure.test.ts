import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Exposure, motionOfCamera, motionOfInstant, usualReach, type MotionGrid } from './exposure.js';
import { drawn } from './flow/test-frames.js';

const exposure = new Exposure(new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm')));
const [WIDTH, HEIGHT] = [40, 24];
const everywhere = (u: number, v: number): MotionGrid => ({
  width: 1,
  height: 1,
  step: 1,
  vectors: Float32Array.of(u, v),
});

/** The same means, slowly: as many samples as the way is long, rounded to places, edges held. */
function twin(data: Uint8Array, u: number, v: number): number[] {
  const taps = Math.max(1, Math.ceil(Math.max(Math.abs(u), Math.abs(v))));
  return Array.from({ length: WIDTH * HEIGHT }, (_, at) => {
    const [x, y] = [at % WIDTH, Math.floor(at / WIDTH)];
    let sum = 0;
    for (let i = 0; i < taps; i++) {
      const off = i - (taps - 1) / 2;
      const sx = Math.max(0, Math.min(WIDTH - 1, Math.floor(x + 0.5 + (u / taps) * off)));
      const sy = Math.max(0, Math.min(HEIGHT - 1, Math.floor(y + 0.5 + (v / taps) * off)));
      sum += data[sy * WIDTH + sx]!;
    }
    return sum / taps;
  });
}

describe('light gathered along the way', () => {
  const picture = drawn('gray', WIDTH, HEIGHT, (x, y) => 0.5 + 0.4 * Math.sin(x * 0.9) * Math.cos(y * 0.7));

  test('is the mean of the samples on it, whichever way it goes', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -15, max: 15, noNaN: true }),
        fc.double({ min: -9, max: 9, noNaN: true }),
        (u, v) => {
          exposure.begin(picture.format);
          exposure.add(picture, everywhere(u, v), 1);
          const out = exposure.end(new Uint8Array(picture.data.length));
          const expected = twin(picture.data, u, v);
          const off = [...out].map((value, i) => Math.abs(value - expected[i]!)).sort((a, b) => a - b);
          // Fixed point may take a neighbouring sample here and there.
          expect(off[Math.floor(off.length * 0.97)]!).toBeLessThanOrEqual(1);
        },
      ),
      { numRuns: 40 },
    );
  });

  test('without motion is the picture; of several it is their mean by weight, in 10 bits and with coarser chroma too', () => {
    const still = (value: number) => drawn('yuv420p10le', WIDTH, HEIGHT, () => value);
    const [dark, bright] = [still(0.2), still(0.6)];
    exposure.begin(dark.format);
    exposure.add(dark, undefined, 1, 3);
    exposure.add(bright, everywhere(7, 2), 1, 1);
    const out = new Uint16Array(exposure.end(new Uint8Array(dark.data.length)).buffer);
    for (const value of out) expect(Math.abs(value - 1023 * 0.3)).toBeLessThanOrEqual(1);
    exposure.begin(picture.format);
    exposure.add(picture, undefined, 5);
    expect(exposure.end(new Uint8Array(picture.data.length))).toEqual(picture.data);
  });
});

describe('motion as a grid', () => {
  test('of a camera: a shift is the same everywhere, a push goes outward, a roll round the middle', () => {
    const size = { width: 320, height: 180 };
    const at = (grid: MotionGrid, x: number, y: number) => {
      const i = 2 * (Math.floor(y / grid.step) * grid.width + Math.floor(x / grid.step));
      return [grid.vectors[i]! * grid.step, grid.vectors[i + 1]! * grid.step] as const;
    };
    const still = { x: 0, y: 0, push: 0, roll: 0, sure: 1 };
    const shift = motionOfCamera({ ...still, x: 0.05, y: -0.02 }, size);
    for (const x of [8, 300]) expect(at(shift, x, 170)).toEqual([expect.closeTo(16, 4), expect.closeTo(-6.4, 4)]);
    const push = motionOfCamera({ ...still, push: 0.1 }, size);
    expect(at(push, 312, 90)[0]).toBeCloseTo(0.1 * (19.5 * 16 - 160), 3);
    expect(at(push, 8, 90)[0]).toBeLessThan(0);
    const roll = motionOfCamera({ ...still, roll: 2 }, size);
    expect(at(roll, 312, 88)[1]).toBeGreaterThan(4);
    expect(at(roll, 8, 88)[1]).toBeLessThan(-4);
    expect(usualReach(shift)).toBeCloseTo(Math.hypot(16, 6.4), 3);
  });

  test('of a moment: from where it is in the first picture to where it is in the second', () => {
    const moment = {
      width: 1,
      height: 1,
      shift: 2,
      vectors: Float32Array.of(-0.5, 0.25, 1, -0.75),
      weights: Float32Array.of(1, 1),
    };
    expect(motionOfInstant(moment)).toEqual({ width: 1, height: 1, step: 4, vectors: Float32Array.of(1.5, -1) });
  });
});
