import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Flow, isCut } from './flow.js';
import { EFFORTS, LEVELS } from './levels.js';
import { difference, drawn, texture } from './test-frames.js';

const module = new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm'));
const flow = new Flow(module);
const [W, H] = [192, 128];
const gray = (value: (x: number, y: number) => number) => drawn('gray', W, H, value);

/** Mean length of the error against the true motion in pixels, `margin` pixels at the edges left out. */
function endpointError(
  pair: ReturnType<Flow['pair']>,
  truth: (x: number, y: number) => readonly [number, number],
  margin = 24,
): number {
  const { width, height, shift, forward } = pair[0]!;
  const size = 2 ** shift;
  let sum = 0;
  let count = 0;
  for (let j = 0; j < height; j++) {
    for (let i = 0; i < width; i++) {
      const [x, y] = [(i + 0.5) * size - 0.5, (j + 0.5) * size - 0.5];
      if (x < margin || y < margin || x > W - margin || y > H - margin) continue;
      const [u, v] = truth(x, y);
      const at = 2 * (j * width + i);
      sum += Math.hypot(forward.flow[at]! * size - u, forward.flow[at + 1]! * size - v);
      count++;
    }
  }
  return sum / count;
}

describe('motion', () => {
  test.each(LEVELS)('a translation is found within a tenth of a pixel at level %s', (level) => {
    fc.assert(
      fc.property(
        fc.double({ min: -20, max: 20, noNaN: true }),
        fc.double({ min: -12, max: 12, noNaN: true }),
        fc.nat(50),
        (dx, dy, seed) => {
          const paint = texture(seed);
          const pair = flow.pair(
            gray(paint),
            gray((x, y) => paint(x - dx, y - dy)),
            level,
          );
          expect(endpointError(pair, () => [dx, dy], 32)).toBeLessThan(0.1);
        },
      ),
      { numRuns: 12 },
    );
  });

  test('a turn and a zoom are found', () => {
    const paint = texture(3);
    const [angle, scale] = [0.05, 1.02];
    const [c, s] = [Math.cos(angle) * scale, Math.sin(angle) * scale];
    const to = (x: number, y: number) =>
      [W / 2 + (x - W / 2) * c - (y - H / 2) * s, H / 2 + (x - W / 2) * s + (y - H / 2) * c] as const;
    const k = c * c + s * s;
    const from = (x: number, y: number) =>
      [W / 2 + ((x - W / 2) * c + (y - H / 2) * s) / k, H / 2 + ((y - H / 2) * c - (x - W / 2) * s) / k] as const;
    const pair = flow.pair(
      gray(paint),
      gray((x, y) => paint(...from(x, y))),
      'default',
    );
    expect(endpointError(pair, (x, y) => [to(x, y)[0] - x, to(x, y)[1] - y])).toBeLessThan(0.15);
  });

  test('a change of exposure is measured and does not pass for motion', () => {
    const paint = texture(5);
    const pair = flow.pair(
      gray(paint),
      gray((x, y) => 0.8 * paint(x - 3.5, y) + 0.02),
      'default',
    );
    expect(pair[0]!.exposure.gain).toBeCloseTo(0.8, 1);
    expect(endpointError(pair, () => [3.5, 0])).toBeLessThan(0.15);
    expect(
      flow.pair(
        gray(paint),
        gray((x, y) => paint(x - 3.5, y)),
        'default',
      )[0]!.exposure,
    ).toEqual({ gain: 1, offset: 0 });
  });

  test('something small that moves much further than it is wide is followed', () => {
    const paint = texture(8);
    const ball = (cx: number) => (x: number, y: number) =>
      Math.hypot(x - cx, y - 60) < 6 ? 0.98 : 0.4 + 0.2 * paint(x, y);
    const pair = flow.pair(gray(ball(70)), gray(ball(106)), 'default');
    const { width, shift, forward } = pair[0]!;
    const at = 2 * ((60 >> shift) * width + (70 >> shift));
    expect(Math.abs(forward.flow[at]! * 2 ** shift - 36)).toBeLessThan(1.5);
  });

  test('a cut is told from motion, and a flat picture from a cut', () => {
    const [one, other] = [texture(1), texture(40)];
    expect(isCut(flow.pair(gray(one), gray(other), 'quick'))).toBe(true);
    expect(
      isCut(
        flow.pair(
          gray(one),
          gray((x, y) => one(x - 15, y + 4)),
          'quick',
        ),
      ),
    ).toBe(false);
    expect(
      isCut(
        flow.pair(
          gray(() => 0.1),
          gray(() => 0.1),
          'quick',
        ),
      ),
    ).toBe(false);
    expect(
      isCut(
        flow.pair(
          gray(one),
          gray(() => 1),
          'quick',
        ),
      ),
    ).toBe(true);
  });

  test('what cannot have motion is refused', () => {
    const small = drawn('gray', 12, 40, () => 0.5);
    expect(() => flow.pair(small, small, 'quick')).toThrow(/12 × 40 are too small/);
    expect(() =>
      flow.pair(
        gray(() => 0),
        small,
        'quick',
      ),
    ).toThrow(/different formats/);
  });
});

describe('in between', () => {
  test.each(['gray', 'yuv420p', 'yuv422p10le', 'yuva444p12le'])(
    'a moved %s picture is made where it belongs',
    (pixelFormat) => {
      const paint = texture(12);
      const at = (t: number) =>
        drawn(pixelFormat, W, H, (x, y, plane) =>
          plane === 0 || plane === 3 ? paint(x - 9.4 * t, y - 2.2 * t) : 0.3 + 0.4 * paint(x - 9.4 * t, y - 2.2 * t),
        );
      const [a, b] = [at(0), at(1)];
      const pair = flow.pair(a, b, 'default');
      const made = flow.between(a, b, pair, 0.3, new Uint8Array(a.data.length));
      const truth = at(0.3).data;
      const deep = a.format.layout.bitDepth > 8;
      const [x, y] = deep ? [new Uint16Array(made.buffer), new Uint16Array(truth.buffer)] : [made, truth];
      const unit = 2 ** (a.format.layout.bitDepth - 8);
      let sum = 0;
      for (let i = 0; i < x.length; i++) sum += Math.abs(x[i]! - y[i]!) / unit;
      expect(sum / x.length).toBeLessThan(1);
    },
  );

  test('at 0 and 1 the frames themselves, and nearly so next to them', () => {
    const paint = texture(2);
    const [a, b] = [gray(paint), gray((x, y) => paint(x + 6, y - 3))];
    const pair = flow.pair(a, b, 'default');
    const made = (fraction: number) => flow.between(a, b, pair, fraction, new Uint8Array(W * H));
    expect(made(0)).toEqual(a.data);
    expect(made(1)).toEqual(b.data);
    expect(difference(made(0.002), a.data, W, H, 8)).toBeLessThan(0.5);
    expect(() => made(1.2)).toThrow(/outside 0 to 1/);
  });

  test('the same whichever way time runs, within a grey level', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 0.9, noNaN: true }),
        fc.integer({ min: -10, max: 10 }),
        fc.nat(30),
        (fraction, dx, seed) => {
          const paint = texture(seed);
          const square = (cx: number) => (x: number, y: number) =>
            Math.abs(x - cx) < 20 && Math.abs(y - 64) < 20 ? 0.9 - 0.3 * paint(x - cx, y) : paint(x, y);
          const [a, b] = [gray(square(90)), gray(square(90 + dx))];
          const forth = flow.between(a, b, flow.pair(a, b, 'quick'), fraction, new Uint8Array(W * H));
          const back = flow.between(b, a, flow.pair(b, a, 'quick'), 1 - fraction, new Uint8Array(W * H));
          expect(difference(forth, back, W, H)).toBeLessThan(1);
        },
      ),
      { numRuns: 10 },
    );
  });

  test('a caption over moving ground stays where it is', () => {
    const paint = texture(21);
    // Strokes of uneven width and distance, as letters have.
    const strokes = [58, 66, 75, 80, 92, 98, 101, 110, 120, 127, 131, 136];
    const caption = (x: number, y: number) => y > 50 && y < 76 && strokes.filter((edge) => edge <= x).length % 2 === 1;
    const at = (t: number) => gray((x, y) => (caption(x, y) ? 1 : 0.7 * paint(x - 8 * t, y)));
    const [a, b, truth] = [at(0), at(1), at(0.5)];
    const made = flow.between(a, b, flow.pair(a, b, 'default'), 0.5, new Uint8Array(W * H));
    const mixed = a.data.map((value, i) => (value + b.data[i]! + 1) >> 1);
    expect(difference(made, truth.data, W, H, 10)).toBeLessThan(0.5 * difference(mixed, truth.data, W, H, 10));
  });

  test('with the pairs around, motion may speed up', () => {
    const paint = texture(30);
    const place = (t: number) => 3 * t + 5 * t * t;
    const at = (t: number) => gray((x, y) => paint(x - place(t), y));
    const frames = [at(-1), at(0), at(1), at(2)] as const;
    const pair = (n: number) => flow.pair(frames[n]!, frames[n + 1]!, 'default');
    const [before, middle, after] = [pair(0), pair(1), pair(2)];
    const error = (around?: { before: typeof before; after: typeof after }) =>
      difference(
        flow.between(frames[1], frames[2], middle, 0.5, new Uint8Array(W * H), { around }),
        at(0.5).data,
        W,
        H,
        24,
      );
    expect(error({ before, after })).toBeLessThan(1);
    expect(error()).toBeGreaterThan(3 * error({ before, after }));
  });

  test('the same bytes whatever was asked before, with keys or without', () => {
    const paint = texture(9);
    const frames = Array.from({ length: 5 }, (_, n) => gray((x, y) => paint(x - 4 * n, y + n)));
    const fresh = (n: number) => {
      const own = new Flow(module);
      return own.between(
        frames[n]!,
        frames[n + 1]!,
        own.pair(frames[n]!, frames[n + 1]!, 'best'),
        0.4,
        new Uint8Array(W * H),
      );
    };
    for (const n of [3, 0, 2, 1, 0]) {
      const keys = [n, n + 1] as const;
      const pair = flow.pair(frames[n]!, frames[n + 1]!, 'best', keys);
      expect(flow.between(frames[n]!, frames[n + 1]!, pair, 0.4, new Uint8Array(W * H), { keys })).toEqual(fresh(n));
      // One that found no motion itself, and is asked for another size next.
      const painter = new Flow(module);
      expect(painter.between(frames[n]!, frames[n + 1]!, pair, 0.4, new Uint8Array(W * H))).toEqual(fresh(n));
      const small = drawn('gray', 64, 48, paint);
      expect(painter.between(small, small, painter.pair(small, small, 'quick'), 0.5, new Uint8Array(64 * 48))).toEqual(
        small.data,
      );
    }
  });

  test('each level spends more than the one before', () => {
    const work = LEVELS.map((level) =>
      EFFORTS[level].reduce((sum, { finest, step }) => sum + 4 ** -finest / step ** 2, 0),
    );
    expect(work).toEqual([...work].sort((a, b) => a - b));
  });
});
