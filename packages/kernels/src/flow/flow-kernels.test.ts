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

describe('a level’s field', () => {
  const [width, height, step] = [48, 32, 4];
  const [columns, rows] = [(width - 8) / step + 1, (height - 8) / step + 1];
  const ground = texture(17);
  const moved = (u: number, v: number) => plane(width, height, (x, y) => 255 * ground(x - u, y - v));
  const patches = (vector: (i: number, j: number) => readonly [number, number]) =>
    kernels.load(Float32Array.from({ length: columns * rows * 2 }, (_, n) => vector((n >> 1) % columns, Math.floor((n >> 1) / columns))[n & 1]!));
  const spreadOf = (a: Plane, b: Plane, found: number) => {
    const [field, sums] = [arena.take(width * height * 8 + 64), arena.take(width * height * 12 + 64)];
    run.spread(a.at, b.at, a.stride, width, height, step, columns, rows, found, field, sums);
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
      run.inherit(coarse, w, h, width, height, step, columns, rows, found);
      const guesses = floats(found, columns * rows * 2);
      for (let i = 0; i < columns; i++) {
        expect(guesses[2 * i]).toBe(2 * (2 * i + 2));
        expect(guesses[2 * i + 1]).toBe(2 * (2 * i + 102));
      }
    }));

  test('evening leaves even change and borders of motion as they are, and takes noise out', () =>
    freshly(() => {
      const evened = (value: (x: number, y: number) => number) => {
        const from = kernels.load(Float32Array.from({ length: width * height * 2 }, (_, n) => value((n >> 1) % width, Math.floor((n >> 1) / width))));
        const to = arena.take(width * height * 8 + 64);
        run.even(from, to, width, height);
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
        plane(width, height, (x, y) => (x >= cx && x < cx + 8 && y >= 12 && y < 20 ? 120 + 100 * ground(4 * (x - cx), 4 * y) : 40));
      const [a, b] = [square(8), square(30)];
      const slopes = { alongX: takePlane(arena, width, height).at, alongY: takePlane(arena, width, height).at };
      kernels.slopes({ ...a, ...slopes });
      const found = patches(() => [0, 0]);
      const costs = arena.take(columns * rows * 4);
      const grid = [a.stride, width, height, step, columns, rows, found] as const;
      run.searchPatches(a.at, b.at, slopes.alongX, slopes.alongY, ...grid, costs, 4, 1);
      run.searchAfar(a.at, b.at, slopes.alongX, slopes.alongY, ...grid, costs, 4, 30, 10);
      const vectors = floats(found, columns * rows * 2);
      const at = 2 * (3 * columns + 2);
      expect(vectors[at]).toBeCloseTo(22, 1);
      expect(vectors[at + 1]).toBeCloseTo(0, 1);
      // An empty corner.
      expect([vectors[2 * (columns - 1)], vectors[2 * (columns - 1) + 1]]).toEqual([0, 0]);
    }));
});

describe('trust', () => {
  const [width, height] = [24, 18];
  const points = width * height;
  const index = 9 * width + 12;

  test('a doubted vector takes that of a trusted point that looks alike, unless its own explains more', () =>
    freshly(() => {
      // The ground moves by 2; from column 9 on the second picture shows something else, so there the ground is hidden.
      const ground = (x: number, y: number) => 60 + 20 * Math.sin(x * 1.3 + y);
      const a = plane(width, height, ground);
      const leaned = (own: readonly [number, number], second: (x: number, y: number) => number) => {
        const flow = new Float32Array(points * 2);
        const trusts = new Float32Array(points).fill(1);
        for (let i = 0; i < points; i++) flow[2 * i] = 2;
        [flow[2 * index], flow[2 * index + 1]] = own;
        trusts[index] = 0.05;
        const field = kernels.load(flow);
        run.lean(field, kernels.load(trusts), a.at, plane(width, height, second).at, a.stride, width, height);
        return [...floats(field + 8 * index, 2)];
      };
      expect(leaned([4, -3], (x, y) => (x > 8 ? 200 : ground(x - 2, y)))).toEqual([2, 0]);
      // Here its own vector finds it.
      expect(leaned([4, -3], (x, y) => ground(x - 4, y + 3))).toEqual([4, -3]);
    }));

  test('a turn is believed, a bounce is not', () =>
    freshly(() => {
      const own = (there: number, back: number) => {
        const field = (u: number) => kernels.load(Float32Array.from({ length: points * 2 }, (_, n) => (n & 1 ? 0 : u)));
        const trust = kernels.load(new Float32Array(points).fill(1));
        const slow = (width / 2) * (height / 2);
        const out = arena.take(slow * 16);
        run.accelerate(field(there), trust, field(back), trust, width, height, out, arena.take(slow * 16));
        return floats(out + 16 * (4 * (width / 2) + 6), 3);
      };
      expect(own(5, -3)[0]).toBeCloseTo(2, 5);
      expect(own(5, -3)[2]).toBeGreaterThan(0);
      expect(own(5, 5)[2]).toBe(0);
    }));
});

describe('settling', () => {
  const [width, height] = [12, 10];
  const points = width * height;
  const middle = 5 * width + 6;
  const flat = (value: readonly number[]) => kernels.load(Float32Array.from({ length: points * 4 }, (_, n) => value[n & 3]!));
  const even = (value: number) => kernels.load(new Float32Array(points).fill(value));

  function settled(first: { way: readonly number[]; score: number }, second: { way: readonly number[]; score: number }, fraction = 0.25) {
    const p = plane(width, height, (x, y) => (x * 53 + y * 97) & 255);
    const field = kernels.load(new Float32Array(points * 2));
    const [vectors, weights] = [arena.take(points * 16), arena.take(points * 8)];
    const sides = [flat(first.way), even(first.score), flat(second.way), even(second.score)] as const;
    run.settle(p.at, p.at, p.stride, width, height, fraction, field, even(0), field, even(0), ...sides, vectors, weights);
    return { vector: floats(vectors + 16 * middle, 4), weights: floats(weights + 8 * middle, 2) };
  }

  test('where the sides agree, their mean by nearness in time; both pictures count by it', () =>
    freshly(() => {
      const { vector, weights } = settled({ way: [0.4, 0, -0.4, 0], score: 1 }, { way: [0.8, 0, -0.4, 0], score: 1 });
      expect(vector[0]).toBeCloseTo(0.5, 5);
      expect([...weights]).toEqual([0.75, 0.25]);
    }));

  test('what only one side brings, and does not trust, is taken to be hidden from the other', () =>
    freshly(() => {
      const hidden = settled({ way: [1, 0, -1, 0], score: 0.05 }, { way: [0, 0, 0, 0], score: -1 });
      expect(hidden.weights[0]! / hidden.weights[1]!).toBeGreaterThan(1000);
      const seen = settled({ way: [1, 0, -1, 0], score: 0.9 }, { way: [0, 0, 0, 0], score: -1 });
      expect([...seen.weights]).toEqual([0.75, 0.25]);
    }));

  test('what lies outside a picture does not count there', () =>
    freshly(() => {
      const { weights } = settled({ way: [-20, 0, 1, 0], score: 1 }, { way: [-20, 0, 1, 0], score: 1 });
      expect(weights[1]! / weights[0]!).toBeGreaterThan(100);
    }));

  test('where nothing landed, the nearest way is taken', () =>
    freshly(() => {
      const vectors = kernels.load(Float32Array.from({ length: points * 4 }, (_, n) => (n >> 2) % width));
      const weights = kernels.load(Float32Array.from({ length: points * 2 }, (_, n) => ((n >> 1) % width > 3 && (n >> 1) % width < 7 ? -1 : 0.5)));
      run.fillHoles(vectors, weights, width, height);
      expect(floats(weights, points * 2).every((w) => w === 0.5)).toBe(true);
      expect(floats(vectors + 16 * (5 * width + 5), 1)[0]).toBe(3);
    }));

  test('a speck joins those around it, a thin line stays', () =>
    freshly(() => {
      const tidied = (odd: (x: number, y: number) => boolean) => {
        const vectors = kernels.load(Float32Array.from({ length: points * 4 }, (_, n) => (odd((n >> 2) % width, Math.floor((n >> 2) / width)) ? 9 : 1)));
        run.tidy(vectors, kernels.load(new Float32Array(points * 2).fill(0.5)), arena.take(points * 16), arena.take(points * 8), width, height);
        return floats(vectors, points * 4);
      };
      expect(tidied((x, y) => x === 6 && y === 5).every((v) => v === 1)).toBe(true);
      const line = tidied((x, y) => x === y);
      for (let n = 2; n < 8; n++) expect(line[4 * (n * width + n)]).toBe(9);
    }));
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
