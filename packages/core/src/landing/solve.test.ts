import type { Landing } from '../clean/landing.js';
import { mapArbitrary } from '../../test/arbitraries.js';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { positionAt, slopeAt } from '../time-map/evaluate.js';
import { HARD, mapDuration, reachSlope, straightMap, type TimeMap } from '../time-map/time-map.js';
import { speedChange } from './change.js';
import { land } from './conflicts.js';
import { influence } from './influence.js';
import { SOLVE_DEFAULTS, type SolveChoice, solveLandings } from './solve.js';

const bell: TimeMap = {
  vertices: [
    { t: 0, s: 0 },
    { t: 30, s: 150 },
    { t: 86, s: 206 },
    { t: 128.8, s: 420 },
  ],
  bends: [HARD, { widthFrames: 14, ease: 'soft' }, { widthFrames: 18, ease: 'silk' }, HARD],
};

const slopesOf = (map: TimeMap) => Array.from({ length: map.vertices.length - 1 }, (_, i) => reachSlope(map, i));

const limited = (slowest: number, fastest: number): SolveChoice => ({
  ...SOLVE_DEFAULTS,
  limits: { slowest, fastest },
});

/** Every promise of an answer that has no conflicts. */
function expectLanded(
  before: TimeMap,
  after: TimeMap,
  landings: readonly Landing[],
  { limits, freeEnd }: SolveChoice = SOLVE_DEFAULTS,
) {
  for (const { moment, cue } of landings) expect(Math.abs(positionAt(after, cue) - moment)).toBeLessThanOrEqual(1e-6);
  expect(after.vertices[0]).toEqual(before.vertices[0]);
  if (!freeEnd) expect(after.vertices.at(-1)).toEqual(before.vertices.at(-1));
  after.vertices.slice(0, -1).forEach((v, i) => {
    const middle = (v.t + after.vertices[i + 1]!.t) / 2;
    const reach = before.vertices.findIndex((w) => w.t > middle) - 1;
    const was = reachSlope(before, reach < 0 ? before.vertices.length - 2 : reach);
    const now = reachSlope(after, i);
    if (Math.abs(was) > 1e-12) expect(Math.sign(now)).toBe(Math.sign(was));
    else expect(Math.abs(now)).toBeLessThanOrEqual(1e-11);
    if (Math.abs(was) > 1e-12) {
      expect(Math.abs(now)).toBeGreaterThanOrEqual(limits.slowest * (1 - 1e-6));
      expect(Math.abs(now)).toBeLessThanOrEqual(limits.fastest * (1 + 1e-6));
    }
  });
}

test('a position is the start and each slope by its influence, in bends and out of them', () => {
  fc.assert(
    fc.property(mapArbitrary, fc.double({ min: 0, max: 1, noNaN: true }), (map, u) => {
      const t = u * mapDuration(map);
      const sum = influence(map, t).reduce((s, weight, i) => s + weight * reachSlope(map, i), map.vertices[0]!.s);
      expect(Math.abs(sum - positionAt(map, t))).toBeLessThan(1e-8 * Math.max(1, Math.abs(sum)));
    }),
  );
});

describe('landings', () => {
  test('what is met already changes nothing', () => {
    const { map } = solveLandings(bell, [{ moment: 184, cue: 64 }])!;
    map.vertices.forEach((v, i) => expect(v.s).toBeCloseTo(bell.vertices[i]!.s, 6));
    expect(map.vertices).toHaveLength(4);
  });

  test('a small change keeps the bends and divides nothing', () => {
    const landing = { moment: 184, cue: 70 };
    const { map } = solveLandings(bell, [landing])!;
    expectLanded(bell, map, [landing]);
    expect(map.vertices.map((v) => v.t)).toEqual(bell.vertices.map((v) => v.t));
    expect(map.bends).toEqual(bell.bends);
  });

  test('exactly, even when the cue lies inside a bend', () => {
    for (const ease of ['soft', 'early', 'late', [0.2, -0.4, 0.7, 1.5]] as const)
      for (const cue of [25, 30, 33, 80, 86, 91]) {
        const map: TimeMap = { ...bell, bends: [HARD, { widthFrames: 16, ease }, { widthFrames: 18, ease }, HARD] };
        const landing = { moment: Math.round(positionAt(bell, cue)) + 3, cue };
        expectLanded(map, solveLandings(map, [landing])!.map, [landing]);
      }
  });

  test('one reach between fixed ends is divided at the landing, softly', () => {
    const map = straightMap(100, 0, 200);
    const landing = { moment: 120, cue: 40 };
    const solved = solveLandings(map, [landing])!.map;
    expectLanded(map, solved, [landing]);
    expect(solved.vertices).toHaveLength(3);
    expect(solved.bends[1]!.widthFrames).toBeGreaterThan(4);
  });

  test('locked reaches keep their speed, and when everything is locked there is no answer', () => {
    const landing = { moment: 184, cue: 70 };
    const solved = solveLandings(bell, [landing], { ...SOLVE_DEFAULTS, locked: [1] })!.map;
    expectLanded(bell, solved, [landing]);
    expect(slopesOf(solved)[1]).toBeCloseTo(1, 9);
    expect(solveLandings(bell, [landing], { ...SOLVE_DEFAULTS, locked: [0, 1, 2] })).toBeUndefined();
  });

  test('a free end keeps the content and the speed after the landing, and gives in time', () => {
    const choice = { ...SOLVE_DEFAULTS, freeEnd: true };
    const landing = { moment: 184, cue: 74 };
    const solved = solveLandings(bell, [landing], choice)!.map;
    expectLanded(bell, solved, [landing], choice);
    expect(solved.vertices.at(-1)!.s).toBeCloseTo(420, 9);
    expect(mapDuration(solved)).toBeGreaterThan(mapDuration(bell));
  });

  test('reverse and freezes stay what they are', () => {
    const map: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 20, s: 100 },
        { t: 32, s: 100 },
        { t: 60, s: 30 },
        { t: 90, s: 150 },
      ],
      bends: [
        HARD,
        { widthFrames: 6, ease: 'soft' },
        { widthFrames: 6, ease: 'soft' },
        { widthFrames: 10, ease: 'silk' },
        HARD,
      ],
    };
    const landings = [
      { moment: 104, cue: 26 },
      { moment: 60, cue: 50 },
    ];
    const solved = solveLandings(map, landings)!.map;
    expectLanded(map, solved, landings);
    expect(slopesOf(solved)[1]).toBe(0);
    expect(slopeAt(solved, 26)).toBe(0);
  });

  test('hundreds of maps: everything is met within the promises, or a conflict says why', () => {
    let met = 0;
    fc.assert(
      fc.property(
        mapArbitrary,
        fc.array(
          fc.record({ u: fc.double({ min: 0.05, max: 0.95, noNaN: true }), shift: fc.integer({ min: -6, max: 6 }) }),
          { minLength: 1, maxLength: 3 },
        ),
        (map, requests) => {
          const landings = requests
            .map(({ u, shift }) => ({
              cue: Math.round(u * mapDuration(map)),
              moment: Math.round(positionAt(map, u * mapDuration(map))) + shift,
            }))
            .filter(
              ({ cue }, i, all) => cue > 0 && cue < mapDuration(map) && all.findIndex((o) => o.cue === cue) === i,
            );
          fc.pre(landings.length > 0);
          const choice = limited(0.01, 60);
          const { map: answer, conflicts } = land(map, landings, choice);
          if (conflicts.length === 0) {
            expectLanded(map, answer, landings, choice);
            met++;
          } else
            for (const { landings: which, frames } of conflicts) expect(which.length > 0 && frames >= 0).toBe(true);
        },
      ),
      { numRuns: 150 },
    );
    expect(met).toBeGreaterThan(20);
  });
});

describe('against brute force', () => {
  test('one degree of freedom: no speeds within the limits cost less than 1 % less', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -12, max: 12 }),
        fc.integer({ min: 45, max: 75 }),
        fc.constantFrom(0.2, 0.8),
        fc.constantFrom(3, 8),
        (shift, cue, slowest, fastest) => {
          const landing = { moment: Math.round(positionAt(bell, cue)) + shift, cue };
          const solved = solveLandings(bell, [landing], limited(slowest, fastest));
          fc.pre(solved !== undefined && solved.map.vertices.length === 4);
          const frames = Float64Array.from(slopesOf(bell), (_, i) => bell.vertices[i + 1]!.t - bell.vertices[i]!.t);
          const cost = speedChange({
            frames,
            before: Float64Array.from(slopesOf(bell)),
            neighbours: [
              [0, 1],
              [1, 2],
            ],
            besideKept: [],
            smoothing: 12,
          });
          const [first, all] = [influence(bell, cue), influence(bell, mapDuration(bell))];
          let best = Infinity;
          for (let a = slowest; a <= fastest; a += 0.0005) {
            // With the first speed chosen, the landing gives the second and the end the third.
            const b = (landing.moment - first[0]! * a) / first[1]!;
            const c = (420 - all[0]! * a - all[1]! * b) / all[2]!;
            if (Math.min(b, c) < slowest || Math.max(b, c) > fastest) continue;
            best = Math.min(best, cost.value(Float64Array.of(a, b, c)));
          }
          expect(solved.cost).toBeLessThanOrEqual(best * 1.01 + 1e-6);
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('conflicts', () => {
  const straight = straightMap(100, 0, 200);

  test('one that asks for more than the limits is named, with the nearest cue that does', () => {
    const landings = [
      { moment: 100, cue: 50 },
      { moment: 10, cue: 90 },
    ];
    const { conflicts, map } = land(straight, landings, limited(0.5, 6));
    expect(conflicts).toHaveLength(1);
    expect(conflicts[0]!.landings).toEqual([1]);
    const [cue] = conflicts[0]!.offer!.cues;
    expect(solveLandings(straight, [{ moment: 10, cue: cue! }], limited(0.5, 6))).toBeDefined();
    expect(solveLandings(straight, [{ moment: 10, cue: cue! + 1 }], limited(0.5, 6))).toBeUndefined();
    expect(conflicts[0]!.frames).toBe(90 - cue!);
    expect(positionAt(map, 50)).toBeCloseTo(100, 6);
  });

  test('two that are at odds with one another are named together', () => {
    const landings = [
      { moment: 80, cue: 40 },
      { moment: 140, cue: 45 },
    ];
    const { conflicts } = land(straight, landings, limited(1, 4));
    expect(conflicts).toMatchObject([{ landings: [0, 1], offer: { cues: expect.any(Array) } }]);
    const moved = landings.map((l, i) => ({ ...l, cue: conflicts[0]!.offer!.cues[i]! }));
    expect(solveLandings(straight, moved, limited(1, 4))).toBeDefined();
  });

  test('what the clip never shows has no offer; nonsense is refused by name', () => {
    expect(land(straight, [{ moment: 400, cue: 50 }]).conflicts).toEqual([
      { landings: [0], frames: expect.any(Number), offer: undefined },
    ]);
    expect(() => land(straight, [{ moment: 4, cue: 500 }])).toThrow(/landings\[0\]\.cue: frame 500 is not in the map/);
    expect(() =>
      land(straight, [
        { moment: 4, cue: 5 },
        { moment: 9, cue: 5 },
      ]),
    ).toThrow(/cannot show both 4 and 9/);
  });
});
