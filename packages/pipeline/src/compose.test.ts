import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { NO_COLOUR_TAGS, parseDecimal, constantClip, straightMap, type Frame, type FrameFormat } from '@idle-bend/core';
import { Kernels } from '@idle-bend/kernels';
import { describePlan, planClip, planConstant, planMap } from './clip-plan.js';
import { FrameComposer } from './compose.js';
import type { FrameProvider } from './frame-provider.js';

const kernels = new Kernels(new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm')));
const format: FrameFormat = {
  width: 4,
  height: 2,
  layout: { model: 'gray', bitDepth: 8, chromaShiftX: 0, chromaShiftY: 0, alpha: false },
  colour: NO_COLOUR_TAGS,
  pixelAspect: { num: 1, den: 1 },
};
/** Frame n is filled with 10·n. */
const frames: Frame[] = Array.from({ length: 20 }, (_, n) => ({ format, data: new Uint8Array(8).fill(n * 10) }));
const provider: FrameProvider = { format, frameCount: 20, frames: (wanted) => Promise.resolve(wanted.map((n) => frames[n]!)) };

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

describe('plans', () => {
  const choice = { sourceFrames: 20, method: 'mix' as const, end: undefined };
  test('a clip at 33.3 % names its made frames', () => {
    const plan = planConstant(constantClip({ first: 0, last: 19, frames: 20 }, parseDecimal('0.333', 's')), choice);
    expect(plan.frameCount).toBe(58);
    expect(describePlan(plan)[3]).toEqual({ frame: 3, source: 0.999, made: true });
    expect(plan.sample(0)).toEqual({ kind: 'source', frame: 0 });
  });
  test('a map is taken at its word, a clip on the reel is trimmed to its source', () => {
    const map = straightMap(40, 0, 20);
    expect(planClip(map, choice).frameCount).toBe(39);
    expect(planMap(map, 40, choice).frameCount).toBe(40);
    expect(() => planMap(map, 40, choice).sample(39)).toThrow(/frame 39/);
    expect(planMap(map, 40, { ...choice, end: 'hold' }).sample(39)).toEqual({ kind: 'source', frame: 19 });
  });
});
