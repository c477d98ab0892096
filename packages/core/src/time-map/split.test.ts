import { easeArbitrary, mapArbitrary } from '../../test/arbitraries.js';
import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import { InvalidInput } from '../foundation/errors.js';
import { easeCurve, splitEase } from './ease.js';
import { positionAt, slopeAt } from './evaluate.js';
import { ladder } from './ladder.js';
import { speedRange } from './speed-range.js';
import { concatMaps, splitMap } from './split.js';
import { bendWindow, checkTimeMap, HARD, mapDuration, reachSlope, straightMap, type TimeMap } from './time-map.js';
import { isTurn, reachTurn, turnsAt } from './turn.js';

const scale = (map: TimeMap) => Math.max(1, ...map.vertices.map((v) => Math.abs(v.s)));

const share = fc.double({ min: 0.02, max: 0.98, noNaN: true });

/** The result, or undefined where the edit is refused in words. */
function unlessRefused<T>(edit: () => T): T | undefined {
  try {
    return edit();
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    return undefined;
  }
}

describe('dividing an ease', () => {
  test('both parts are what they were, from 0 to 1', () => {
    fc.assert(
      fc.property(easeArbitrary, share, share, (ease, u, x) => {
        const parts = unlessRefused(() => splitEase(ease, u));
        fc.pre(parts !== undefined);
        const whole = easeCurve(ease);
        const reached = whole.value(u);
        fc.pre(Math.min(Math.abs(reached), Math.abs(1 - reached)) >= 1e-4);
        const [before, after] = parts.map(easeCurve);
        expect(Math.abs(before!.mean * u * reached - whole.area(u))).toBeLessThan(1e-7);
        expect(Math.abs((reached + after!.mean * (1 - reached)) * (1 - u) - (whole.mean - whole.area(u)))).toBeLessThan(
          1e-7,
        );
        // A part of silk is the nearest cubic; all others are exact.
        const room = ease === 'silk' ? 0.06 : 1e-6;
        expect(Math.abs(before!.value(x) * reached - whole.value(x * u))).toBeLessThan(room);
        expect(Math.abs(reached + after!.value(x) * (1 - reached) - whole.value(u + x * (1 - u)))).toBeLessThan(room);
      }),
      { numRuns: 400 },
    );
  });
});

describe('split and join', () => {
  test('a split moves nothing, inside a bend neither, and joining gives the same motion back', () => {
    fc.assert(
      fc.property(mapArbitrary, share, (map, u) => {
        const at = Math.max(1, Math.round(u * mapDuration(map)));
        fc.pre(at <= mapDuration(map) - 1);
        const parts = unlessRefused(() => splitMap(map, at));
        fc.pre(parts !== undefined);
        const [before, after] = parts;
        expect(mapDuration(before)).toBe(at);
        expect(mapDuration(before) + mapDuration(after)).toBeCloseTo(mapDuration(map), 9);
        const inSilk = map.bends.some(
          (b, i) => b.ease === 'silk' && bendWindow(map, i).from < at && bendWindow(map, i).to > at,
        );
        const room = inSilk ? 2 : 1e-6 * scale(map);
        const joined = concatMaps(before, after);
        for (let i = 0; i <= 40; i++) {
          const t = (mapDuration(map) * i) / 40;
          expect(
            Math.abs((t < at ? positionAt(before, t) : positionAt(after, t - at)) - positionAt(map, t)),
          ).toBeLessThan(room);
          expect(Math.abs(positionAt(joined, t) - positionAt(map, t))).toBeLessThan(room);
        }
      }),
      { numRuns: 300 },
    );
  });

  test('on a plain reach split and join give the very map back', () => {
    const map = straightMap(72, 0, 360);
    expect(concatMaps(...(splitMap(map, 30) as [TimeMap, TimeMap]))).toEqual(map);
    expect(() => concatMaps(straightMap(10, 0, 20), straightMap(10, 25, 30))).toThrow(
      /goes on at source 25.00, but the first ends at 20.00/,
    );
    expect(() => splitMap(map, 0)).toThrow(/not inside the clip/);
  });
});

describe('a ladder of speeds', () => {
  const map = straightMap(200, 0, 1000);
  const slopes = (m: TimeMap) => m.vertices.slice(1).map((_, i) => Math.round((reachSlope(m, i) / 5) * 1e6) / 1e6);

  test('takes its rungs in turn, each as long as the others, and goes on as before', () => {
    const stepped = ladder(map, 48, { speeds: [0.75, 0.5, 0.25], framesEach: 12 }, 5, 'content');
    expect(slopes(stepped)).toEqual([1, 0.75, 0.5, 0.25, 1]);
    expect(stepped.vertices.map((v) => v.t).slice(0, 5)).toEqual([0, 48, 60, 72, 84]);
    // 90 source frames were passed slowly: the clip grows so that none is lost.
    expect(stepped.vertices.at(-1)).toMatchObject({ s: 1000 });
    expect(mapDuration(stepped)).toBeCloseTo(200 + 36 - 90 / 5, 9);
    const slot = ladder(map, 48, { speeds: [0.75, 0.5, 0.25], framesEach: 12 }, 5, 'slot');
    expect(mapDuration(slot)).toBe(200);
    expect(slopes(slot)).toEqual([1, 0.75, 0.5, 0.25, 1]);
  });

  test('starts at the clip’s start too, rounds its changes when asked, and ends the clip when it uses it up', () => {
    const begun = ladder(map, 0, { speeds: [0.5, 1], framesEach: 24 }, 5, 'content', { widthFrames: 6, ease: 'soft' });
    expect(slopes(begun)).toEqual([0.5, 1]);
    expect(begun.bends[1]!.widthFrames).toBe(6);
    expect(slopes(ladder(map, 190, { speeds: [2, 4], framesEach: 24 }, 5, 'content'))).toEqual([1, 2, 4]);
    expect(() => ladder(map, 0, { speeds: [], framesEach: 3 }, 5, 'slot')).toThrow(/1 to 50 steps/);
    expect(() => ladder(map, 0, { speeds: [200], framesEach: 3 }, 5, 'slot')).toThrow(/outside 0.1 % to 10,000 %/);
  });
});

describe('turns', () => {
  test('a rounded bounce turns short of its vertex, and can be made to reach it with both speeds kept', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.3, max: 6, noNaN: true }),
        fc.double({ min: 0.3, max: 6, noNaN: true }),
        fc.double({ min: 0, max: 30, noNaN: true }),
        easeArbitrary,
        (up, down, widthFrames, ease) => {
          const map = {
            vertices: [
              { t: 0, s: 0 },
              { t: 40, s: 40 * up },
              { t: 80, s: 40 * up - 40 * down },
            ],
            bends: [HARD, { widthFrames, ease }, HARD],
          };
          expect(isTurn(map, 1)).toBe(true);
          const reached = unlessRefused(() => reachTurn(map, 1));
          fc.pre(reached !== undefined);
          // The turn by its definition, not by the function under test: where the curve is highest.
          const highest = Array.from({ length: 8001 }, (_, i) => positionAt(reached, i / 100)).reduce((a, b) =>
            Math.max(a, b),
          );
          expect(highest).toBeCloseTo(40 * up, 3);
          expect(turnsAt(reached, 1)).toBeCloseTo(40 * up, 6);
          expect(reachSlope(reached, 0)).toBeCloseTo(up, 9);
          expect(reachSlope(reached, 1)).toBeCloseTo(-down, 9);
          checkTimeMap(reached);
        },
      ),
    );
  });
});

describe('the range of speeds', () => {
  test('holds every speed the clip takes', () => {
    fc.assert(
      fc.property(mapArbitrary, (map) => {
        const { slowest, fastest } = speedRange(map, 2);
        for (let i = 1; i < 60; i++) {
          const speed = slopeAt(map, (mapDuration(map) * i) / 60) / 2;
          expect(speed).toBeGreaterThanOrEqual(slowest - 1e-6);
          expect(speed).toBeLessThanOrEqual(fastest + 1e-6);
        }
      }),
    );
    expect(speedRange(straightMap(10, 0, 50), 5)).toEqual({ slowest: 1, fastest: 1 });
  });
});
