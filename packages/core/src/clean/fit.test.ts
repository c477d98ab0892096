import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { cleanSlope } from '../cadence/clean-slope.js';
import { positionAt } from '../time-map/evaluate.js';
import { checkTimeMap, mapFrameCount, reachSlope, straightMap, type TimeMap } from '../time-map/time-map.js';
import { fitCleanly } from './fit.js';
import { reachPhases, realFrames } from './real-frames.js';

const soft = (widthFrames: number) => ({ widthFrames, ease: 'soft' as const });

const mapOf = (points: readonly (readonly [number, number])[], width: number): TimeMap =>
  checkTimeMap({
    vertices: points.map(([t, s]) => ({ t, s })),
    bends: points.map((_, i) => soft(i === 0 || i === points.length - 1 ? 0 : width)),
  });

const shows = (map: TimeMap, first: number, last: number, frames: number) => {
  expect(mapFrameCount(map)).toBe(frames);
  expect(positionAt(map, 0)).toBeCloseTo(first, 9);
  expect(positionAt(map, frames - 1)).toBeCloseTo(last, 6);
};

describe('fitted to so many frames', () => {
  test('a map of one speed gets two clean ones, whatever the length: it begins and ends as before', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(1, 2, 2.5, 4, 5),
        fc.integer({ min: 40, max: 160 }),
        fc.integer({ min: 20, max: 300 }),
        (slope, own, frames) => {
          const map = straightMap(own, 0, own * slope);
          const last = positionAt(map, own - 1);
          fc.pre(Number.isInteger(last));
          const found = fitCleanly(map, own, frames);
          fc.pre(last / (frames - 1) > 1 / 8);
          shows(found!, 0, last, frames);
          expect(reachPhases(found!).every(({ clean }) => clean)).toBe(true);
        },
      ),
    );
  });

  test('a length that one clean speed makes gets that one', () => {
    const found = fitCleanly(straightMap(101, 0, 202), 101, 51)!;
    expect(found.vertices).toEqual([
      { t: 0, s: 0 },
      { t: 51, s: 204 },
    ]);
  });

  test('a bent map keeps its speeds where other places of change serve', () => {
    // 100 → 20 → 100 % of 120 fps on a timeline of 24, two seconds shorter.
    const bell = mapOf(
      [
        [0, 0],
        [48, 240],
        [168, 360],
        [216, 600],
      ],
      10,
    );
    const found = fitCleanly(bell, 216, 176)!;
    shows(found, 0, 595, 176);
    // 120 slow frames at 1 leave 40 · 5 = 200 more source frames to 10 at 5: the slow part is 50 frames shorter, the fast ones 10 longer.
    expect([0, 1, 2].map((i) => reachSlope(found, i))).toEqual([5, 1, 5].map((x) => expect.closeTo(x, 9)));
    expect(realFrames(found).real).toBeGreaterThan(150);
  });

  test('backward, with a freeze and with a locked reach', () => {
    const map = mapOf(
      [
        [0, 300],
        [30, 240],
        [50, 240],
        [90, 200],
        [130, 80],
      ],
      4,
    );
    for (const frames of [110, 118, 140, 150]) {
      const found = fitCleanly(map, 130, frames)!;
      shows(found, 300, 83, frames);
      expect(found.vertices[2]!.t - found.vertices[1]!.t).toBeCloseTo(20, 9);
      expect(reachPhases(found).every(({ clean }) => clean)).toBe(true);
    }
    const locked = fitCleanly(map, 130, 140, { locked: [0] })!;
    expect(locked.vertices[1]).toEqual({ t: expect.closeTo(30, 9), s: expect.closeTo(240, 9) });
  });

  test('bent maps of any kind: where there is an answer it is exact and clean, and there mostly is one', () => {
    let [asked, found] = [0, 0];
    fc.assert(
      fc.property(
        fc.array(fc.record({ slope: fc.constantFrom(0.5, 1, 2, 2.5, 5), frames: fc.integer({ min: 10, max: 40 }) }), {
          minLength: 2,
          maxLength: 4,
        }),
        fc.double({ min: 0.7, max: 1.5, noNaN: true }),
        (parts, share) => {
          const points: [number, number][] = [[0, 0]];
          for (const { slope, frames } of parts) {
            const [t, s] = points.at(-1)!;
            points.push([t + 2 * frames, s + 2 * frames * slope]);
          }
          const map = mapOf(points, 6);
          const own = points.at(-1)![0];
          const last = positionAt(map, own - 1);
          const frames = Math.round(own * share);
          const fitted = fitCleanly(map, own, frames);
          asked++;
          if (!fitted) return;
          found++;
          shows(fitted, 0, Math.round(last), frames);
          expect(reachPhases(fitted).every(({ clean }) => clean)).toBe(true);
          fitted.vertices.slice(1).forEach((_, i) => expect(cleanSlope(reachSlope(fitted, i))).toBeDefined());
        },
      ),
      { numRuns: 300 },
    );
    expect(found / asked).toBeGreaterThan(0.8);
  });
});
