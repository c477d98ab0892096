import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { BLOCK, blocksOf, choiceFeatures, FEATURES, motionShares, TERMS } from './choice.js';
import { FlowKernels } from './flow-kernels.js';
import { Flow, isCut } from './flow.js';
import { difference, drawn, texture } from './test-frames.js';
import { around, held } from './test-kernels.js';

const module = new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm'));
const flow = new Flow(module);
const kernels = new FlowKernels(module);
const { arena, run } = kernels;
const { plane, at, floats, freshly } = around(kernels);
const [W, H] = [320, 180];
const gray = (value: (x: number, y: number) => number) => drawn('gray', W, H, value);
const [paint, other] = [texture(4), texture(9)];
const error = (one: Uint8Array, truth: Uint8Array) =>
  one.reduce((sum, value, i) => sum + (value - truth[i]!) ** 2, 0) / one.length;
const blend = (a: Uint8Array, b: Uint8Array, t: number) => a.map((value, i) => Math.round(value * (1 - t) + b[i]! * t));

describe('the kernel’s numbers of a block', () => {
  test('are those of the definitions', () => {
    const [width, height, fraction] = [19, 11, 0.3];
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.constantFrom(0, 1, 2), (seed, ends) =>
        freshly(() => {
          let state = seed;
          const random = () => ((state = (state * 1103515245 + 12345) & 0x7fffffff) >> 8) / 2 ** 23;
          const draw = (count: number, low: number, high: number) =>
            Float32Array.from({ length: count }, () => low + (high - low) * random());
          const points = width * height;
          const [a, b] = [0, 1].map((n) =>
            plane(width, height, (x, y) => 90 + 70 * Math.sin(x / 3 + n) * Math.cos(y / 2 - n)),
          ) as [ReturnType<typeof plane>, ReturnType<typeof plane>];
          const vectors = draw(points * 4, -3, 3);
          const weights = draw(points * 2, 0, 1).map((w) => (w < 0.3 ? 0 : w));
          for (let i = 0; i < points; i++) if (weights[2 * i]! + weights[2 * i + 1]! === 0) weights[2 * i] = 1;
          const scores = [draw(points, -1, 1), draw(points, -1, 1)] as const;
          // Motion that is the same everywhere: between its points nothing has to be known.
          const fields = [
            [1.5, -0.5],
            [-0.25, 2],
          ].map(([u, v]) => Float32Array.from({ length: points * 2 }, (_, i) => (i % 2 ? v! : u!)));
          const { columns, rows } = blocksOf({ width, height });
          const out = arena.take(columns * rows * TERMS * 4);
          run.blockTerms({
            ...{ a: a.at, b: b.at, stride: a.stride, width, height, fraction },
            ...{ vectors: kernels.load(vectors), weights: kernels.load(weights) },
            ...{ scores0: kernels.load(scores[0]), scores1: kernels.load(scores[1]) },
            ...{ before: ends > 0 ? kernels.load(fields[0]!) : 0, after: ends > 1 ? kernels.load(fields[1]!) : 0, out },
          });
          const found = floats(out, columns * rows * TERMS);
          const value = (p: typeof a, x: number, y: number) => {
            const [px, py] = [Math.max(-8, Math.min(width, x)), Math.max(-8, Math.min(height, y))];
            const [i, j] = [Math.floor(px), Math.floor(py)];
            const row = (k: number) => at(p, i, k) + (at(p, i + 1, k) - at(p, i, k)) * (px - i);
            return row(j) + (row(j + 1) - row(j)) * (py - j);
          };
          const expected = new Float64Array(found.length);
          const ways = Array.from({ length: columns * rows }, () => [] as [number, number][]);
          for (let y = 0; y < height; y += 2)
            for (let x = 0; x < width; x += 2) {
              const i = y * width + x;
              const k = Math.floor(y / BLOCK) * columns + Math.floor(x / BLOCK);
              const add = (term: number, amount: number) => (expected[k * TERMS + term]! += amount);
              const [ax, ay, bx, by] = [...vectors.subarray(4 * i, 4 * i + 4)].map((v, n) => v + (n % 2 ? y : x)) as [
                number,
                number,
                number,
                number,
              ];
              const [w0, w1] = [weights[2 * i]!, weights[2 * i + 1]!];
              const [first, second] = [value(a, ax, ay), value(b, bx, by)];
              const [still, moved] = [at(a, x, y), at(b, x, y)];
              add(0, 1);
              if (w0 >= 0.01 * (1 - fraction) && w1 >= 0.01 * fraction) {
                add(1, 1);
                add(2, (first - second) ** 2 / 256);
              }
              add(3, (still - moved) ** 2 / 256);
              add(4, ((first * w0 + second * w1) / (w0 + w1) - still * (1 - fraction) - moved * fraction) ** 2 / 256);
              const doubt = 1 - held(Math.max(scores[0][i]!, scores[1][i]!), 1);
              const slope =
                ((at(a, x + 1, y) - at(a, x - 1, y)) ** 2 + (at(a, x, y + 1) - at(a, x, y - 1)) ** 2) / 4 / 256;
              add(5, doubt);
              add(6, slope);
              add(7, doubt * slope);
              ways[k]!.push([bx - ax, by - ay]);
              if (ends === 0) continue;
              const near = [bx - ax + 1.5, by - ay - 0.5] as const;
              const far = ends === 1 ? ([0, 0] as const) : ([-0.25 - (bx - ax), 2 - (by - ay)] as const);
              const bow = (fraction * (1 - fraction)) / 2;
              add(
                8,
                (first - value(a, ax + (bow * (near[0] + far[0])) / ends, ay + (bow * (near[1] + far[1])) / ends)) **
                  2 /
                  256,
              );
              if (ends === 2)
                add(
                  9,
                  (first - value(a, ax + (bow * (near[0] - far[0])) / 2, ay + (bow * (near[1] - far[1])) / 2)) ** 2 /
                    256,
                );
              add(10, (near[0] ** 2 + near[1] ** 2 + far[0] ** 2 + far[1] ** 2) / ends);
            }
          ways.forEach((all, k) => {
            const mean = (n: 0 | 1) => all.reduce((sum, way) => sum + way[n], 0) / all.length;
            const [x, y] = [mean(0), mean(1)];
            expected[k * TERMS + 11] = all.reduce((sum, way) => sum + (way[0] - x) ** 2 + (way[1] - y) ** 2, 0);
          });
          found.forEach((term, i) => expect(Math.abs(term - expected[i]!)).toBeLessThan(0.02 + 2e-3 * expected[i]!));
        }),
      ),
      { numRuns: 20 },
    );
  });
});

test('terms are gathered with weights that fall evenly, past no edge', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 17 }),
      fc.integer({ min: 1, max: 9 }),
      fc.integer({ min: 1, max: 6 }),
      fc.integer({ min: 1, max: 1e6 }),
      (columns, rows, reach, seed) =>
        freshly(() => {
          const count = columns * rows * TERMS;
          const terms = Float32Array.from({ length: count }, (_, i) => ((i * 7919 + seed) % 1009) * ((i % 5) + 1));
          const [between, out] = [arena.take(count * 4), arena.take(count * 4)];
          run.gatherTerms(kernels.load(terms), columns, rows, reach, between, out);
          const found = floats(out, count);
          for (let k = 0; k < columns * rows; k++)
            for (let term = 0; term < TERMS; term++) {
              let sum = 0;
              for (let j = 0; j < rows; j++)
                for (let i = 0; i < columns; i++) {
                  const across = Math.max(0, reach + 1 - Math.abs(i - (k % columns)));
                  const down = Math.max(0, reach + 1 - Math.abs(j - Math.floor(k / columns)));
                  sum += across * down * terms[(j * columns + i) * TERMS + term]!;
                }
              expect(Math.abs(found[k * TERMS + term]! - sum)).toBeLessThan(1 + 1e-4 * sum);
            }
        }),
    ),
    { numRuns: 30 },
  );
});

describe('the blend of doubted places', () => {
  test.each([8, 10, 16])('keeps the share it is given, between blocks what lies between; %i bits', (bits) => {
    freshly(() => {
      const [width, height, columns, rows] = [41, 21, 3, 2];
      const [a, b] = [plane(width, height, (x) => 3 * x), plane(width, height, (_, y) => 200 - 2 * y)];
      const shares = Float32Array.of(1, 1, 0.2, 1, 0.5, 0);
      const most = 2 ** bits - 1;
      const made = Array.from({ length: width * height }, (_, i) => (i * 977) % (most + 1));
      const out = arena.take(width * height * 2);
      const samples = () =>
        bits === 8
          ? new Uint8Array(arena.memory.buffer, out, width * height)
          : new Uint16Array(arena.memory.buffer, out, width * height);
      samples().set(made);
      run.blendDoubted({
        ...{ a: a.at, b: b.at, stride: a.stride, width, height, fraction: 0.25, shares: kernels.load(shares) },
        ...{ columns, rows, perX: 1 / 16, perY: 1 / 16, out, bits },
      });
      made.forEach((before, i) => {
        const [x, y] = [i % width, Math.floor(i / width)];
        const [gx, gy] = [held((x + 0.5) / 16 - 0.5, columns - 1), held((y + 0.5) / 16 - 0.5, rows - 1)];
        const [c, r] = [Math.min(Math.floor(gx), columns - 2), Math.min(Math.floor(gy), rows - 2)];
        const row = (k: number) => shares[k * columns + c]! * (1 - gx + c) + shares[k * columns + c + 1]! * (gx - c);
        const share = row(r) * (1 - gy + r) + row(r + 1) * (gy - r);
        const mix = (at(a, x, y) * 0.75 + at(b, x, y) * 0.25) * 2 ** (bits - 12);
        expect(Math.abs(samples()[i]! - Math.min(most, mix + (before - mix) * share))).toBeLessThanOrEqual(
          bits <= 12 ? 0.5 + 2 ** (bits - 12) : 0.51 + most * 1e-6,
        );
      });
    });
  });

  test('where every share is whole nothing is touched', () => {
    freshly(() => {
      const [a, b] = [plane(24, 16, () => 10), plane(24, 16, () => 200)];
      const out = arena.take(24 * 16);
      new Uint8Array(arena.memory.buffer, out, 24 * 16).fill(77);
      run.blendDoubted({
        ...{ a: a.at, b: b.at, stride: a.stride, width: 24, height: 16, fraction: 0.5 },
        ...{ shares: kernels.load(new Float32Array(6).fill(1)), columns: 3, rows: 2, perX: 1 / 8, perY: 1 / 8 },
        ...{ out, bits: 8 },
      });
      expect(new Set(new Uint8Array(arena.memory.buffer, out, 24 * 16))).toEqual(new Set([77]));
    });
  });
});

describe('the choice', () => {
  const made = (a: ReturnType<typeof gray>, b: ReturnType<typeof gray>, fraction = 0.5, byMotionAlone = false) =>
    flow.between(a, b, flow.pair(a, b, 'default'), fraction, new Uint8Array(a.data.length), { byMotionAlone });

  test('leaves to motion what motion explains: a pan is as motion alone makes it', () => {
    const [a, b] = [gray((x, y) => paint(x, y)), gray((x, y) => paint(x - 6, y - 2))];
    expect(difference(made(a, b), made(a, b, 0.5, true), W, H, 8)).toBeLessThan(0.1);
  });

  test('is told block by block: a pan is kept, what becomes something else is not', () => {
    const kept = (a: ReturnType<typeof gray>, b: ReturnType<typeof gray>) => {
      const { columns, side, shares } = flow.kept(a, b, flow.pair(a, b, 'default'), 0.5);
      expect([columns, shares.length / columns]).toEqual([Math.ceil(W / side), Math.ceil(H / side)]);
      return shares.reduce((sum, share) => sum + share, 0) / shares.length;
    };
    const pan = kept(
      gray((x, y) => paint(x, y)),
      gray((x, y) => paint(x - 6, y - 2)),
    );
    const faded = [0.2, 0.8].map((t) => gray((x, y) => paint(x, y) * (1 - t) + other(x * 1.3, y * 1.3) * t));
    expect(pan).toBeGreaterThan(0.95);
    expect(kept(faded[0]!, faded[1]!)).toBeLessThan(0.6);
  });

  test('what becomes something else is never worse than the plain blend by half a decibel, and better than motion alone', () => {
    // Two patterns, of which one fades into the other where they are.
    const shown = (t: number) => gray((x, y) => paint(x, y) * (1 - t) + other(x * 1.3, y * 1.3) * t);
    const [a, b, truth] = [shown(0.2), shown(0.8), shown(0.5)];
    const [chosen, motion] = [error(made(a, b), truth.data), error(made(a, b, 0.5, true), truth.data)];
    expect(chosen).toBeLessThan(motion);
    expect(chosen).toBeLessThan(error(blend(a.data, b.data, 0.5), truth.data) + motion * 0.12);
  });

  test.each([
    { still: [3.67, 7.49], slides: [0.45, 6.23], speed: 0.42 },
    { still: [1.97, 4.51], slides: [0.09, 6.86], speed: 0.51 },
    { still: [3.38, 9.19], slides: [2.17, 7.24], speed: 0.27 },
  ])('gratings that drift over each other keep no way longer than the pictures bear out; $still', (of) => {
    const wave = ([angle, length]: readonly number[], x: number, y: number, turn: number) =>
      Math.tanh(2 * Math.sin(((Math.cos(angle!) * x + Math.sin(angle!) * y) * 2 * Math.PI) / length! + turn));
    const shown = (t: number) =>
      gray((x, y) => 0.5 + 0.18 * wave(of.still, x, y, 0) * wave(of.slides, x, y, of.speed * t));
    const [a, b, truth] = [shown(0), shown(1), shown(0.5)];
    expect(error(made(a, b), truth.data)).toBeLessThan(0.1 + 1.03 * error(blend(a.data, b.data, 0.5), truth.data));
    const { shares } = flow.kept(a, b, flow.pair(a, b, 'default'), 0.5);
    expect(shares.reduce((sum, share) => sum + share, 0) / shares.length).toBeLessThan(0.05);
  });

  test('light that plays where it is has no motion, and yet is no cut', () => {
    const lit = (t: number) =>
      gray(
        (x, y) =>
          0.5 +
          0.15 * (paint(x, y) - 0.5) +
          0.4 * Math.cos(t) * (other(x, y) - 0.5) +
          0.4 * Math.sin(t) * (other(y + 50, x) - 0.5),
      );
    expect(isCut(flow.pair(lit(0), lit(0.5), 'default'))).toBe(false);
    expect(
      isCut(
        flow.pair(
          gray(paint),
          gray((x, y) => other(2 * x, 2 * y)),
          'default',
        ),
      ),
    ).toBe(true);
  });

  test('two shots behind the same black bars and the same caption are still a cut', () => {
    const framed = (shot: (x: number, y: number) => number) =>
      gray((x, y) => {
        if (y < 24 || y >= H - 24) return 0.02;
        const letters = y > 130 && y < 142 && x > 90 && x < 230 && (x >> 2) % 3 > 0;
        return letters ? 0.98 : shot(x, y);
      });
    expect(
      isCut(
        flow.pair(
          framed(paint),
          framed((x, y) => other(2 * x, 2 * y)),
          'default',
        ),
      ),
    ).toBe(true);
  });

  test('every share lies between none and all, whatever is measured', () => {
    const number = fc.float({ min: 0, max: Math.fround(1e6), noNaN: true });
    fc.assert(
      fc.property(
        fc.array(number, { minLength: 6 * TERMS, maxLength: 6 * TERMS }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.constantFrom(0, 1, 2),
        (values, fraction, ends) => {
          // A block has points, and no more that both pictures see.
          const terms = Float32Array.from(values, (v, i) => (i % TERMS === 0 ? 16 : i % TERMS === 1 ? v % 17 : v));
          const blocks = {
            terms,
            near: terms,
            region: Float32Array.of(...terms.subarray(TERMS), ...terms.subarray(0, TERMS)),
            columns: 3,
            rows: 2,
            fraction,
            around: ends,
          };
          expect(choiceFeatures(blocks)).toHaveLength(6 * FEATURES);
          for (const share of motionShares(blocks)) {
            expect(share).toBeGreaterThanOrEqual(0);
            expect(share).toBeLessThanOrEqual(1);
          }
        },
      ),
    );
  });
});

describe('a hit', () => {
  // A ball falls 16 pixels a frame, hits the floor between two frames, and rises as fast.
  const hitsAt = 1.35;
  const ball = (t: number) => {
    const height = 20 + 16 * Math.abs(t - hitsAt);
    return gray((x, y) => (Math.hypot(x - 160, y - (150 - height)) < 18 ? 0.95 : 0.6 * paint(x, y)));
  };
  const frames = [0, 1, 2, 3].map(ball);
  const pairs = [0, 1, 2].map((n) => flow.pair(frames[n]!, frames[n + 1]!, 'default'));
  const between = (fraction: number, knot: boolean) =>
    flow.between(frames[1]!, frames[2]!, pairs[1]!, fraction, new Uint8Array(W * H), {
      ...{ around: { before: pairs[0], after: pairs[2] }, knot },
    });

  test.each([0.2, 0.35, 0.6])('that is marked is reached: %f of the way the ball is where it is', (fraction) => {
    const truth = ball(1 + fraction).data;
    expect(error(between(fraction, true), truth)).toBeLessThan(0.5 * error(between(fraction, false), truth));
  });
});
