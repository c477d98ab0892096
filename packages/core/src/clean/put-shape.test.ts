import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { CLIP_SHAPES, stretchShape } from '../shape/clip-shapes.js';
import { positionAt } from '../time-map/evaluate.js';
import { checkTimeMap, mapFrameCount, straightMap } from '../time-map/time-map.js';
import { putShape } from './put-shape.js';
import { realFrames, reachPhases } from './real-frames.js';

/** A clip as it lies on a reel: 24 on 60, 48, 30 and 24. */
const clip = fc
  .record({ frames: fc.integer({ min: 40, max: 240 }), k0: fc.constantFrom(1, 1.25, 2, 2.5), s0: fc.nat(100) })
  .map(({ frames, k0, s0 }) => straightMap(frames, s0, s0 + Math.round(frames * k0)));

/** Shapes without a part that stands still or turns: they have a clean form on every clip. */
const forward = CLIP_SHAPES.filter(({ map }) =>
  map.vertices.every(({ s }, i) => i === 0 || s > map.vertices[i - 1]!.s),
);

describe('a shape put on a clip', () => {
  test('runs at clean speeds, with more frames real, and shows at both ends and between what it did', () => {
    expect(forward.length).toBeGreaterThan(5);
    fc.assert(
      fc.property(clip, fc.constantFrom(...forward), (map, shape) => {
        const stretched = stretchShape(shape.map, map);
        const put = checkTimeMap(putShape(shape.map, map));
        const frames = mapFrameCount(map);
        expect(mapFrameCount(put)).toBe(frames);
        expect(put.vertices.at(-1)!.s).toBeLessThanOrEqual(map.vertices.at(-1)!.s + 1e-9);
        expect(positionAt(put, 0)).toBeCloseTo(map.vertices[0]!.s, 9);
        expect(Math.abs(positionAt(put, frames - 1) - positionAt(stretched, frames - 1))).toBeLessThanOrEqual(
          0.5 + 1e-9,
        );
        expect(realFrames(put).real).toBeGreaterThanOrEqual(realFrames(stretched).real);
        const way = map.vertices.at(-1)!.s - map.vertices[0]!.s;
        for (let k = 0; k < frames; k++)
          expect(Math.abs(positionAt(put, k) - positionAt(stretched, k))).toBeLessThan(0.2 * way);
      }),
      { numRuns: 60 },
    );
  });

  test('most of them have every reach clean', () => {
    const all = forward.flatMap(({ map }) =>
      [60, 97, 144, 201].map((frames) => putShape(map, straightMap(frames, 10, 10 + 2.5 * frames))),
    );
    const clean = all.filter((map) => reachPhases(map).every((reach) => reach.clean));
    expect(clean.length / all.length).toBeGreaterThan(0.9);
  });

  test('one that turns or stands still is stretched as it is, and a clip that goes nowhere is refused', () => {
    const map = straightMap(96, 20, 260);
    for (const shape of CLIP_SHAPES)
      if (!forward.includes(shape)) expect(putShape(shape.map, map)).toEqual(stretchShape(shape.map, map));
    expect(() => putShape(CLIP_SHAPES[0]!.map, straightMap(10, 5, 5))).toThrow('no curve can be stretched');
  });

  test('a clip that runs backwards keeps within what it used', () => {
    const put = putShape(CLIP_SHAPES[0]!.map, straightMap(96, 260, 20));
    for (const { s } of put.vertices) expect(s >= 20 - 1e-9 && s <= 260 + 1e-9).toBe(true);
  });
});
