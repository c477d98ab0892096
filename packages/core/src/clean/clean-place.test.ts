import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { moveVertex } from '../time-map/edit.js';
import { reachSlope, straightMap, type TimeMap } from '../time-map/time-map.js';
import { cleanPlace } from './clean-place.js';
import { realFrames } from './real-frames.js';

const HARD = { widthFrames: 0, ease: 'soft' as const };

const bent: TimeMap = {
  vertices: [
    { t: 0, s: 0 },
    { t: 40, s: 200 },
    { t: 100, s: 260 },
    { t: 140, s: 460 },
  ],
  bends: [HARD, HARD, HARD, HARD],
};

test('a vertex near a place where both speeds are clean goes there', () => {
  // Back to where it was, from two pixels away.
  expect(cleanPlace(bent, 1, { t: 40.8, s: 203.6 }, { t: 1.5, s: 8 })).toEqual({ t: 40, s: 200 });
  // Nowhere near one it is left alone.
  expect(cleanPlace(bent, 1, { t: 47.2, s: 121.3 }, { t: 0.4, s: 0.4 })).toBeUndefined();
});

test('along a reach whose speed stays it stops where the other one gets clean', () => {
  const place = cleanPlace(bent, 2, { t: 101.2, s: 261.2 }, { t: 2, s: 8 }, 'left')!;
  const moved = moveVertex(bent, 2, place, 'left');
  expect(reachSlope(moved, 1)).toBeCloseTo(1, 9);
  expect(realFrames(moved).real).toBeGreaterThanOrEqual(realFrames(bent).real - 1);
});

test('it is within reach, and no place within reach leaves more real frames', () => {
  let found = 0;
  fc.assert(
    fc.property(
      fc.double({ min: 5, max: 135, noNaN: true }),
      fc.double({ min: 5, max: 455, noNaN: true }),
      fc.integer({ min: 1, max: 3 }),
      fc.integer({ min: 1, max: 8 }),
      (t, s, across, up) => {
        const map: TimeMap = {
          vertices: [
            { t: 0, s: 0 },
            { t: 70, s: 230 },
            { t: 140, s: 460 },
          ],
          bends: straightMap(140, 0, 460).bends.concat(HARD),
        };
        const place = cleanPlace(map, 1, { t, s }, { t: across, s: up });
        const real = (at: { t: number; s: number }) => realFrames(moveVertex(map, 1, at)).real;
        const least = place ? real(place) : real({ t: Math.round(t), s: Math.round(s) });
        if (place) {
          found++;
          expect(((place.t - t) / across) ** 2 + ((place.s - s) / up) ** 2).toBeLessThanOrEqual(1);
        }
        for (let a = Math.ceil(t - across); a <= t + across; a++)
          for (let b = Math.ceil(s - up); b <= s + up; b++)
            if (((a - t) / across) ** 2 + ((b - s) / up) ** 2 <= 1)
              expect(real({ t: a, s: b })).toBeLessThanOrEqual(least);
      },
    ),
  );
  expect(found).toBeGreaterThan(20);
});
