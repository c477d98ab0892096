import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { FlowKernels } from './flow-kernels.js';
import { takePlane, type Plane } from './planes.js';
import { texture } from './test-frames.js';
import { around, held } from './test-kernels.js';

const kernels = new FlowKernels(new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm')));
const { arena, run } = kernels;
const { plane, at, floats, freshly } = around(kernels);

const BORDER = 16;

const size = fc.integer({ min: 8, max: 70 });
const bytesOf = (width: number, height: number, seed: number) =>
  Uint8Array.from({ length: width * height }, (_, i) => (i * 7919 + seed * 31 + ((i * i) >> 3)) & 255);

describe('planes equal their slow twins', () => {
  test('8 bits are widened to 12, with the edge repeated all round', () => {
    fc.assert(
      fc.property(size, size, fc.nat(1000), (width, height, seed) =>
        freshly(() => {
          const bytes = bytesOf(width, height, seed);
          const p = plane(width, height, (x, y) => bytes[y * width + x]!);
          for (let y = -BORDER; y < height + BORDER; y += 3)
            for (let x = -BORDER; x < width + BORDER; x += 3)
              expect(at(p, x, y)).toBe(bytes[held(y, height - 1) * width + held(x, width - 1)]! * 16);
        }),
      ),
      { numRuns: 30 },
    );
  });

  test.each([10, 12, 16])('%i bits are brought to 12', (bits) =>
    freshly(() => {
      const [width, height] = [21, 9];
      const samples = Uint16Array.from({ length: width * height }, (_, i) => (i * 7919) % 2 ** bits);
      const raw = arena.take(samples.byteLength);
      new Uint8Array(arena.memory.buffer).set(new Uint8Array(samples.buffer), raw);
      const p = takePlane(arena, width, height);
      run.widen16(raw, width, p.at, p.stride, width, height, bits);
      for (let i = 0; i < samples.length; i++)
        expect(at(p, i % width, Math.floor(i / width))).toBe(Math.floor(samples[i]! * 2 ** (12 - bits)));
    }),
  );

  test('halving takes the mean of 2 × 2, slopes are twice the central difference', () => {
    fc.assert(
      fc.property(size, size, fc.nat(1000), (width, height, seed) =>
        freshly(() => {
          const bytes = bytesOf(width, height, seed);
          const p = plane(width, height, (x, y) => bytes[y * width + x]!);
          const half = takePlane(arena, (width + 1) >> 1, (height + 1) >> 1);
          kernels.halve(p, half);
          const [alongX, alongY] = [takePlane(arena, width, height), takePlane(arena, width, height)];
          kernels.slopes({ ...p, alongX: alongX.at, alongY: alongY.at });
          for (let y = 0; y < half.height; y++) {
            for (let x = 0; x < half.width; x++) {
              const sum =
                at(p, 2 * x, 2 * y) + at(p, 2 * x + 1, 2 * y) + at(p, 2 * x, 2 * y + 1) + at(p, 2 * x + 1, 2 * y + 1);
              expect(at(half, x, y)).toBe((sum + 2) >> 2);
            }
          }
          for (let y = 0; y < height; y += 2) {
            for (let x = 0; x < width; x++) {
              expect(at(alongX, x, y)).toBe(at(p, x + 1, y) - at(p, x - 1, y));
              expect(at(alongY, x, y)).toBe(at(p, x, y + 1) - at(p, x, y - 1));
            }
          }
        }),
      ),
      { numRuns: 30 },
    );
  });

  test('exposure is fitted to matched patches, outliers among them, and undone', () =>
    freshly(() => {
      const paint = texture(4);
      const [width, height] = [96, 64];
      const first = plane(width, height, (x, y) => 40 + 150 * paint(x, y));
      // The right end shows something else.
      const second = plane(width, height, (x, y) => (x < 80 ? 0.9 * (40 + 150 * paint(x, y)) + 12 : 128));
      const [columns, rows] = [(width - 8) / 4 + 1, (height - 8) / 4 + 1];
      const found = arena.take(columns * rows * 8);
      new Float32Array(arena.memory.buffer, found, columns * rows * 2).fill(0);
      run.fitExposure({
        plane0: first.at,
        plane1: second.at,
        stride: first.stride,
        width,
        height,
        step: 4,
        columns,
        rows,
        found,
        means: arena.take(columns * rows * 8),
      });
      expect(run.exposureGain()).toBeCloseTo(0.9, 1);
      const [gain, offset] = [run.exposureGain(), run.exposureOffset()];
      const back = takePlane(arena, width, height);
      kernels.expose(second, back, 1 / gain, -offset / gain);
      for (let x = 0; x < 70; x += 5) expect(Math.abs(at(back, x, 30) - at(first, x, 30))).toBeLessThan(40);
    }));
});

describe('patches', () => {
  /** The mismatch of two patches as the paper defines it: squared difference, its mean taken out. */
  function mismatch(a: Plane, b: Plane, x: number, y: number, u: number, v: number): number {
    const differences: number[] = [];
    for (let j = 0; j < 8; j++)
      for (let i = 0; i < 8; i++) differences.push(at(b, x + i + u, y + j + v) - at(a, x + i, y + j));
    const mean = differences.reduce((sum, d) => sum + d, 0) / 64;
    return differences.reduce((sum, d) => sum + (d - mean) ** 2, 0);
  }

  test('the scan finds the displacement that a search of all finds', () =>
    freshly(() => {
      const paint = texture(7);
      const [width, height, range] = [40, 24, 9];
      const a = plane(width, height, (x, y) => 255 * paint(x * 3, y * 3));
      const b = plane(width, height, (x, y) => 255 * paint((x - 5) * 3, (y + 2) * 3));
      const [columns, rows] = [9, 5];
      const found = arena.take(columns * rows * 8);
      run.scanPatches({
        plane0: a.at,
        plane1: b.at,
        stride: a.stride,
        width,
        height,
        step: 4,
        columns,
        rows,
        found,
        rangeX: range,
        rangeY: range,
      });
      const vectors = floats(found, columns * rows * 2);
      // A patch in the middle, whose match is wholly inside.
      const [i, j] = [3, 2];
      let best = { cost: Infinity, u: 0, v: 0 };
      for (let v = -range; v <= range; v++) {
        for (let u = -range; u <= range; u++) {
          if (4 * i + u < 0 || 4 * j + v < 0 || 4 * i + u > width - 8 || 4 * j + v > height - 8) continue;
          const cost = mismatch(a, b, 4 * i, 4 * j, u, v);
          if (cost < best.cost) best = { cost, u, v };
        }
      }
      expect([vectors[2 * (j * columns + i)], vectors[2 * (j * columns + i) + 1]]).toEqual([best.u, best.v]);
      expect([best.u, best.v]).toEqual([5, -2]);
    }));

  test('steps go down to a fraction of a sample, and costs are the mismatch there', () =>
    freshly(() => {
      const paint = texture(11);
      const [width, height] = [64, 48];
      const a = plane(width, height, (x, y) => 255 * paint(x, y));
      const b = plane(width, height, (x, y) => 255 * paint(x - 1.3, y + 0.6));
      const slopes = { alongX: takePlane(arena, width, height).at, alongY: takePlane(arena, width, height).at };
      kernels.slopes({ ...a, ...slopes });
      const [columns, rows] = [15, 11];
      const [found, costs] = [arena.take(columns * rows * 8), arena.take(columns * rows * 4)];
      new Float32Array(arena.memory.buffer, found, columns * rows * 2).fill(0);
      const grid = { plane0: a.at, plane1: b.at, stride: a.stride, width, height, step: 4, columns, rows, found };
      run.searchPatches({ ...grid, ...slopes, costs, steps: 12, forward: 1 });
      const [vectors, left] = [floats(found, columns * rows * 2), floats(costs, columns * rows)];
      for (let j = 1; j < rows - 1; j++) {
        for (let i = 1; i < columns - 1; i++) {
          const index = j * columns + i;
          expect(Math.hypot(vectors[2 * index]! - 1.3, vectors[2 * index + 1]! + 0.6)).toBeLessThan(0.15);
          expect(left[index]).toBeLessThan(mismatch(a, b, 4 * i, 4 * j, 1, -1) + 1);
        }
      }
    }));
});

describe('a level’s field', () => {
  const [width, height, step] = [48, 32, 4];
  const [columns, rows] = [(width - 8) / step + 1, (height - 8) / step + 1];
  const ground = texture(17);
  const moved = (u: number, v: number) => plane(width, height, (x, y) => 255 * ground(x - u, y - v));
  const patches = (vector: (i: number, j: number) => readonly [number, number]) =>
    kernels.load(
      Float32Array.from(
        { length: columns * rows * 2 },
        (_, n) => vector((n >> 1) % columns, Math.floor((n >> 1) / columns))[n & 1]!,
      ),
    );
  const spreadOf = (a: Plane, b: Plane, found: number) => {
    const [field, sums] = [arena.take(width * height * 8 + 64), arena.take(width * height * 12 + 64)];
    run.spread({
      plane0: a.at,
      plane1: b.at,
      stride: a.stride,
      width,
      height,
      step,
      columns,
      rows,
      found,
      field,
      sums,
    });
    return field;
  };

  test('patches that agree give their vector everywhere', () =>
    freshly(() => {
      const field = floats(
        spreadOf(
          moved(0, 0),
          moved(2, 1),
          patches(() => [2, 1]),
        ),
        width * height * 2,
      );
      for (let i = 0; i < field.length; i += 2) {
        expect(field[i]).toBeCloseTo(2, 4);
        expect(field[i + 1]).toBeCloseTo(1, 4);
      }
    }));

  test('a patch that explains a point outweighs one that does not', () =>
    freshly(() => {
      // Every second column of patches found nonsense.
      const field = floats(
        spreadOf(
          moved(0, 0),
          moved(2, 1),
          patches((i) => (i % 2 === 0 ? [2, 1] : [-6, 5])),
        ),
        width * height * 2,
      );
      let near = 0;
      for (let i = 0; i < field.length; i += 2) if (Math.hypot(field[i]! - 2, field[i + 1]! - 1) < 1) near++;
      expect(near / (width * height)).toBeGreaterThan(0.9);
    }));

  test('the next level’s guesses are twice the coarser field', () =>
    freshly(() => {
      const [w, h] = [width / 2, height / 2];
      const coarse = kernels.load(Float32Array.from({ length: w * h * 2 }, (_, n) => ((n >> 1) % w) + (n & 1) * 100));
      const found = arena.take(columns * rows * 8);
      run.inherit({ coarse, coarseWidth: w, coarseHeight: h, width, height, step, columns, rows, found });
      const guesses = floats(found, columns * rows * 2);
      for (let i = 0; i < columns; i++) {
        expect(guesses[2 * i]).toBe(2 * (2 * i + 2));
        expect(guesses[2 * i + 1]).toBe(2 * (2 * i + 102));
      }
    }));

  test('evening leaves even change and borders of motion as they are, and takes noise out', () =>
    freshly(() => {
      const evened = (value: (x: number, y: number) => number) => {
        const from = kernels.load(
          Float32Array.from({ length: width * height * 2 }, (_, n) =>
            value((n >> 1) % width, Math.floor((n >> 1) / width)),
          ),
        );
        const to = arena.take(width * height * 8 + 64);
        run.smoothAlike(from, to, width, height);
        return floats(to, width * height * 2);
      };
      const inner = (field: Float32Array, visit: (value: number, x: number) => void) => {
        for (let x = 6; x < width - 6; x++) visit(field[2 * (15 * width + x)]!, x);
      };
      inner(
        evened((x) => 0.05 * x),
        (value, x) => expect(value).toBeCloseTo(0.05 * x, 4),
      );
      inner(
        evened((x) => (x < 24 ? 0 : 4)),
        (value, x) => expect(value).toBe(x < 24 ? 0 : 4),
      );
      let [before, after] = [0, 0];
      const noise = (x: number, y: number) => 0.2 * Math.sin(x * 12.9898 + y * 78.233);
      inner(evened(noise), (value, x) => {
        before += noise(x, 15) ** 2;
        after += value ** 2;
      });
      expect(after).toBeLessThan(0.4 * before);
    }));

  test('a patch that nothing near explains looks afar; one that is explained does not', () =>
    freshly(() => {
      const square = (cx: number) =>
        plane(width, height, (x, y) =>
          x >= cx && x < cx + 8 && y >= 12 && y < 20 ? 120 + 100 * ground(4 * (x - cx), 4 * y) : 40,
        );
      const [a, b] = [square(8), square(30)];
      const slopes = { alongX: takePlane(arena, width, height).at, alongY: takePlane(arena, width, height).at };
      kernels.slopes({ ...a, ...slopes });
      const found = patches(() => [0, 0]);
      const costs = arena.take(columns * rows * 4);
      const grid = { plane0: a.at, plane1: b.at, stride: a.stride, width, height, step, columns, rows, found };
      run.searchPatches({ ...grid, ...slopes, costs, steps: 4, forward: 1 });
      run.searchAfar({ ...grid, ...slopes, costs, steps: 4, rangeX: 30, rangeY: 10 });
      const vectors = floats(found, columns * rows * 2);
      const at = 2 * (3 * columns + 2);
      expect(vectors[at]).toBeCloseTo(22, 1);
      expect(vectors[at + 1]).toBeCloseTo(0, 1);
      // An empty corner.
      expect([vectors[2 * (columns - 1)], vectors[2 * (columns - 1) + 1]]).toEqual([0, 0]);
    }));
});
