import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { calibrated, CHANGE, decide, WEIGHT } from './choose.js';

const pulse = (period: number, frames: number, from = 0) =>
  Array.from({ length: Math.floor((frames - from) / period) }, (_, i) => from + i * period);
const windowsOver = (count: number) => Array.from({ length: count }, (_, w) => ({ from: w * 800, to: (w + 1) * 800 }));

/** Every way through the windows with what it is worth in nats. */
function everyWay(scores: readonly (readonly number[])[], windows: number): { path: number[]; worth: number }[] {
  let ways: { path: number[]; worth: number }[] = [{ path: [], worth: 0 }];
  for (let w = 0; w < windows; w++)
    ways = ways.flatMap(({ path, worth }) =>
      scores.map((of, c) => ({
        path: [...path, c],
        worth: worth + WEIGHT * of[w]! - (w > 0 && path.at(-1) !== c ? CHANGE : 0),
      })),
    );
  return ways;
}

describe('deciding among candidates', () => {
  const periods = [100, 80, 130];
  const score = fc.double({ min: -40, max: 40, noNaN: true });

  test('takes the best of all ways through the windows, and is as sure of each as all ways together are', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(score, score, score, score), { minLength: 3, maxLength: 3 }), (scores) => {
        const windows = windowsOver(4);
        const candidates = periods.map((period) => ({ pulse: pulse(period, 3400), phase: 0 }));
        const ways = everyWay(scores, 4);
        const best = ways.reduce((a, b) => (b.worth > a.worth ? b : a));
        const decided = decide(candidates, windows, scores).windows;
        const path = decided.map(({ period }) => periods.indexOf(period));
        const worthOf = (of: readonly number[]) => ways.find((way) => way.path.every((c, w) => c === of[w]))!.worth;
        expect(worthOf(path)).toBeCloseTo(best.worth, 6);
        // A change costs e^CHANGE against staying, to another and to the same: what is left of it is the same again.
        const stay = Math.log(1 + Math.exp(-CHANGE));
        const weights = ways.map(({ path: way, worth }) => {
          const stays = way.filter((c, w) => w > 0 && c === way[w - 1]).length;
          return Math.exp(worth - best.worth + stays * stay);
        });
        const all = weights.reduce((a, b) => a + b, 0);
        decided.forEach(({ tempo }, w) => {
          const share = ways.reduce((sum, way, n) => sum + (way.path[w] === path[w] ? weights[n]! : 0), 0) / all;
          expect(tempo).toBeCloseTo(calibrated(share), 6);
        });
      }),
      { numRuns: 100 },
    );
  });

  test('one window that speaks for the off-beat does not turn what follows', () => {
    const beats = pulse(100, 6500);
    const candidates = [0, 6].map((phase) => ({ pulse: beats, phase }));
    const scores = [
      [9, 9, 9, -2, 9, 9, 9, 9],
      [-9, -9, -9, 2, -9, -9, -9, -9],
    ];
    const decided = decide(candidates, windowsOver(8), scores);
    expect(decided.beats).toEqual(beats.filter((beat) => beat < 6500));
    expect(decided.windows.every(({ phase, later }) => phase > 0.8 && later < 0.2)).toBe(true);
    expect(decided.windows[3]!.phase).toBeLessThanOrEqual(decided.windows[0]!.phase);
  });

  test('what is as likely half a beat later is said to be so, at a tempo that is sure', () => {
    const candidates = [0, 6].map((phase) => ({ pulse: pulse(100, 3400), phase }));
    const [first] = decide(candidates, windowsOver(4), [
      [1, 1, 1, 1],
      [1, 1, 1, 1],
    ]).windows;
    expect(first!.tempo).toBeGreaterThan(0.97);
    expect(first!.tempo * first!.phase).toBeCloseTo(calibrated(0.5), 6);
    // All that is not where it is said is half a beat later.
    expect(first!.later).toBeCloseTo(1 - first!.phase, 6);
  });

  test('what is said is never more sure than the windows are, keeps their order, and is sure only of what they are all but certain of', () => {
    const said = [0, 0.1, 0.5, 0.9, 0.99, 0.9999, 1].map(calibrated);
    expect(said.every((value, i) => value > 0 && value < 1 && (i === 0 || value > said[i - 1]!))).toBe(true);
    expect(calibrated(0.9)).toBeLessThan(0.6);
    expect(calibrated(1 - 1e-7)).toBeGreaterThan(0.9);
  });

  test('where it changes from one to another, no beat comes sooner than most of a beat after the last', () => {
    const candidates = [
      { pulse: pulse(100, 3400), phase: 0 },
      { pulse: pulse(80, 3400, 7), phase: 0 },
    ];
    const { beats } = decide(candidates, windowsOver(4), [
      [90, 90, 0, 0],
      [0, 0, 90, 90],
    ]);
    const gaps = beats.slice(1).map((beat, i) => beat - beats[i]!);
    expect(Math.min(...gaps)).toBeGreaterThan(0.6 * 80);
    expect(gaps.filter((gap) => gap === 100).length).toBeGreaterThan(12);
    expect(gaps.filter((gap) => gap === 80).length).toBeGreaterThan(16);
  });
});
