import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { NO_COLOUR_TAGS, type Frame, type FrameFormat } from '@idle-bend/core/frame';
import { plainInterpolation } from '@idle-bend/core/sampling';
import { parseDecimal } from '@idle-bend/core/time';
import { constantClip, straightMap } from '@idle-bend/core/time-map';
import { Exposure, Flow, Kernels, type Level } from '@idle-bend/kernels';
import { describePlan, planConstant, planMap } from './clip-plan.js';
import { FrameComposer } from './compose.js';
import type { FrameProvider } from './frame-provider.js';

const module = new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm'));
const kernels = new Kernels(module);
const format: FrameFormat = {
  width: 4,
  height: 2,
  layout: { model: 'gray', bitDepth: 8, chromaShiftX: 0, chromaShiftY: 0, alpha: false },
  colour: NO_COLOUR_TAGS,
  pixelAspect: { num: 1, den: 1 },
};
/** Frame n is filled with 10·n. */
const frames: Frame[] = Array.from({ length: 20 }, (_, n) => ({ format, data: new Uint8Array(8).fill(n * 10) }));
const provider: FrameProvider = {
  format,
  frameCount: 20,
  frames: (wanted) => Promise.resolve(wanted.map((n) => frames[n]!)),
};

describe('composing', () => {
  const composer = new FrameComposer(kernels, provider);
  test('a whole position is the source frame itself, not a copy', async () => {
    expect(await composer.compose({ kind: 'source', frame: 7 })).toBe(frames[7]);
  });
  test('Mix blends by the fraction and leaves its sources alone', async () => {
    expect([...(await composer.compose({ kind: 'mix', a: 3, b: 4, fraction: 0.4 })).data]).toEqual(Array(8).fill(34));
    expect(frames[3]!.data[0]).toBe(30);
  });
  test('black is black in the source’s own format', async () => {
    expect([...(await composer.compose({ kind: 'black' })).data]).toEqual(Array(8).fill(16));
  });
});

describe('composing with Flow', () => {
  const [width, height] = [64, 48];
  const large: FrameFormat = { ...format, width, height };
  /** A bright bar on uneven ground moves 6 pixels a frame; from frame 5 on everything is different. */
  const moving: Frame[] = Array.from({ length: 9 }, (_, n) => ({
    format: large,
    data: Uint8Array.from({ length: width * height }, (_unused, i) => {
      const [x, y] = [i % width, Math.floor(i / width)];
      if (n > 4) return (x * x * 31 + y * y * 17 + x * y * 7) & 255;
      return Math.abs(x - 10 - 6 * n) < 4 ? 230 : 90 + 30 * Math.sin(x / 5) * Math.cos(y / 4);
    }),
  }));
  const asked: number[] = [];
  const source: FrameProvider = {
    format: large,
    frameCount: 9,
    frames: (wanted) => (asked.push(...wanted), Promise.resolve(wanted.map((n) => moving[n]!))),
  };
  const flow = new Flow(module);
  let found = 0;
  const composer = new FrameComposer(kernels, source, {
    flow,
    exposure: new Exposure(module),
    pair: (a: Frame, b: Frame, level: Level) => (found++, flow.pair(a, b, level)),
    level: 'quick',
    cacheBytes: 1e7,
  });
  const sample = (a: number, fraction: number) => ({
    kind: 'flow' as const,
    a,
    b: a + 1,
    fraction,
    before: a > 0 ? a - 1 : undefined,
    after: a + 2 < 9 ? a + 2 : undefined,
  });

  test('finds the motion of its pair and the pairs around once; another fraction costs no more', async () => {
    await composer.compose(sample(1, 0.5));
    expect(found).toBe(3);
    await composer.compose(sample(1, 0.25));
    expect(found).toBe(3);
    await composer.compose(sample(2, 0.25));
    expect(found).toBe(4);
  });

  test('the bar is where it should be by then', async () => {
    const { data } = await composer.compose(sample(1, 0.5));
    const row = [...data.subarray(24 * width, 25 * width)];
    const bright = row.flatMap((value, x) => (value > 160 ? [x] : []));
    expect(Math.abs((bright[0]! + bright.at(-1)!) / 2 - 19)).toBeLessThan(1.01);
  });

  test('at a cut the nearer side is shown untouched', async () => {
    expect(await composer.compose(sample(4, 0.4))).toBe(moving[4]);
    expect(await composer.compose(sample(4, 0.6))).toBe(moving[5]);
  });

  test('what is got ready is not found again', async () => {
    const before = found;
    await composer.prepare(sample(6, 0.5));
    expect(found).toBeGreaterThan(before);
    const ready = found;
    await composer.compose(sample(6, 0.5));
    expect(found).toBe(ready);
  });

  test('two sources may share one Flow', async () => {
    const still: FrameProvider = { ...source, frames: (wanted) => Promise.resolve(wanted.map(() => moving[0]!)) };
    const other = new FrameComposer(kernels, still, {
      flow,
      exposure: new Exposure(module),
      pair: (...pair) => flow.pair(...pair),
      level: 'quick',
      cacheBytes: 1e7,
    });
    await composer.compose(sample(2, 0.5));
    expect((await other.compose(sample(2, 0.5))).data).toEqual(moving[0]!.data);
  });

  test('without the means it says so', async () => {
    await expect(new FrameComposer(kernels, source).compose(sample(1, 0.5))).rejects.toThrow(/means/);
  });
});

describe('plans', () => {
  const choice = { sourceFrames: 20, making: plainInterpolation('mix'), end: undefined };
  test('a clip at 33.3 % names its made frames', () => {
    const plan = planConstant(constantClip({ first: 0, last: 19, frames: 20 }, parseDecimal('0.333', 's')), choice);
    expect(plan.frameCount).toBe(58);
    expect(describePlan(plan)[3]).toEqual({ frame: 3, source: 0.999, made: true });
    expect(plan.sample(0)).toEqual({ kind: 'source', frame: 0 });
  });
  test('a map is taken at its word', () => {
    const map = straightMap(40, 0, 20);
    expect(planMap(map, 40, choice).frameCount).toBe(40);
    expect(() => planMap(map, 40, choice).sample(39)).toThrow(/frame 39/);
    expect(planMap(map, 40, { ...choice, end: 'hold' }).sample(39)).toEqual({ kind: 'source', frame: 19 });
  });
});
