import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import type { BeatGrid } from '../model/beat-grid.js';
import * as grid from './grid.js';

const even = (count: number, gap = 0.5, start = 0.3, first = 1): BeatGrid => ({
  times: Array.from({ length: count }, (_, i) => start + i * gap),
  bar: { beats: 4, first },
});

const downbeats = (g: BeatGrid) => g.times.filter((_, i) => grid.isDownbeat(g, i));

const grids = fc
  .record({
    gaps: fc.array(fc.double({ min: 0.25, max: 1.2, noNaN: true }), { minLength: 6, maxLength: 40 }),
    beats: fc.integer({ min: 2, max: 6 }),
    first: fc.nat(5),
  })
  .map(({ gaps, beats, first }): BeatGrid => {
    let t = 0.1;
    return { times: gaps.map((gap) => (t += gap)), bar: { beats, first: first % beats } };
  });

describe('beats put right', () => {
  test('doubled and halved again are what they were; the bar begins where it did', () => {
    fc.assert(
      fc.property(grids, (g) => {
        const twice = grid.doubled(g);
        expect(twice.times).toHaveLength(2 * g.times.length - 1);
        expect(downbeats(twice)).toContain(g.times[g.bar.first]);
        // In bars of an odd number a half may begin one.
        if (g.bar.beats % 2 === 0) expect(grid.halved(twice).times).toEqual(g.times);
      }),
    );
    expect(downbeats(grid.halved(even(12))).every((t) => downbeats(even(12)).includes(t))).toBe(true);
  });

  test('three for two and two for three keep the first beat of a bar and undo each other on even beats', () => {
    const g = even(25, 0.6);
    const three = grid.threeForTwo(g);
    expect(three.times[1]! - three.times[0]!).toBeCloseTo(0.4, 9);
    expect(downbeats(three).some((t) => Math.abs(t - g.times[1]!) < 1e-9)).toBe(true);
    const back = grid.twoForThree(three);
    expect(back.times[1]! - back.times[0]!).toBeCloseTo(0.6, 9);
    expect(downbeats(back).some((t) => Math.abs(t - g.times[1]!) < 1e-9)).toBe(true);
  });

  test('everything done to beats leaves them in order', () => {
    fc.assert(
      fc.property(grids, fc.nat(39), fc.double({ min: -0.1, max: 0.1, noNaN: true }), (g, n, by) => {
        const i = n % g.times.length;
        for (const make of [
          () => grid.doubled(g),
          () => grid.halved(g),
          () => grid.threeForTwo(g),
          () => grid.twoForThree(g),
          () => grid.shifted(g, 0.5),
          () => grid.movedBeat(g, i, g.times[i]! + by),
          () => grid.fixedFrom(g, i, g.times[i]! + by),
          () => grid.barsOf(g, 1 + (n % 7)),
          () => grid.barFrom(g, i),
        ]) {
          const { times, bar } = make();
          expect(times.every((t, k) => Number.isFinite(t) && (k === 0 || t > times[k - 1]!))).toBe(true);
          expect(bar.first).toBeGreaterThanOrEqual(0);
          expect(bar.first).toBeLessThan(bar.beats);
        }
      }),
    );
  });

  test('a dragged beat goes where it is put, its neighbours by less, far ones not at all; fixing from it moves all after', () => {
    const g = even(20);
    const moved = grid.movedBeat(g, 10, g.times[10]! + 0.1);
    const by = moved.times.map((t, i) => t - g.times[i]!);
    expect(by[10]).toBeCloseTo(0.1, 9);
    expect(by[9]).toBeCloseTo(0.08, 9);
    expect(by[5]).toBeCloseTo(0, 9);
    expect(by[15]).toBeCloseTo(0, 9);
    const fixed = grid.fixedFrom(g, 10, g.times[10]! + 0.1).times.map((t, i) => t - g.times[i]!);
    expect(fixed[9]).toBe(0);
    expect(fixed.slice(10).every((d) => Math.abs(d - 0.1) < 1e-9)).toBe(true);
    expect(() => grid.movedBeat(g, 10, g.times[2]!)).toThrow(/less than 0.1 s after the one before/);
  });

  test('typed tempo and offset make even beats, the one at the offset begins a bar', () => {
    const g = grid.evenBeats(120, 1.25, 10);
    expect(g.times[0]).toBeCloseTo(0.25, 9);
    expect(g.times.at(-1)).toBeCloseTo(9.75, 9);
    expect(downbeats(g).some((t) => Math.abs(t - 1.25) < 1e-9)).toBe(true);
    expect(() => grid.evenBeats(1000, 0, 10)).toThrow(/20 to 400/);
  });

  test('taps make the beat they mean, loose ones and one left out too', () => {
    const taps = [2, 2.51, 2.99, 3.5, 4.5, 5.01, 5.49, 6];
    const g = grid.tappedBeats(taps, 12, { beats: 3, first: 0 });
    expect(g.times[1]! - g.times[0]!).toBeCloseTo(0.5, 2);
    expect(Math.min(...g.times.map((t) => Math.abs(t - 2)))).toBeLessThan(0.03);
    expect(g.bar.beats).toBe(3);
    expect(() => grid.tappedBeats([1, 2, 3], 12, { beats: 4, first: 0 })).toThrow(/four/);
  });

  test('bar and beat are counted as musicians do; the nearest beat is found', () => {
    const g = even(12);
    expect([0, 1, 4, 5].map((i) => grid.placeInBar(g, i))).toEqual([
      { bar: 0, beat: 4 },
      { bar: 1, beat: 1 },
      { bar: 1, beat: 4 },
      { bar: 2, beat: 1 },
    ]);
    fc.assert(
      fc.property(grids, fc.double({ min: -1, max: 60, noNaN: true }), ({ times }, second) => {
        const i = grid.nearestBeat(times, second);
        expect(Math.abs(times[i]! - second)).toBeCloseTo(Math.min(...times.map((t) => Math.abs(t - second))), 12);
      }),
    );
    expect(grid.nearestBeat([], 1)).toBe(-1);
  });
});

describe('the bar at a time', () => {
  const even4 = { times: [0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5], bar: { beats: 4, first: 1 } };
  test('goes from its first beat to just before the next', () => {
    const { from, to } = grid.barAt(even4, 2.2)!;
    expect([from, to]).toEqual([1, expect.closeTo(3, 2)]);
    expect(to).toBeLessThan(3);
    expect(grid.barAt(even4, 3)!.from).toBe(3);
    expect([grid.barAt(even4, 0.7), grid.barAt(even4, 9)]).toEqual([undefined, undefined]);
  });
});
