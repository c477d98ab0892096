import { describe, expect, test } from '@jest/globals';
import { NO_COLOUR_TAGS, parsePixelFormat, type Frame } from '@idle-bend/core/frame';
import { pairMotion } from '@idle-bend/core/motion';
import type { FrameProvider } from '@idle-bend/pipeline';
import { analyseMotion } from './analyse-motion.js';

const [W, H] = [96, 64];
/** A picture without a place that looks like another. */
const paint = (seed: number) => (x: number, y: number) =>
  128 + 60 * Math.sin(x / 7 + seed) * Math.cos(y / 5) + 50 * Math.sin((x + 2 * y) / 13 + seed * 3);
const frame = (value: (x: number, y: number) => number, [width, height] = [W, H]): Frame => ({
  format: { width, height, layout: parsePixelFormat('gray')!, colour: NO_COLOUR_TAGS, pixelAspect: { num: 1, den: 1 } },
  data: Uint8Array.from({ length: width * height }, (_, i) =>
    Math.max(0, Math.min(255, value(i % width, Math.floor(i / width)))),
  ),
});
const of = (frames: readonly Frame[]): FrameProvider => ({
  format: frames[0]!.format,
  frameCount: frames.length,
  frames: (wanted) => Promise.resolve(wanted.map((n) => frames[n]!)),
});
const [one, two] = [paint(1), paint(8)];
const panned = (by: number) => frame((x, y) => one(x - by, y));

describe('looking at the motion of a source', () => {
  test('a pan is sure and says which way', async () => {
    const told: number[] = [];
    const motion = await analyseMotion(of([0, 2, 4, 6, 8].map(panned)), [], (done) => told.push(done));
    expect(motion.pairs).toHaveLength(4);
    for (const { confidence, camera, exposure } of motion.pairs) {
      expect(confidence).toBeGreaterThan(0.9);
      expect(Math.abs(camera.x * W - 2)).toBeLessThan(0.3);
      expect(Math.abs(camera.y * W)).toBeLessThan(0.3);
      expect(Math.abs(exposure)).toBeLessThan(0.02);
    }
    expect(told).toEqual([1, 2, 3, 4, 5]);
  });

  test('repeats stand still, and motion goes on past them', async () => {
    const motion = await analyseMotion(of([0, 2, 2, 4, 6].map(panned)), [2]);
    expect(motion.pairs.map(({ camera }) => Math.round(camera.x * W))).toEqual([2, 0, 2, 2]);
    expect(pairMotion(motion, 1, 3)!.camera.x * W).toBeCloseTo(2, 0);
    expect([...motion.across.keys()]).toEqual([1]);
  });

  test('a cut has no motion, no exposure and is doubted', async () => {
    const motion = await analyseMotion(
      of([panned(0), panned(2), frame((x, y) => two(1.7 * x, 1.4 * y)), frame((x, y) => two(1.7 * (x - 1), 1.4 * y))]),
      [],
    );
    expect(motion.pairs.map(({ exposure }) => Number.isNaN(exposure))).toEqual([false, true, false]);
    expect(motion.pairs[1]!.confidence).toBeLessThan(0.5);
  });

  test('pictures too small to find motion in are not doubted; one frame has none', async () => {
    const tiny = of([0, 1, 2].map((by) => frame((x) => x * 20 + by, [8, 8])));
    expect((await analyseMotion(tiny, [])).pairs.map((p) => p.confidence)).toEqual([1, 1]);
    expect((await analyseMotion(of([panned(0)]), [])).pairs).toEqual([]);
  });

  test('stops when it is told to', async () => {
    await expect(
      analyseMotion(of([0, 2, 4].map(panned)), [], undefined, AbortSignal.abort(new Error('cancelled'))),
    ).rejects.toThrow('cancelled');
  });
});
