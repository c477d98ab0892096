import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { InvalidInput } from '../foundation/errors.js';
import { positionAt } from '../time-map/evaluate.js';
import { bendWindow, checkTimeMap, reachSlope, type TimeMap } from '../time-map/time-map.js';
import { placeVertices } from '../../test/place-vertices.js';
import type { PlacesChoice } from './place-vertices.js';
import { realFrames, reachPhases } from './real-frames.js';
import type { Landing } from './landing.js';

const soft = (widthFrames: number) => ({ widthFrames, ease: 'soft' as const });
const choice = (change: Partial<PlacesChoice> = {}): PlacesChoice => ({
  ...{ locked: [], trimIn: 0, trimOut: 0, freeEnd: false, patience: 24, budget: { nodes: 1000 } },
  ...change,
});
const mapOf = (points: readonly (readonly [number, number])[], widths: readonly number[] = []): TimeMap =>
  checkTimeMap({
    vertices: points.map(([t, s]) => ({ t, s })),
    bends: points.map((_, i) => soft(widths[i] ?? 0)),
  });
const times = (map: TimeMap) => map.vertices.map(({ t }) => t);

/** 120 fps on a timeline of 24: all speed, a fifth of it, all speed. */
const bell = () =>
  mapOf(
    [
      [0, 0],
      [24, 120],
      [84, 180],
      [108, 300],
    ],
    [0, 10, 10, 0],
  );

describe('where speeds change', () => {
  test('the slow part moves by a frame and a half, every speed stays, and nearly every frame is real', () => {
    // Frame 150 shows at 54; it is to show at 60.
    const found = placeVertices(bell(), [{ moment: 150, cue: 60 }], choice())!;
    expect(positionAt(found.map, 60)).toBe(150);
    expect(times(found.map)).toEqual([0, 22.5, 82.5, 108]);
    expect([0, 1, 2].map((i) => reachSlope(found.map, i))).toEqual([5, 1, 5]);
    expect(reachPhases(found.map).every(({ clean }) => clean)).toBe(true);
    expect(found).toMatchObject({ lost: 0, moved: 4.5 });
    expect(realFrames(found.map).real).toBeGreaterThanOrEqual(realFrames(bell()).real - 2);
  });

  test('the end may move, where the last place alone would', () => {
    const map = mapOf([
      [0, 0],
      [24, 120],
      [84, 180],
    ]);
    const landing = [{ moment: 150, cue: 60 }];
    expect(placeVertices(map, landing, choice())).toBeUndefined();
    const longer = placeVertices(map, landing, choice({ freeEnd: true }))!;
    expect(longer.map.vertices.at(-1)).toEqual({ t: 90, s: 180 });
    const trimmed = placeVertices(map, landing, choice({ trimOut: 10 }))!;
    expect(trimmed.map.vertices.at(-1)).toEqual({ t: 84, s: 174 });
    expect(placeVertices(map, landing, choice({ trimOut: 5 }))).toBeUndefined();
  });

  test('nothing moves further than the patience', () => {
    expect(placeVertices(bell(), [{ moment: 150, cue: 60 }], choice({ patience: 1.4 }))).toBeUndefined();
    expect(placeVertices(bell(), [{ moment: 150, cue: 60 }], choice({ patience: 1.5 }))).toBeDefined();
  });

  test('a freeze keeps its frame and its length, and moves whole; its moment lands with its first still frame', () => {
    const map = mapOf(
      [
        [0, 0],
        [20, 100],
        [44, 100],
        [80, 280],
      ],
      [0, 6, 6, 0],
    );
    const found = placeVertices(map, [{ moment: 100, cue: 27 }], choice({ trimIn: 100, trimOut: 100 }))!;
    const still = Math.ceil(bendWindow(found.map, 1).to - 1e-9);
    expect([positionAt(found.map, 27), still]).toEqual([100, 27]);
    expect(positionAt(found.map, 26)).toBeLessThan(100);
    expect(times(found.map)[2]! - times(found.map)[1]!).toBe(24);
    expect([1, 2].map((i) => found.map.vertices[i]!.s)).toEqual([100, 100]);
  });

  test('a moment beside a bend that has no room to move lands inside it, the bend as wide as that takes', () => {
    const map = mapOf(
      [
        [0, 41],
        [18, 77],
        [78, 89],
        [101, 135],
      ],
      [0, 12, 10, 0],
    );
    const landings = [
      { moment: 76, cue: 17 },
      { moment: 88, cue: 72 },
    ];
    const found = placeVertices(map, landings, choice({ trimIn: 30 }))!;
    for (const { moment, cue } of landings) expect(Math.abs(positionAt(found.map, cue) - moment)).toBeLessThan(1e-7);
    expect(reachPhases(found.map).every(({ clean }) => clean)).toBe(true);
    const { from, to } = bendWindow(found.map, 1);
    expect([from < 17, to > 17]).toEqual([true, true]);
  });

  test('where direction turns the source frame stays', () => {
    const map = mapOf([
      [0, 0],
      [30, 150],
      [60, 120],
      [90, 270],
    ]);
    const found = placeVertices(map, [{ moment: 210, cue: 80 }], choice({ trimIn: 100, trimOut: 100 }))!;
    expect([1, 2].map((i) => found.map.vertices[i]!.s)).toEqual([150, 120]);
    expect(positionAt(found.map, 80)).toBe(210);
  });

  test('a locked reach keeps its length and what it shows', () => {
    const map = mapOf([
      [0, 0],
      [20, 100],
      [50, 130],
      [70, 230],
      [110, 270],
    ]);
    const found = placeVertices(map, [{ moment: 250, cue: 93 }], choice({ locked: [1], trimOut: 30 }))!;
    const [a, b] = [found.map.vertices[1]!, found.map.vertices[2]!];
    expect([b.t - a.t, a.s, b.s]).toEqual([30, 100, 130]);
    expect(positionAt(found.map, 93)).toBe(250);
  });

  test('at 59.94 on 24 phase is no concern: the landing is met and nothing else is asked', () => {
    const k0 = 60000 / 1001 / 24;
    const map = mapOf([
      [0, 0],
      [30, 30 * k0],
      [90, 30 * k0 + 60],
      [120, 60 * k0 + 60],
    ]);
    const found = placeVertices(map, [{ moment: 100, cue: 60 }], choice())!;
    expect(Math.abs(positionAt(found.map, 60) - 100)).toBeLessThan(1e-7);
    expect(reachSlope(found.map, 0)).toBeCloseTo(k0, 12);
    expect(found.lost).toBe(0);
  });

  test('are the best there are: as all places tried one by one', () => {
    let met = 0;
    const slopes = fc.constantFrom(5, 2, 1, 3, 0.5, 2.5);
    fc.assert(
      fc.property(
        fc.tuple(slopes, slopes, slopes).filter(([a, b, c]) => a !== b && b !== c),
        fc.tuple(fc.nat(8), fc.nat(8), fc.nat(8)),
        fc.constantFrom(0, 4, 8),
        fc.integer({ min: -4, max: 4 }),
        ([a, b, c], lengths, width, off) => {
          const [d, e, f] = lengths.map((n) => 20 + 2 * n) as [number, number, number];
          const map = mapOf(
            [
              [0, 0],
              [d, a * d],
              [d + e, a * d + b * e],
              [d + e + f, a * d + b * e + c * f],
            ],
            [0, width, width, 0],
          );
          const at = d + e + Math.round(f / 2);
          const landing = { moment: Math.round(positionAt(map, at)), cue: at + off };
          const found = placeVertices(map, [landing], choice({ freeEnd: true, patience: 12 }));
          const least = tried(map, landing, 12);
          if (least === undefined) return;
          met++;
          expect(found!.moved).toBeLessThanOrEqual(least + 1e-6);
          expect(positionAt(found!.map, landing.cue)).toBeCloseTo(landing.moment, 6);
        },
      ),
      { numRuns: 300 },
    );
    expect(met).toBeGreaterThan(150);
  });
});

/** The least sum of squared moves of a map of three reaches whose end is free: every phase of the second, the third being what the landing says. */
function tried(map: TimeMap, { moment, cue }: Landing, patience: number): number | undefined {
  const [a, b, c] = [0, 1, 2].map((i) => reachSlope(map, i)) as [number, number, number];
  const [, first, second, end] = map.vertices as [unknown, ...{ t: number; s: number }[]] as [
    unknown,
    { t: number; s: number },
    { t: number; s: number },
    { t: number; s: number },
  ];
  const last = moment - c * cue;
  const q = b === 0.5 || b === 2.5 ? 2 : 1;
  let least: number | undefined;
  for (let n = -4000; n <= 4000; n++) {
    const o = n / q;
    const [t1, t2, t3] = [o / (a - b), (last - o) / (b - c), (end.s - last) / c];
    const moves = [t1 - first.t, t2 - second.t, t3 - end.t];
    if (!moves.every((move) => Math.abs(move) <= patience) || !(t1 > 0 && t2 > t1 && t3 > t2)) continue;
    const made = {
      vertices: [
        { t: 0, s: 0 },
        { t: t1, s: a * t1 },
        { t: t2, s: o + b * t2 },
        { t: t3, s: end.s },
      ],
      bends: map.bends,
    };
    try {
      checkTimeMap(made);
    } catch (error) {
      if (!(error instanceof InvalidInput)) throw error;
      continue;
    }
    if (bendWindow(made, 2).to > cue || cue > t3) continue;
    const cost = moves.reduce((sum, move) => sum + move ** 2, 0);
    if (least === undefined || cost < least) least = cost;
  }
  return least;
}
