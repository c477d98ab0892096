import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { FlowKernels } from './flow-kernels.js';
import { takePlane, type Plane } from './planes.js';
import { texture } from './test-frames.js';

const kernels = new FlowKernels(new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm')));
const { arena, run } = kernels;
const BORDER = 16;

const size = fc.integer({ min: 8, max: 70 });
const bytesOf = (width: number, height: number, seed: number) =>
  Uint8Array.from({ length: width * height }, (_, i) => (i * 7919 + seed * 31 + ((i * i) >> 3)) & 255);

/** A plane of `value` with the kernels' own border. */
function plane(width: number, height: number, value: (x: number, y: number) => number): Plane {
  const bytes = Uint8Array.from({ length: width * height }, (_, i) => value(i % width, Math.floor(i / width)));
  const raw = arena.take(bytes.length);
  new Uint8Array(arena.memory.buffer).set(bytes, raw);
  const made = takePlane(arena, width, height);
  run.widen8(raw, width, made.at, made.stride, width, height);
  return made;
}

const at = (p: Plane, x: number, y: number) => new DataView(arena.memory.buffer).getInt16(p.at + 2 * (y * p.stride + x), true);
const held = (value: number, most: number) => Math.max(0, Math.min(most, value));
const floats = (address: number, count: number) => new Float32Array(arena.memory.buffer.slice(address, address + 4 * count));

/** Runs with fresh memory. */
function freshly<T>(work: () => T): T {
  const mark = arena.mark();
  const result = work();
  arena.release(mark);
  return result;
}

describe('planes equal their slow twins', () => {
  test('8 bits are widened to 12, with the edge repeated all round', () => {
    fc.assert(
      fc.property(size, size, fc.nat(1000), (width, height, seed) =>
        freshly(() => {
          const bytes = bytesOf(width, height, seed);
          const p = plane(width, height, (x, y) => bytes[y * width + x]!);
          for (let y = -BORDER; y < height + BORDER; y += 3)
            for (let x = -BORDER; x < width + BORDER; x += 3) expect(at(p, x, y)).toBe(bytes[held(y, height - 1) * width + held(x, width - 1)]! * 16);
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
      for (let i = 0; i < samples.length; i++) expect(at(p, i % width, Math.floor(i / width))).toBe(Math.floor(samples[i]! * 2 ** (12 - bits)));
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
              const sum = at(p, 2 * x, 2 * y) + at(p, 2 * x + 1, 2 * y) + at(p, 2 * x, 2 * y + 1) + at(p, 2 * x + 1, 2 * y + 1);
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
      run.fitExposure(first.at, second.at, first.stride, width, height, 4, columns, rows, found, arena.take(columns * rows * 8));
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
    for (let j = 0; j < 8; j++) for (let i = 0; i < 8; i++) differences.push(at(b, x + i + u, y + j + v) - at(a, x + i, y + j));
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
      run.scanPatches(a.at, b.at, a.stride, width, height, 4, columns, rows, found, range, range);
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
      const grid = [a.stride, width, height, 4, columns, rows, found] as const;
      run.searchPatches(a.at, b.at, slopes.alongX, slopes.alongY, ...grid, costs, 12, 1);
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

describe('carrying motion to a moment', () => {
  const [width, height] = [24, 18];
  const points = width * height;
  const field = (value: (x: number, y: number) => readonly [number, number]) =>
    kernels.load(Float32Array.from({ length: 2 * points }, (_, i) => value((i >> 1) % width, Math.floor((i >> 1) / width))[i & 1]!));

  test('there and back agrees where it is the same way', () =>
    freshly(() => {
      const slopes = plane(width, height, (x, y) => (x * 37 + y * 91) & 255);
      const there = field(() => [2.5, -1]);
      const trust = arena.take(points * 4);
      const agree = (back: number) => run.agree(there, back, width, height, slopes.at, slopes.at, slopes.stride, 0.5, trust);
      agree(field(() => [-2.5, 1]));
      expect(floats(trust, points)[5 * width + 5]).toBe(1);
      // Out of the picture to the right.
      expect(floats(trust, points)[5 * width + width - 1]).toBe(0);
      agree(field(() => [3, 3]));
      expect(floats(trust, points)[5 * width + 5]).toBeLessThan(0.05);
    }));

  test('a point is part of the way along, and its way back and on are said', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.05, max: 0.95, noNaN: true }),
        fc.double({ min: -3, max: 3, noNaN: true }),
        fc.double({ min: -2, max: 2, noNaN: true }),
        (part, u, v) =>
          freshly(() => {
            const trust = kernels.load(new Float32Array(points).fill(1));
            const [vectors, scores] = [arena.take(points * 16), arena.take(points * 4)];
            for (const first of [1, 0]) {
              run.project(
                field(() => [u, v]),
                trust,
                0,
                width,
                height,
                part,
                first,
                vectors,
                scores,
              );
              const vector = floats(vectors + 16 * (9 * width + 12), 4);
              const near = [-part * u, -part * v];
              const far = [(1 - part) * u, (1 - part) * v];
              (first ? [...near, ...far] : [...far, ...near]).forEach((value, i) => expect(vector[i]).toBeCloseTo(value, 4));
            }
          }),
      ),
      { numRuns: 30 },
    );
  });

  test('acceleration bends the way as the cubic through four places does', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.05, max: 0.95, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        (t, a0, a1) =>
          freshly(() => {
            const trust = kernels.load(new Float32Array(points).fill(1));
            const slow = (width / 2) * (height / 2);
            const ends = kernels.load(Float32Array.from({ length: slow * 4 }, (_, i) => [a0, 0, a1, 0][i & 3]!));
            const [vectors, scores] = [arena.take(points * 16), arena.take(points * 4)];
            run.project(
              field(() => [1, 0]),
              trust,
              ends,
              width,
              height,
              t,
              1,
              vectors,
              scores,
            );
            // Places at −1, 0, 1, 2 with those second differences, and Lagrange's polynomial through them.
            const places = [a0 - 1, 0, 1, a1 + 2];
            const cubic = [-1, 0, 1, 2].reduce(
              (sum, at_, i) =>
                sum + places[i]! * [-1, 0, 1, 2].reduce((product, other) => (other === at_ ? product : (product * (t - other)) / (at_ - other)), 1),
              0,
            );
            expect(floats(vectors + 16 * (9 * width + 12), 1)[0]).toBeCloseTo(-cubic, 4);
          }),
      ),
      { numRuns: 30 },
    );
  });
});

describe('making the picture', () => {
  const cubicWeights = (t: number) => [
    -0.5 * t + t * t - 0.5 * t ** 3,
    1 - 2.5 * t * t + 1.5 * t ** 3,
    0.5 * t + 2 * t * t - 1.5 * t ** 3,
    -0.5 * t * t + 0.5 * t ** 3,
  ];
  function sampled(p: Plane, x: number, y: number): number {
    const [i, j] = [Math.floor(x), Math.floor(y)];
    const [wx, wy] = [cubicWeights(x - i), cubicWeights(y - j)];
    let sum = 0;
    for (let r = 0; r < 4; r++) for (let k = 0; k < 4; k++) sum += wy[r]! * wx[k]! * at(p, i - 1 + k, j - 1 + r);
    return sum / 16;
  }

  test('equals a slow twin: ways that are one, that change, and that meet', () =>
    freshly(() => {
      const [width, height] = [48, 32];
      const paint = texture(14);
      const [a, b] = [plane(width, height, (x, y) => 255 * paint(x, y)), plane(width, height, (x, y) => 255 * paint(x + 2, y + 1))];
      const [gridWidth, gridHeight] = [width / 2, height / 2];
      for (const way of [
        () => [0.61, -0.33, -0.4, 0.2],
        (x: number) => [0.05 * x, 0, -0.02 * x, 0.3],
        (x: number) => (x < 12 ? [1, 0, -1, 0] : [-1, 0, 1, 0]),
      ]) {
        const vectors = kernels.load(Float32Array.from({ length: gridWidth * gridHeight * 4 }, (_, i) => way((i >> 2) % gridWidth)[i & 3]!));
        const weights = kernels.load(Float32Array.from({ length: gridWidth * gridHeight * 2 }, (_, i) => (i & 1 ? 0.4 : 0.6)));
        const out = arena.take(width * height);
        run.synthesise(a.at, b.at, a.stride, width, height, vectors, weights, gridWidth, gridHeight, 0.5, 0.5, out, 8);
        const made = new Uint8Array(arena.memory.buffer.slice(out, out + width * height));
        let worst = 0;
        for (let y = 4; y < height - 4; y++) {
          for (let x = 4; x < width - 4; x++) {
            const [gx, gy] = [(x + 0.5) / 2 - 0.5, (y + 0.5) / 2 - 0.5];
            const [i, fx] = [Math.floor(gx), gx - Math.floor(gx)];
            const value = (v: readonly number[]) => 0.6 * sampled(a, x + 2 * v[0]!, y + 2 * v[1]!) + 0.4 * sampled(b, x + 2 * v[2]!, y + 2 * v[3]!);
            const [left, right] = [way(i), way(i + 1)];
            const meet = left.some((l, n) => Math.abs(l - right[n]!) > 0.75);
            const twin = meet ? (1 - fx) * value(left) + fx * value(right) : value(left.map((l, n) => l + (right[n]! - l) * fx));
            worst = Math.max(worst, Math.abs(made[y * width + x]! - held(twin, 255)));
            expect(gy).toBeGreaterThan(0);
          }
        }
        // A sixty-fourth of a pixel, and an eighth of a grid step where a run moves together.
        expect(worst).toBeLessThan(4);
      }
    }));
});
