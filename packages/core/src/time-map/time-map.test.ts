import { easeArbitrary, mapArbitrary } from '../../test/arbitraries.js';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { type BezierEase, checkEase, type EaseCurve, easeCurve } from './ease.js';
import { addVertex, moveVertex, setBend } from './edit.js';
import { positionAt, positionsInto, slopeAt } from './evaluate.js';
import { appearances, framesShowing } from './inverse.js';
import {
  bendWindow,
  checkTimeMap,
  HARD,
  mapDuration,
  mapFrameCount,
  settledBends,
  straightMap,
  type TimeMap,
  widthAsked,
} from './time-map.js';

const bent = (widthFrames: number, ease: Parameters<typeof easeCurve>[0] = 'soft'): TimeMap => ({
  vertices: [
    { t: 0, s: 0 },
    { t: 40, s: 80 },
    { t: 100, s: 110 },
  ],
  bends: [HARD, { widthFrames, ease }, HARD],
});

/** Times inside a map, its boundaries among them. */
const timesOf = (map: TimeMap, count = 40) =>
  Array.from({ length: count + 1 }, (_, i) => (mapDuration(map) * i) / count);

const scale = (map: TimeMap) => Math.max(1, ...map.vertices.map((v) => Math.abs(v.s)));

describe('eases', () => {
  test('start at 0, end at 1, and have the mean their area ends with', () => {
    fc.assert(
      fc.property(easeArbitrary, (ease) => {
        const { value, area, mean } = easeCurve(ease);
        expect(value(0)).toBeCloseTo(0, 12);
        expect(value(1)).toBeCloseTo(1, 12);
        expect(area(0)).toBeCloseTo(0, 12);
        expect(area(1)).toBeCloseTo(mean, 10);
      }),
    );
  });

  test('area is the integral of value (Simpson, 2000 steps)', () => {
    fc.assert(
      fc.property(easeArbitrary, fc.double({ min: 0.05, max: 1, noNaN: true }), (ease, u) => {
        const { value, area } = easeCurve(ease);
        const n = 2000;
        let sum = value(0) + value(u);
        for (let i = 1; i < n; i++) sum += (i % 2 ? 4 : 2) * value((u * i) / n);
        expect(area(u)).toBeCloseTo((sum * u) / (3 * n), 3);
      }),
      { numRuns: 200 },
    );
  });

  test('a Bézier with its handles on the diagonal is the straight ease', () => {
    const { value, area } = easeCurve([1 / 3, 1 / 3, 2 / 3, 2 / 3]);
    for (const u of [0.1, 0.37, 0.5, 0.99]) {
      expect(value(u)).toBeCloseTo(u, 12);
      expect(area(u)).toBeCloseTo((u * u) / 2, 12);
    }
  });

  test('an ease whose mean leaves 0 to 1 is refused', () => {
    expect(() => checkTimeMap(bent(10, [0.5, 9, 0.5, 9]))).toThrow(/overshoots/);
  });
});

describe('position', () => {
  test('known answers of the soft bend: the middle of the window, by hand', () => {
    const map = bent(20);
    // v₀ = 2, v₁ = 0.5, window 30…50; at u = 0.5 the area of soft is 0.5³(1 − 0.25) = 0.09375.
    expect(positionAt(map, 40)).toBeCloseTo(80 + (0.5 - 2) * 20 * 0.09375, 12);
    expect(slopeAt(map, 40)).toBeCloseTo(1.25, 12);
    expect(positionAt(map, 30)).toBe(60);
    expect(positionAt(map, 50)).toBeCloseTo(85, 12);
  });

  test('is continuous, and meets every reach at the ends of its bend', () => {
    fc.assert(
      fc.property(mapArbitrary, (map) => {
        for (let i = 1; i < map.vertices.length - 1; i++) {
          const { from, to } = bendWindow(map, i);
          for (const edge of [from, to])
            expect(Math.abs(positionAt(map, edge - 1e-9) - positionAt(map, edge + 1e-9))).toBeLessThan(
              1e-6 * scale(map),
            );
        }
      }),
    );
  });

  test('is the integral of speed', () => {
    fc.assert(
      fc.property(
        mapArbitrary,
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (map, x, y) => {
          const [from, to] = [Math.min(x, y) * mapDuration(map), Math.max(x, y) * mapDuration(map)];
          // Piecewise between every window's edges, where speed is smooth.
          const marks = [from, to, ...map.vertices.flatMap((_, i) => Object.values(bendWindow(map, i)))]
            .filter((t) => t >= from && t <= to)
            .sort((a, b) => a - b);
          let sum = 0;
          for (let m = 0; m + 1 < marks.length; m++) {
            const [a, b] = [marks[m]!, marks[m + 1]!];
            if (b - a < 1e-9) continue;
            const n = 400;
            for (let i = 0; i < n; i++) sum += (slopeAt(map, a + ((i + 0.5) * (b - a)) / n) * (b - a)) / n;
          }
          expect(Math.abs(positionAt(map, to) - positionAt(map, from) - sum)).toBeLessThan(
            2e-2 * Math.max(1, to - from),
          );
        },
      ),
      { numRuns: 150 },
    );
  });

  test('the equal-area rule: a bend moves nothing outside its own window', () => {
    fc.assert(
      fc.property(
        mapArbitrary,
        fc.nat(),
        fc.double({ min: 0, max: 80, noNaN: true }),
        easeArbitrary,
        (map, pick, widthFrames, ease) => {
          fc.pre(map.vertices.length > 2);
          const index = 1 + (pick % (map.vertices.length - 2));
          const changed = setBend(map, index, { widthFrames, ease });
          const old = bendWindow(map, index);
          const now = bendWindow(changed, index);
          const [from, to] = [Math.min(old.from, now.from), Math.max(old.to, now.to)];
          for (const t of timesOf(map))
            if (t < from || t > to)
              expect(Math.abs(positionAt(changed, t) - positionAt(map, t))).toBeLessThan(1e-12 * scale(map));
          expect(mapDuration(changed)).toBe(mapDuration(map));
        },
      ),
      { numRuns: 500 },
    );
  });

  test('a bend narrowed by a neighbour says the width it waits for, and has it again when the neighbour goes back', () => {
    const wide = (width: number): TimeMap['bends'][number] => ({ widthFrames: width, ease: 'soft' });
    const map: TimeMap = {
      vertices: [0, 20, 40, 60].map((t, i) => ({ t, s: [0, 20, 60, 80][i]! })),
      bends: [HARD, wide(12), wide(8), HARD],
    };
    const near = moveVertex(map, 2, { t: 25, s: 60 });
    expect(near.bends[1]!.widthFrames).toBeCloseTo(6, 9);
    expect(near.bends.map(widthAsked)).toEqual([0, 12, 8, 0]);
    const nearer = moveVertex(near, 2, { t: 22, s: 60 });
    expect(nearer.bends[1]!.widthFrames).toBeCloseTo(2.4, 9);
    // A width that is said is what it is to be; one that only waits gives way to it.
    const said = setBend(nearer, 1, { widthFrames: 1 });
    expect(said.bends[1]).toEqual(wide(1));
    expect(widthAsked(said.bends[2]!)).toBe(8);
    expect(moveVertex(nearer, 2, { t: 40, s: 60 })).toEqual(map);
  });

  test('narrowed and let go again, every map is as it was', () => {
    fc.assert(
      fc.property(mapArbitrary, fc.nat(), fc.double({ min: 0.01, max: 0.99, noNaN: true }), (made, pick, u) => {
        const map = settledBends(made);
        fc.pre(map.vertices.length > 2);
        const index = 1 + (pick % (map.vertices.length - 2));
        const [before, at, after] = [index - 1, index, index + 1].map((i) => map.vertices[i]!);
        const away = moveVertex(map, index, { t: before!.t + u * (after!.t - before!.t), s: at!.s });
        const back = moveVertex(away, index, at!);
        expect(back.vertices).toEqual(map.vertices);
        back.bends.forEach((bend, i) => {
          expect(bend.wanted).toBeUndefined();
          expect(bend.widthFrames).toBeCloseTo(map.bends[i]!.widthFrames, 9);
        });
      }),
      { numRuns: 300 },
    );
  });

  test('dividing a reach moves nothing at all', () => {
    fc.assert(
      fc.property(mapArbitrary, fc.double({ min: 0.02, max: 0.98, noNaN: true }), (map, u) => {
        const t = u * mapDuration(map);
        let split: TimeMap;
        try {
          split = addVertex(map, t, { widthFrames: 12, ease: 'silk' }).map;
        } catch (error) {
          expect((error as Error).message).toMatch(/bend/);
          fc.pre(false);
        }
        for (const time of timesOf(map))
          expect(Math.abs(positionAt(split, time) - positionAt(map, time))).toBeLessThan(1e-9 * scale(map));
      }),
    );
  });

  test('frame 1,000,000 is as exact as frame 1', () => {
    const map = straightMap(1_250_001, 0, 1_250_001 * 0.8);
    expect(positionAt(map, 1_000_000)).toBe(800_000);
    expect(positionAt(map, 1_000_003)).toBeCloseTo(800_002.4, 8);
    const long: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 1_000_000, s: 5_000_000 },
        { t: 1_000_100, s: 5_000_120 },
      ],
      bends: [HARD, { widthFrames: 40, ease: [0.3, 0, 0.6, 1] }, HARD],
    };
    expect(positionAt(long, 999_979)).toBe(4_999_895);
    expect(positionAt(long, 1_000_100)).toBeCloseTo(5_000_120, 9);
  });

  test('a run of positions equals the positions one by one', () => {
    fc.assert(
      fc.property(mapArbitrary, fc.nat(60), (map, first) => {
        const run = positionsInto(map, first, new Float64Array(90));
        run.forEach((s, i) => expect(s).toBe(positionAt(map, first + i)));
      }),
    );
  });
});

describe('inverse', () => {
  test('every appearance shows the position, and every shown position is found', () => {
    fc.assert(
      fc.property(mapArbitrary, fc.double({ min: 0, max: 1, noNaN: true }), (map, u) => {
        const t = u * mapDuration(map);
        const s = positionAt(map, t);
        const found = appearances(map, s);
        // A turning point is flat, so a hair of position there is a wide stretch of time.
        const near = found.some((a) => t >= a.from - 1e-3 && t <= a.to + 1e-3) || Math.abs(slopeAt(map, t)) < 1e-2;
        expect(near).toBe(true);
        for (const a of found)
          for (const x of [a.from, (a.from + a.to) / 2, a.to])
            expect(Math.abs(positionAt(map, x) - s)).toBeLessThan(1e-6 * scale(map));
      }),
      { numRuns: 500 },
    );
  });

  test('a bounce shows a moment twice, a freeze for a stretch, and what is never shown nowhere', () => {
    const bounce: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 10, s: 20 },
        { t: 20, s: 0 },
      ],
      bends: [HARD, HARD, HARD],
    };
    expect(appearances(bounce, 10).map((a) => a.from)).toEqual([5, 15].map((t) => expect.closeTo(t, 9)));
    const freeze: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 10, s: 20 },
        { t: 18, s: 20 },
        { t: 28, s: 40 },
      ],
      bends: [HARD, HARD, HARD, HARD],
    };
    expect(appearances(freeze, 20)).toEqual([{ from: expect.closeTo(10, 9), to: expect.closeTo(18, 9) }]);
    expect(appearances(freeze, 41)).toEqual([]);
  });

  test('a rounded bounce that turns short of a moment does not show it', () => {
    const map: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 20, s: 40 },
        { t: 40, s: 0 },
      ],
      bends: [HARD, { widthFrames: 10, ease: 'soft' }, HARD],
    };
    const top = positionAt(map, 20);
    expect(top).toBeLessThan(40);
    expect(appearances(map, 40)).toEqual([]);
    expect(appearances(map, top - 0.5)).toHaveLength(2);
    expect(framesShowing(map, 10)).toEqual([5, 35]);
  });
});

describe('the door', () => {
  const refuses = (map: TimeMap, message: RegExp) => expect(() => checkTimeMap(map, 'clip.map')).toThrow(message);
  test('names what is wrong', () => {
    refuses({ vertices: [{ t: 0, s: 0 }], bends: [HARD] }, /at least two/);
    refuses(
      {
        vertices: [
          { t: 1, s: 0 },
          { t: 2, s: 0 },
        ],
        bends: [HARD, HARD],
      },
      /clip\.map\.vertices\[0\].*t = 0/,
    );
    refuses(
      {
        vertices: [
          { t: 0, s: 0 },
          { t: 0, s: 9 },
        ],
        bends: [HARD, HARD],
      },
      /vertices\[1\].*grow/,
    );
    refuses(
      {
        vertices: [
          { t: 0, s: NaN },
          { t: 3, s: 9 },
        ],
        bends: [HARD, HARD],
      },
      /finite/,
    );
    refuses({ ...bent(10), bends: [{ widthFrames: 2, ease: 'soft' }, HARD, HARD] }, /only interior/);
    refuses(bent(90), /narrower/);
    refuses({ ...bent(10), bends: [HARD, { widthFrames: 4, wanted: 3, ease: 'soft' }, HARD] }, /no less/);
    refuses({ ...bent(10), bends: [HARD, { widthFrames: -1, ease: 'soft' }, HARD] }, /0 or more/);
  });

  test('frames run while k is before the last vertex', () => {
    expect(mapFrameCount(straightMap(72, 0, 360))).toBe(72);
    expect(mapFrameCount(straightMap(71.3, 0, 360))).toBe(72);
    expect(mapFrameCount(straightMap(0.5, 0, 1))).toBe(1);
  });
});

describe('eases from outside', () => {
  test('are one of the names, or four numbers, and nothing else', () => {
    for (const value of [null, undefined, 4, {}, [0, 0, 1], [0, 0, 1, 1, 1], [0, 0, 1, '1'], [0, 0, 1, NaN], 'sharp'])
      expect(() => checkEase(value, 'bends[2].ease')).toThrow(/^bends\[2\]\.ease/);
    expect(checkEase([0.2, 0, 0.8, 1], 'ease')).toEqual([0.2, 0, 0.8, 1]);
  });

  test('rise or fall all the way between their turns, overshooting ones too', () => {
    const overshooting = fc
      .tuple(...[0, 1, 2, 3].map((i) => fc.double({ min: i % 2 ? -2 : 0, max: i % 2 ? 3 : 1, noNaN: true })))
      .map((e) => e as unknown as BezierEase);
    let turning = 0;
    fc.assert(
      fc.property(overshooting, (ease) => {
        let curve: EaseCurve | undefined;
        try {
          curve = easeCurve(ease);
        } catch {
          // Its mean leaves 0 to 1.
        }
        fc.pre(curve !== undefined);
        const { value, turns } = curve;
        turning += turns.length > 0 ? 1 : 0;
        const edges = [0, ...turns, 1];
        edges.slice(1).forEach((to, i) => {
          const from = edges[i]!;
          const values = Array.from({ length: 60 }, (_, n) => value(from + ((to - from) * n) / 59));
          const steps = values.slice(1).map((v, n) => v - values[n]!);
          expect(steps.every((step) => step >= -1e-9) || steps.every((step) => step <= 1e-9)).toBe(true);
        });
      }),
    );
    expect(turning).toBeGreaterThan(20);
  });
});
