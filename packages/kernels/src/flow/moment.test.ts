import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { FlowKernels } from './flow-kernels.js';
import type { Plane } from './planes.js';
import { texture } from './test-frames.js';
import { around, held } from './test-kernels.js';

const kernels = new FlowKernels(new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm')));
const { arena, run } = kernels;
const { plane, at, floats, freshly } = around(kernels);

describe('carrying motion to a moment', () => {
  const [width, height] = [24, 18];
  const points = width * height;
  const field = (value: (x: number, y: number) => readonly [number, number]) =>
    kernels.load(
      Float32Array.from(
        { length: 2 * points },
        (_, i) => value((i >> 1) % width, Math.floor((i >> 1) / width))[i & 1]!,
      ),
    );

  test('there and back agrees where it is the same way', () =>
    freshly(() => {
      const slopes = plane(width, height, (x, y) => (x * 37 + y * 91) & 255);
      const there = field(() => [2.5, -1]);
      const trust = arena.take(points * 4);
      const agree = (back: number) =>
        run.agree({
          field: there,
          back,
          width,
          height,
          alongX: slopes.at,
          alongY: slopes.at,
          stride: slopes.stride,
          tolerance: 0.5,
          trust,
        });
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
              run.project({
                field: field(() => [u, v]),
                trust,
                ends: 0,
                width,
                height,
                part,
                kinked: 0,
                first,
                vectors,
                scores,
              });
              const vector = floats(vectors + 16 * (9 * width + 12), 4);
              const near = [-part * u, -part * v];
              const far = [(1 - part) * u, (1 - part) * v];
              (first ? [...near, ...far] : [...far, ...near]).forEach((value, i) =>
                expect(vector[i]).toBeCloseTo(value, 4),
              );
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
            run.project({
              ...{ field: field(() => [1, 0]), trust, ends, width, height, part: t, kinked: 0, first: 1 },
              ...{ vectors, scores },
            });
            // Places at −1, 0, 1, 2 with those second differences, and Lagrange's polynomial through them.
            const places = [a0 - 1, 0, 1, a1 + 2];
            const cubic = [-1, 0, 1, 2].reduce(
              (sum, at_, i) =>
                sum +
                places[i]! *
                  [-1, 0, 1, 2].reduce(
                    (product, other) => (other === at_ ? product : (product * (t - other)) / (at_ - other)),
                    1,
                  ),
              0,
            );
            expect(floats(vectors + 16 * (9 * width + 12), 1)[0]).toBeCloseTo(-cubic, 4);
          }),
      ),
      { numRuns: 30 },
    );
  });

  test('a way with a kink goes straight up to the jump of its velocity and straight on from it, seen from either picture', () => {
    const number = fc.double({ min: -1, max: 1, noNaN: true });
    fc.assert(
      fc.property(
        ...[fc.double({ min: 0.05, max: 0.95, noNaN: true }), fc.double({ min: 0.1, max: 0.9, noNaN: true })],
        ...[number, number, fc.boolean()],
        (t, jumpsAt, before, after, fromFirst) =>
          freshly(() => {
            fc.pre(Math.abs(after - before) > 0.1);
            const place = (time: number) => before * Math.min(time, jumpsAt) + after * Math.max(0, time - jumpsAt);
            const way = place(1);
            // Accelerations as the pairs around show them, at this picture and at the other.
            const [a0, a1] = [way - before, after - way];
            const trust = kernels.load(new Float32Array(points).fill(1));
            const slow = (width / 2) * (height / 2);
            const both = fromFirst ? [a0, 0, a1, 0] : [a1, 0, a0, 0];
            const ends = kernels.load(Float32Array.from({ length: slow * 4 }, (_, i) => both[i & 3]!));
            const [vectors, scores] = [arena.take(points * 16), arena.take(points * 4)];
            run.project({
              ...{ field: field(() => [fromFirst ? way : -way, 0]), trust, ends, width, height },
              ...{ part: fromFirst ? t : 1 - t, kinked: 1, first: Number(fromFirst), vectors, scores },
            });
            const [toFirst, , toSecond] = floats(vectors + 16 * (9 * width + 12), 3);
            expect(toFirst).toBeCloseTo(-place(t), 4);
            expect(toSecond).toBeCloseTo(way - place(t), 4);
          }),
      ),
      { numRuns: 60 },
    );
  });
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
        run.propagateTrusted(
          field,
          kernels.load(trusts),
          a.at,
          plane(width, height, second).at,
          a.stride,
          width,
          height,
        );
        return [...floats(field + 8 * index, 2)];
      };
      expect(leaned([4, -3], (x, y) => (x > 8 ? 200 : ground(x - 2, y)))).toEqual([2, 0]);
      // Here its own vector finds it.
      expect(leaned([4, -3], (x, y) => ground(x - 4, y + 3))).toEqual([4, -3]);
    }));

  test('a turn is believed, a bounce only where one is said to be', () =>
    freshly(() => {
      const own = (there: number, back: number, most = 0.8) => {
        const field = (u: number) => kernels.load(Float32Array.from({ length: points * 2 }, (_, n) => (n & 1 ? 0 : u)));
        const trust = kernels.load(new Float32Array(points).fill(1));
        const slow = (width / 2) * (height / 2);
        const out = arena.take(slow * 16);
        run.accelerate({
          field: field(there),
          trust,
          other: field(back),
          otherTrust: trust,
          width,
          height,
          most,
          own: out,
          scratch: arena.take(slow * 16),
        });
        return floats(out + 16 * (4 * (width / 2) + 6), 3);
      };
      expect(own(5, -3)[0]).toBeCloseTo(2, 5);
      expect(own(5, -3)[2]).toBeGreaterThan(0);
      expect(own(5, 5)[2]).toBe(0);
      expect(own(5, 5, 4.5)[0]).toBeCloseTo(10, 5);
    }));
});

describe('settling', () => {
  const [width, height] = [12, 10];
  const points = width * height;
  const middle = 5 * width + 6;
  const flat = (value: readonly number[]) =>
    kernels.load(Float32Array.from({ length: points * 4 }, (_, n) => value[n & 3]!));
  const even = (value: number) => kernels.load(new Float32Array(points).fill(value));

  function settled(
    first: { way: readonly number[]; score: number },
    second: { way: readonly number[]; score: number },
    fraction = 0.25,
  ) {
    const p = plane(width, height, (x, y) => (x * 53 + y * 97) & 255);
    const field = kernels.load(new Float32Array(points * 2));
    const [vectors, weights] = [arena.take(points * 16), arena.take(points * 8)];
    run.solve({
      ...{ plane0: p.at, plane1: p.at, stride: p.stride, width, height, fraction, vectors, weights },
      ...{ field0: field, trust0: even(0), field1: field, trust1: even(0) },
      ...{ vectors0: flat(first.way), scores0: even(first.score) },
      ...{ vectors1: flat(second.way), scores1: even(second.score) },
    });
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
      const weights = kernels.load(
        Float32Array.from({ length: points * 2 }, (_, n) => ((n >> 1) % width > 3 && (n >> 1) % width < 7 ? -1 : 0.5)),
      );
      run.fillHoles(vectors, weights, width, height);
      expect(floats(weights, points * 2).every((w) => w === 0.5)).toBe(true);
      expect(floats(vectors + 16 * (5 * width + 5), 1)[0]).toBe(3);
    }));

  test('a speck joins those around it, a thin line stays', () =>
    freshly(() => {
      const tidied = (odd: (x: number, y: number) => boolean) => {
        const vectors = kernels.load(
          Float32Array.from({ length: points * 4 }, (_, n) =>
            odd((n >> 2) % width, Math.floor((n >> 2) / width)) ? 9 : 1,
          ),
        );
        run.removeOutliers(
          vectors,
          kernels.load(new Float32Array(points * 2).fill(0.5)),
          arena.take(points * 16),
          arena.take(points * 8),
          width,
          height,
        );
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

  /** Two pictures' places, in grid steps, at a grid point. */
  type Way = (x: number, y: number) => readonly number[];
  const ways: readonly (readonly [string, Way])[] = [
    ['that are one', () => [0.61, -0.33, -0.4, 0.2]],
    ['that change', (x) => [0.05 * x, 0, -0.02 * x, 0.3]],
    ['that meet along an edge', (x) => (x < 3 ? [0.6, 0, -0.6, 0] : [-0.6, 0, 0.6, 0])],
    ['that meet everywhere', (x, y) => ((x + y) % 2 ? [0.5, 0.1 * y, -0.5, 0] : [-0.5, 0, 0.5, 0.05 * x])],
  ];
  const grids = [2, 4, 8].flatMap((cell) => ways.map(([what, way]) => [what, cell, way] as const));

  test.each(grids)('equals a slow twin: ways %s, of points %d samples apart', (_, cell, way) =>
    freshly(() => {
      const [width, height] = [48, 32];
      const paint = texture(14);
      const [a, b] = [
        plane(width, height, (x, y) => 255 * paint(x, y)),
        plane(width, height, (x, y) => 255 * paint(x + 2, y + 1)),
      ];
      const [gridWidth, gridHeight] = [width / cell, height / cell];
      const point = (n: number) => way(n % gridWidth, Math.floor(n / gridWidth));
      const vectors = kernels.load(
        Float32Array.from({ length: gridWidth * gridHeight * 4 }, (_, i) => point(i >> 2)[i & 3]!),
      );
      const weights = kernels.load(
        Float32Array.from({ length: gridWidth * gridHeight * 2 }, (_, i) => (i & 1 ? 0.4 : 0.6)),
      );
      const out = arena.take(width * height);
      run.synthesise({
        ...{ a: a.at, b: b.at, stride: a.stride, width, height, vectors, weights, gridWidth, gridHeight },
        ...{ perX: 1 / cell, perY: 1 / cell, out, bits: 8 },
      });
      const made = new Uint8Array(arena.memory.buffer.slice(out, out + width * height));
      let worst = 0;
      for (let y = 4; y < height - 4; y++)
        for (let x = 4; x < width - 4; x++) {
          const [gx, gy] = [(x + 0.5) / cell - 0.5, (y + 0.5) / cell - 0.5];
          const [i, j] = [Math.floor(gx), Math.floor(gy)];
          const [fx, fy] = [gx - i, gy - j];
          const value = (v: readonly number[]) =>
            0.6 * sampled(a, x + cell * v[0]!, y + cell * v[1]!) + 0.4 * sampled(b, x + cell * v[2]!, y + cell * v[3]!);
          const corners = [way(i, j), way(i + 1, j), way(i, j + 1), way(i + 1, j + 1)];
          const parts = [(1 - fx) * (1 - fy), fx * (1 - fy), (1 - fx) * fy, fx * fy];
          const meet = [0, 1, 2, 3].some((n) => {
            const all = corners.map((corner) => corner[n]!);
            return Math.max(...all) - Math.min(...all) > 0.75;
          });
          const mean = (of: readonly number[]) => of.reduce((sum, each, k) => sum + parts[k]! * each, 0);
          const twin = meet
            ? mean(corners.map(value))
            : value([0, 1, 2, 3].map((n) => mean(corners.map((c) => c[n]!))));
          worst = Math.max(worst, Math.abs(made[y * width + x]! - held(twin, 255)));
        }
      // A sixty-fourth of a pixel, and an eighth of a grid step where a run moves together.
      expect(worst).toBeLessThan(2 * cell);
    }),
  );
});
