import { mapArbitrary } from '../../test/arbitraries.js';
import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import { InvalidInput } from '../foundation/errors.js';
import { positionAt, slopeAt } from './evaluate.js';
import { bounceRange, fitRange, returnRange, setRangeSpeed, turnRange } from './range.js';
import { type Bend, HARD, mapDuration, straightMap, type TimeMap } from './time-map.js';

const SOFT: Bend = { widthFrames: 8, ease: 'soft' };

const scale = (map: TimeMap) => Math.max(1, ...map.vertices.map((v) => Math.abs(v.s)));

/** Runs an edit of a random stretch; a stretch that begins or ends in a bend is refused in words, and left out. */
function onRanges(
  edit: (map: TimeMap, from: number, to: number) => TimeMap,
  check: (before: TimeMap, after: TimeMap, from: number, to: number) => void,
) {
  let done = 0;
  fc.assert(
    fc.property(
      mapArbitrary,
      fc.double({ min: 0, max: 1, noNaN: true }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      (map, a, b) => {
        const [from, to] = [Math.min(a, b) * mapDuration(map), Math.max(a, b) * mapDuration(map)];
        fc.pre(to - from > 0.5);
        try {
          check(map, edit(map, from, to), from, to);
          done++;
        } catch (error) {
          if (!(error instanceof InvalidInput)) throw error;
          expect(error.message).toMatch(/bend|speed|range|less than/);
        }
      },
    ),
    { numRuns: 400 },
  );
  expect(done).toBeGreaterThan(100);
}

/** What lies outside the stretch and its bends, before and after, by sampling. */
const outside = (map: TimeMap, from: number, to: number) =>
  Array.from({ length: 41 }, (_, i) => (mapDuration(map) * i) / 40).filter((t) => t < from - 8 || t > to + 8);

describe('the speed of a stretch', () => {
  test('in one gesture, without cutting: content kept, what follows slides at its own speed', () => {
    const map = setRangeSpeed(straightMap(100, 0, 200), 30, 60, 0.5, 2, 'content', SOFT);
    expect(map.vertices).toEqual([
      { t: 0, s: 0 },
      { t: 30, s: 60 },
      { t: 90, s: 120 },
      { t: 130, s: 200 },
    ]);
    expect(map.bends.map((b) => b.widthFrames)).toEqual([0, 8, 8, 0]);
    expect(slopeAt(map, 60)).toBeCloseTo(1, 12);
  });

  test('from the start and to the end of the clip there is nothing to round', () => {
    const map = setRangeSpeed(straightMap(100, 0, 200), 0, 100, 0.25, 2, 'slot', SOFT);
    expect(map.vertices).toEqual([
      { t: 0, s: 0 },
      { t: 100, s: 50 },
    ]);
  });

  test('every speed outside stays', () =>
    onRanges(
      (map, from, to) => setRangeSpeed(map, from, to, 0.3, 1, 'slot'),
      (before, after, from, to) => {
        for (const t of outside(before, from, to)) {
          if (t < from)
            expect(Math.abs(positionAt(after, t) - positionAt(before, t))).toBeLessThan(1e-7 * scale(before));
          else expect(slopeAt(after, t)).toBeCloseTo(slopeAt(before, t), 6);
        }
        expect(slopeAt(after, (from + to) / 2)).toBeCloseTo(0.3, 9);
      },
    ));
});

describe('turned round', () => {
  test('plays backward and goes on from there', () => {
    const map = turnRange(straightMap(100, 0, 200), 30, 60);
    expect(map.vertices.map((v) => [v.t, v.s])).toEqual([
      [0, 0],
      [30, 60],
      [60, 0],
      [100, 80],
    ]);
  });

  test('twice is as before', () =>
    onRanges(
      (map, from, to) => turnRange(turnRange(map, from, to), from, to),
      (before, after) => {
        for (let i = 0; i <= 40; i++) {
          const t = (mapDuration(before) * i) / 40;
          // Bends at the ends of the stretch are narrowed where they cover it.
          if (before.bends.every((b) => b.widthFrames === 0))
            expect(Math.abs(positionAt(after, t) - positionAt(before, t))).toBeLessThan(1e-6 * scale(before));
        }
        expect(mapDuration(after)).toBeCloseTo(mapDuration(before), 9);
      },
    ));
});

describe('there and back', () => {
  test('ends where it began; what came after is gone', () => {
    const map = returnRange(straightMap(100, 0, 200), 30, 60);
    expect(map.vertices.map((v) => [v.t, v.s])).toEqual([
      [0, 0],
      [30, 60],
      [60, 120],
      [90, 60],
    ]);
    expect(slopeAt(returnRange(straightMap(100, 0, 200), 30, 60, SOFT), 60)).toBeCloseTo(0, 9);
  });

  test('is the first two thirds of a bounce', () =>
    onRanges(
      (map, from, to) => returnRange(map, from, to),
      (before, after, from, to) => {
        const bounced = bounceRange(before, from, to);
        const length = mapDuration(after);
        expect(Math.abs(length - (2 * to - from))).toBeLessThan(0.07);
        // What rounds the bounce's second turn is not there.
        for (const u of [0.1, 0.5, 0.99])
          expect(Math.abs(positionAt(after, u * length) - positionAt(bounced, u * length))).toBeLessThan(
            1e-6 * scale(before),
          );
      },
    ));
});

describe('a bounce', () => {
  test('there, back and there again; what follows keeps its content', () => {
    const map = bounceRange(straightMap(100, 0, 200), 30, 60);
    expect(map.vertices.map((v) => [v.t, v.s])).toEqual([
      [0, 0],
      [30, 60],
      [60, 120],
      [90, 60],
      [120, 120],
      [160, 200],
    ]);
    expect([45, 60, 75, 90, 105, 130].map((t) => positionAt(map, t))).toEqual([90, 120, 90, 60, 90, 140]);
  });

  test('mirrors whatever the stretch does, and moves nothing after it but in time', () =>
    onRanges(
      (map, from, to) => bounceRange(map, from, to),
      (before, after, from, to) => {
        const length = to - from;
        // An end within 1/64 of a vertex is that vertex.
        expect(Math.abs(mapDuration(after) - mapDuration(before) - 2 * length)).toBeLessThan(0.07);
        const snapped = before.vertices.some((v) => [from, to].some((t) => Math.abs(v.t - t) < 1 / 64 && v.t !== t));
        expect(after.vertices.at(-1)!.s).toBeCloseTo(before.vertices.at(-1)!.s, 6);
        if (snapped || before.bends.some((b) => b.widthFrames > 0)) return;
        for (const u of [0.1, 0.4, 0.8]) {
          const s = positionAt(before, from + u * length);
          expect(Math.abs(positionAt(after, to + (1 - u) * length) - s)).toBeLessThan(1e-6 * scale(before));
          expect(Math.abs(positionAt(after, to + length + u * length) - s)).toBeLessThan(1e-6 * scale(before));
        }
      },
    ));

  test('bends inside it are met again, backward and forward', () => {
    const bent: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 40, s: 80 },
        { t: 90, s: 105 },
      ],
      bends: [HARD, { widthFrames: 12, ease: 'early' }, HARD],
    };
    const map = bounceRange(bent, 20, 60);
    for (const t of [22, 36, 41, 45, 58]) {
      expect(positionAt(map, 120 - t)).toBeCloseTo(positionAt(bent, t), 9);
      expect(positionAt(map, t + 80)).toBeCloseTo(positionAt(bent, t), 9);
    }
  });

  test('its turns are rounded when asked', () => {
    const map = bounceRange(straightMap(100, 0, 200), 30, 60, SOFT);
    expect(map.bends.map((b) => b.widthFrames)).toEqual([0, 0, 8, 8, 0, 0]);
    expect(slopeAt(map, 60)).toBeCloseTo(0, 9);
  });
});

describe('fitted to a length', () => {
  test('content kept, what follows slides', () => {
    const map = fitRange(straightMap(100, 0, 200), 30, 60, 15);
    expect(map.vertices.map((v) => [v.t, v.s])).toEqual([
      [0, 0],
      [30, 60],
      [45, 120],
      [85, 200],
    ]);
  });
});

test('what is no stretch, or begins inside a bend, is refused in words', () => {
  const bent: TimeMap = {
    vertices: [
      { t: 0, s: 0 },
      { t: 50, s: 100 },
      { t: 100, s: 120 },
    ],
    bends: [HARD, { widthFrames: 20, ease: 'soft' }, HARD],
  };
  expect(() => setRangeSpeed(bent, 45, 80, 1, 1, 'content')).toThrow(/frame 45 lies inside bend 1/);
  expect(() => bounceRange(bent, 80, 80)).toThrow(/not a stretch/);
  expect(() => turnRange(bent, 80, 180)).toThrow(/not a stretch/);
  expect(() => fitRange(bent, 0, 20, 0)).toThrow(/not a length/);
});
