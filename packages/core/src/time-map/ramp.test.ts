import { easeArbitrary, mapArbitrary } from '../../test/arbitraries.js';
import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import { InvalidInput } from '../foundation/errors.js';
import { positionAt, slopeAt } from './evaluate.js';
import { mapDuration, mapFrameCount, straightMap, type TimeMap } from './time-map.js';
import { MAX_SLOWED, type Ramp, rampEnd, rampEndKeepingContent, turnedRound, unrampEnd } from './ramp.js';

const ENDLESS = { from: -1e9, to: 1e9 };

const rampArbitrary: fc.Arbitrary<Ramp> = fc
  .record({
    frames: fc.integer({ min: 4, max: 30 }),
    hold: fc.integer({ min: 1, max: 3 }),
    slope: fc.double({ min: 0.1, max: 30, noNaN: true }),
    normal: fc.constant(2.5),
    ease: easeArbitrary,
  })
  .filter(({ frames, hold }) => frames > hold);

/** The whole frames of a map, and its ramp where it has room for one. */
function ramped(map: TimeMap, ramp: Ramp, put = rampEnd) {
  const frames = mapFrameCount(map);
  try {
    return { frames, ...put(map, { frames, shown: frames - 1, free: 0 }, ramp, ENDLESS) };
  } catch (error) {
    if (error instanceof InvalidInput) return undefined;
    throw error;
  }
}

const sameCurve = (a: TimeMap, b: TimeMap, from: number, to: number) => {
  for (let i = 0; i <= 40; i++) {
    const t = from + ((to - from) * i) / 40;
    expect(Math.abs(positionAt(a, t) - positionAt(b, t))).toBeLessThan(1e-6 * Math.max(1, Math.abs(positionAt(a, t))));
  }
};

describe('a ramp at the end of a clip', () => {
  test('nothing before it moves; it reaches its speed, holds it, and ends at the cut', () => {
    fc.assert(
      fc.property(mapArbitrary, rampArbitrary, (map, ramp) => {
        const done = ramped(map, ramp);
        fc.pre(done !== undefined);
        expect(mapDuration(done.map)).toBe(done.frames);
        sameCurve(map, done.map, 0, done.frames - ramp.frames);
        for (const t of [done.frames - ramp.hold + 1e-6, done.frames - 0.01, done.frames])
          expect(slopeAt(done.map, t) / ramp.slope).toBeCloseTo(1, 6);
      }),
    );
  });

  test('taken off, the clip is what it was, its length too', () => {
    fc.assert(
      fc.property(mapArbitrary, rampArbitrary, fc.boolean(), (map, ramp, keepsContent) => {
        const done = ramped(map, ramp, keepsContent ? rampEndKeepingContent : rampEnd);
        fc.pre(done !== undefined && !(keepsContent && done.slowed !== 1));
        const back = unrampEnd(done.map, map, done);
        expect(mapDuration(back)).toBeCloseTo(mapDuration(map), 9);
        sameCurve(map, back, 0, mapDuration(map));
      }),
    );
  });

  test('what was done to the rest since stays', () => {
    const { map, ...undo } = rampEnd(
      straightMap(60, 0, 60),
      { frames: 60, shown: 59, free: 0 },
      { frames: 12, hold: 2, slope: 4, normal: 1, ease: 'soft' },
      ENDLESS,
    );
    const slipped = { ...map, vertices: map.vertices.map(({ t, s }) => ({ t, s: s + 7 })) };
    expect(unrampEnd(slipped, straightMap(60, 0, 60), undo)).toEqual(straightMap(60, 7, 67));
  });

  test('where the source does not last, the rest is slowed until the last frame shown is the last there may be', () => {
    const frames = 60;
    const ramp: Ramp = { frames: 12, hold: 2, slope: 4, normal: 1, ease: 'soft' };
    const { map, ...undo } = rampEnd(straightMap(frames, 0, 60), { frames, shown: 59, free: 0 }, ramp, {
      from: 0,
      to: 59,
    });
    expect(positionAt(map, 59)).toBeCloseTo(59, 9);
    expect(undo.slowed).toBeGreaterThan(MAX_SLOWED);
    expect(slopeAt(map, 1)).toBeCloseTo(undo.slowed, 9);
    expect(slopeAt(map, 59.5)).toBeCloseTo(4, 9);
    sameCurve(unrampEnd(map, straightMap(frames, 0, 60), undo), straightMap(frames, 0, 60), 0, frames);
  });

  test('a ramp there is no source for is refused with the peak that fits', () => {
    const put = (slope: number) =>
      rampEnd(
        straightMap(40, 0, 40),
        { frames: 40, shown: 39, free: 0 },
        { frames: 16, hold: 2, slope, normal: 1, ease: 'soft' },
        { from: 0, to: 39 },
      );
    expect(() => put(30)).toThrow(/frames too early.*a peak of [\d.]+ % fits/);
    let peak = 0;
    try {
      put(30);
    } catch (error) {
      peak = Number(/of ([\d.]+) %/.exec((error as Error).message)![1]) / 100;
    }
    expect(() => put(peak)).not.toThrow();
    expect(() => put(peak + 0.02)).toThrow();
  });

  test('keeping content, the frame shown last is the one it was, or less than a frame of the ramp before it', () => {
    const { map } = rampEndKeepingContent(
      straightMap(60, 0, 60),
      { frames: 60, shown: 59, free: 0 },
      { frames: 12, hold: 2, slope: 4, normal: 1, ease: 'soft' },
      ENDLESS,
    );
    const frames = mapDuration(map);
    expect(frames).toBeLessThan(60);
    expect(Number.isInteger(frames)).toBe(true);
    expect(positionAt(map, frames - 1)).toBeLessThanOrEqual(59 + 1e-9);
    expect(positionAt(map, frames - 1)).toBeGreaterThan(55);
  });

  test('seen backward twice a map is itself; seen backward its speeds are what they were', () => {
    fc.assert(
      fc.property(mapArbitrary, fc.double({ min: 0, max: 1, noNaN: true }), (map, at) => {
        const turned = turnedRound(map);
        const end = mapDuration(map);
        expect(positionAt(turned, end * at)).toBeCloseTo(-positionAt(map, end - end * at), 5);
        const again = turnedRound(turned);
        again.vertices.forEach(({ t, s }, i) =>
          expect([t, s]).toEqual([expect.closeTo(map.vertices[i]!.t, 9), map.vertices[i]!.s]),
        );
      }),
    );
  });
});
