import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { cameraMotion } from './camera.js';
import { confidence, expectedDecibels, noErrorTerms, type ErrorTerms } from './evidence.js';
import { FlowKernels } from './flow-kernels.js';
import { Flow, isCut, sideOfCut } from './flow.js';
import { difference, drawn, texture } from './test-frames.js';
import { around } from './test-kernels.js';

const module = new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm'));
const flow = new Flow(module);
const [W, H] = [192, 128];
const gray = (value: (x: number, y: number) => number) => drawn('gray', W, H, value);
const paint = texture(4);
const other = texture(9);
const pan = (by: number) => gray((x, y) => paint(x - by, y));
const judge = (a = pan(0), b = pan(6), fraction = 0.5) => flow.evidence(a, b, flow.pair(a, b, 'quick'), fraction);

describe('the kernel that doubts, against its slow twin', () => {
  const kernels = new FlowKernels(module);
  const { arena, run } = kernels;
  const { plane, at, floats, freshly } = around(kernels);
  const [width, height] = [26, 20];
  const points = width * height;

  test('means of squares over all points, in grey levels', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -3, max: 3 }),
        fc.integer({ min: -2, max: 2 }),
        fc.nat(1000),
        fc.double({ min: 0.1, max: 0.9, noNaN: true }),
        (u, v, seed, fraction) =>
          freshly(() => {
            const wild = (salt: number) => (x: number, y: number) => (x * 37 + y * 91 + x * y * (seed + salt)) & 255;
            const [a, b, first, second] = [1, 2, 3, 4].map((salt) => plane(width, height, wild(salt)));
            const trust = Float32Array.from({ length: points }, (_, i) => ((i * 7) % 11) / 10 - 0.2);
            const weights = Float32Array.from({ length: points * 2 }, (_, i) => (i % 14 === 3 ? 0 : 0.5));
            const vectors = Float32Array.from({ length: points * 4 }, (_, i) => [u, v, -u, -v][i & 3]!);
            // The motion before says that points speed up by two to the right.
            const before = Float32Array.from({ length: points * 2 }, (_, i) => [2 * u + 2, 2 * v][i & 1]!);
            const out = arena.take(64);
            const zeros = kernels.load(new Float32Array(points).fill(-1));
            run.errorTerms({
              ...{ a: a!.at, b: b!.at, first: first!.at, second: second!.at, stride: a!.stride, scale: 1, fraction },
              ...{ plane: first!.at, planeStride: first!.stride, width, height, after: 0, out },
              ...{ vectors: kernels.load(vectors), weights: kernels.load(weights), before: kernels.load(before) },
              ...{ scores0: kernels.load(trust), scores1: zeros },
            });
            const sums = [0, 0, 0, 0, 0];
            const blocks = new Map<string, { sum: number; count: number }>();
            const held = (n: number, most: number) => Math.max(-8, Math.min(most, n));
            const bow = 0.5 * fraction * (1 - fraction) * 2;
            // Between two samples in a row.
            const between = (x: number, y: number) => {
              const [left, part] = [Math.floor(x), x - Math.floor(x)];
              return at(a!, left, y) * (1 - part) + at(a!, left + 1, y) * part;
            };
            for (let y = 0; y < height; y++)
              for (let x = 0; x < width; x++) {
                const i = y * width + x;
                const [ax, ay, bx, by] = [
                  held(x + u, width),
                  held(y + v, height),
                  held(x - u, width),
                  held(y - v, height),
                ];
                if (weights[2 * i]! > 0 && weights[2 * i + 1]! > 0) {
                  const d = at(a!, ax, ay) - at(b!, bx, by);
                  sums[0]! += d ** 2;
                  const block = `${x >> 3} ${y >> 3}`;
                  const { sum, count } = blocks.get(block) ?? { sum: 0, count: 0 };
                  blocks.set(block, { sum: sum + d, count: count + 1 });
                }
                const [gx, gy] = [
                  at(first!, x + 1, y) - at(first!, x - 1, y),
                  at(first!, x, y + 1) - at(first!, x, y - 1),
                ];
                sums[2]! += (1 - Math.max(0, trust[i]!)) * 0.25 * (gx * gx + gy * gy);
                sums[3]! += (at(a!, ax, ay) - between(held(x + u + bow, width), ay)) ** 2;
                sums[4]! += (at(first!, x, y) - at(second!, x, y)) ** 2;
              }
            for (const { sum, count } of blocks.values()) sums[1]! += sum ** 2 / count;
            sums[0]! -= sums[1]!;
            floats(out, 5).forEach((value, i) =>
              expect(Math.abs(value / (sums[i]! / points / 256) - 1)).toBeLessThan(1e-3),
            );
          }),
      ),
      { numRuns: 20 },
    );
  });
});

describe('evidence', () => {
  test('a calm pan is sure; the more of what speaks against it, the less', () => {
    const calm = judge();
    expect(confidence(calm)).toBeGreaterThan(0.95);
    expect(confidence(noErrorTerms())).toBeGreaterThan(confidence(calm));
    fc.assert(
      fc.property(
        fc.constantFrom<keyof ErrorTerms>(
          'photometric',
          'light',
          'untrusted',
          'curvature',
          'flashed',
          'doubted',
          'cut',
        ),
        fc.double({ min: 1, max: 5000, noNaN: true }),
        (kind, more) => {
          expect(confidence({ ...calm, [kind]: calm[kind] + more })).toBeLessThan(confidence(calm));
        },
      ),
    );
  });

  test('half sure is 26 dB', () => {
    const error = 255 ** 2 / 10 ** 2.6;
    expect(expectedDecibels({ ...noErrorTerms(), flashed: error - 2 })).toBeCloseTo(26, 6);
    expect(confidence({ ...noErrorTerms(), flashed: error - 2 })).toBeCloseTo(0.5, 6);
  });

  test('things that become others are doubted', () => {
    const mixed = gray((x, y) => (Math.hypot(x - W / 2, y - H / 2) < 50 ? other(x * 1.7, y * 1.7) : paint(x - 6, y)));
    expect(confidence(judge(pan(0), mixed))).toBeLessThan(0.5);
  });

  test('a cut is doubted most in its middle', () => {
    const cut = gray((x, y) => other(2 * x, 2 * y));
    expect(isCut(flow.pair(pan(0), cut, 'quick'))).toBe(true);
    expect(confidence(judge(pan(0), cut, 0.5))).toBeLessThan(0.2);
    expect(confidence(judge(pan(0), cut, 0.05))).toBeGreaterThan(confidence(judge(pan(0), cut, 0.5)));
  });

  test('a flash is a change of light that those around it do not go on with', () => {
    const [dark, light] = [pan(0), gray((x, y) => 1.5 * paint(x - 6, y))];
    const pair = flow.pair(dark, light, 'default');
    expect(flow.evidence(dark, light, pair, 0.5).flashed).toBeGreaterThan(100);
    const brighter = gray((x, y) => 2.25 * paint(x - 12, y));
    const after = flow.pair(light, brighter, 'default');
    expect(flow.evidence(dark, light, pair, 0.5, { around: { before: undefined, after } }).flashed).toBeLessThan(40);
  });

  test('across a flash the picture beside it is shown, all the way', () => {
    const flash = gray((x, y) => other(2 * x, 2 * y));
    const frames = [pan(0), pan(2), flash, pan(6), pan(8)];
    const pairs = frames.slice(1).map((frame, n) => flow.pair(frames[n]!, frame, 'quick'));
    expect(pairs.map(isCut)).toEqual([false, true, true, false]);
    for (const fraction of [0.2, 0.8]) {
      expect(sideOfCut(fraction, { before: pairs[0], after: pairs[2] })).toBe(0);
      expect(sideOfCut(fraction, { before: pairs[1], after: pairs[3] })).toBe(1);
      // A cut between two shots has no side that is out of place.
      expect(sideOfCut(fraction, { before: pairs[0], after: pairs[3] })).toBe(fraction < 0.5 ? 0 : 1);
    }
    const { cut } = flow.evidence(frames[1]!, flash, pairs[1]!, 0.5, { around: { before: pairs[0], after: pairs[2] } });
    expect(cut).toBe(0);
  });

  test('a way that bends is doubted against one that goes straight', () => {
    const frames = [0, 12, 16, 12].map((at) => pan(at));
    const [before, pair, after] = [0, 1, 2].map((n) => flow.pair(frames[n]!, frames[n + 1]!, 'quick'));
    const bent = flow.evidence(frames[1]!, frames[2]!, pair!, 0.5, { around: { before, after } });
    expect(bent.curvature).toBeGreaterThan(
      4 * flow.evidence(frames[1]!, frames[2]!, pair!, 0.5, { around: { before: pair, after: pair } }).curvature,
    );
  });

  test('weighing changes no picture', () => {
    const [a, b] = [pan(0), pan(7)];
    const pair = flow.pair(a, b, 'best');
    const plain = flow.between(a, b, pair, 0.3, new Uint8Array(W * H));
    expect(flow.between(a, b, pair, 0.3, new Uint8Array(W * H), { evidence: noErrorTerms() })).toEqual(plain);
  });
});

describe('the tuning', () => {
  const [a, b] = [pan(0), gray((x, y) => (Math.hypot(x - 90, y - 60) < 30 ? other(x, y) : paint(x - 9, y)))];
  const pair = flow.pair(a, b, 'default');
  const made = (trust: number, keenness: number) =>
    flow.between(a, b, pair, 0.4, new Uint8Array(W * H), { tuning: { trust, keenness } });
  const mix = a.data.map((value, i) => Math.round(value * 0.6 + b.data[i]! * 0.4));
  const plain = flow.between(a, b, pair, 0.4, new Uint8Array(W * H));

  test('even is what Flow makes without one', () => {
    expect(made(1, 0)).toEqual(plain);
  });

  test('trusted nowhere, it is Mix; trusted less, it is nearer to it', () => {
    expect(difference(made(0, 0), mix, W, H)).toBeLessThan(0.6);
    expect(difference(made(0.4, 0), mix, W, H)).toBeLessThan(difference(plain, mix, W, H));
  });

  test('a sure pan stays as it is at middling trust', () => {
    const [c, d] = [pan(0), pan(5)];
    const sure = flow.pair(c, d, 'default');
    const at = (trust: number) =>
      flow.between(c, d, sure, 0.5, new Uint8Array(W * H), { tuning: { trust, keenness: 0 } });
    expect(difference(at(0.5), at(1), W, H, 16)).toBeLessThan(0.2);
  });

  test('keen is crisper than calm where the pictures differ', () => {
    const contrast = (picture: Uint8Array) => {
      let sum = 0;
      for (let y = 45; y < 75; y++)
        for (let x = 75; x < 105; x++) sum += Math.abs(picture[y * W + x]! - picture[y * W + x + 1]!);
      return sum;
    };
    expect(contrast(made(1, 1))).toBeGreaterThan(contrast(made(1, -1)));
  });
});

describe('the camera’s motion', () => {
  const see = (to: (x: number, y: number) => readonly [number, number], subject = false) => {
    // What is at p in the first picture is at to(p) in the second, so the second is read backward: to() is given as its inverse.
    const inside = (x: number, y: number, at: number) => subject && Math.hypot(x - at, y - 64) < 28;
    const a = gray((x, y) => (inside(x, y, 70) ? other(x, y) : paint(x, y)));
    const b = gray((x, y) => (inside(x, y, 58) ? other(x + 12, y) : paint(...to(x, y))));
    return cameraMotion(flow.pair(a, b, 'default'));
  };

  test('a shift, whatever moves by itself in front of it', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -8, max: 8, noNaN: true }),
        fc.double({ min: -6, max: 6, noNaN: true }),
        (dx, dy) => {
          const { x, y, push, roll, sure } = see((px, py) => [px - dx, py - dy], true);
          expect(Math.hypot(x * W - dx, y * W - dy)).toBeLessThan(0.4);
          expect(Math.abs(push)).toBeLessThan(0.005);
          expect(Math.abs(roll)).toBeLessThan(0.3);
          expect(sure).toBeGreaterThan(0.5);
        },
      ),
      { numRuns: 15 },
    );
  });

  test('the direction of a pan, with noise on both pictures and something moving against it: within ten degrees', () => {
    const grain = (x: number, y: number, seed: number) => {
      const n = Math.sin(x * 12.9898 + y * 78.233 + seed * 37.719) * 43758.5453;
      return (n - Math.floor(n) - 0.5) * 0.12;
    };
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 360, noNaN: true }),
        fc.double({ min: 2.5, max: 8, noNaN: true }),
        (degrees, far) => {
          const angle = (degrees * Math.PI) / 180;
          const [dx, dy] = [far * Math.cos(angle), far * Math.sin(angle)];
          const subject = (x: number, y: number, cx: number, cy: number) => Math.hypot(x - cx, y - cy) < 24;
          const a = gray((x, y) => (subject(x, y, 90, 60) ? other(x, y) : paint(x, y)) + grain(x, y, 1));
          const b = gray(
            (x, y) =>
              (subject(x, y, 90 - dx, 60 - dy) ? other(x + dx, y + dy) : paint(x - dx, y - dy)) + grain(x, y, 2),
          );
          const found = cameraMotion(flow.pair(a, b, 'default'));
          const off = Math.abs((((Math.atan2(found.y, found.x) * 180) / Math.PI - degrees + 540) % 360) - 180);
          expect(off).toBeLessThan(10);
        },
      ),
      { numRuns: 12 },
    );
  });

  test('a push and a roll about the centre', () => {
    const [cx, cy] = [(W - 1) / 2, (H - 1) / 2];
    const grown = see((x, y) => [cx + (x - cx) / 1.05, cy + (y - cy) / 1.05]);
    expect(grown.push).toBeCloseTo(0.05, 2);
    expect(Math.hypot(grown.x, grown.y)).toBeLessThan(0.003);
    const turn = (3 * Math.PI) / 180;
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    // Clockwise with y down: the second picture shows at p what was at p turned back.
    const rolled = see((x, y) => [cx + (x - cx) * c + (y - cy) * s, cy + (y - cy) * c - (x - cx) * s]);
    expect(rolled.roll).toBeCloseTo(3, 0);
  });

  test('of nothing to go by nothing is said', () => {
    const flat = gray(() => 0.5);
    expect(cameraMotion(flow.pair(flat, flat, 'quick'))).toMatchObject({ x: 0, y: 0 });
  });
});
