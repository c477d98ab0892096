import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { rate } from '../rate/rate.js';
import { constantGrid } from './constant-grid.js';

const ticks = (count: number, perSecond: number, tick: number, skip: (i: number) => boolean = () => false) =>
  Float64Array.from(
    Array.from({ length: count }, (_, i) => i).filter((i) => !skip(i)),
    (i) => Math.round(i / perSecond / tick),
  );

describe('a constant rate', () => {
  test.each([
    [rate(24000, 1001), 1 / 24000],
    [rate(24000, 1001), 1 / 1000],
    [rate(30000, 1001), 1 / 1000],
    [rate(60000, 1001), 1 / 90000],
    [rate(240), 1 / 1000],
    [rate(1), 1 / 1000],
    [rate(1000), 1 / 16000],
  ])('%j is found though times are rounded to ticks', (r, tick) => {
    const grid = constantGrid(ticks(2000, r.num / r.den, tick), tick, undefined);
    expect(grid).toMatchObject({ rate: r, frames: 2000, variable: false, held: 0 });
  });

  test('a rate nobody lists is kept to a thousandth', () => {
    expect(constantGrid(ticks(500, 37.5, 1 / 90000), 1 / 90000, undefined)).toMatchObject({ rate: { num: 75, den: 2 }, variable: false });
  });

  test('the declared rate decides where times cannot tell', () => {
    expect(constantGrid(ticks(10, 30, 1 / 1000), 1 / 1000, rate(30000, 1001)).rate).toEqual(rate(30000, 1001));
  });
});

describe('a variable rate', () => {
  test('60 fps with frames left out is laid on 60, holding the frame before', () => {
    const grid = constantGrid(
      ticks(600, 60, 1 / 90000, (i) => i % 7 === 3 || (i > 100 && i < 140)),
      1 / 90000,
      undefined,
    );
    expect(grid.rate).toEqual(rate(60));
    expect(grid.frames).toBe(600);
    expect(grid.variable).toBe(true);
    expect(grid.dropped).toBe(0);
    expect([...grid.slots!.slice(0, 6)]).toEqual([0, 1, 2, 2, 3, 4]);
    expect(grid.slots![139]).toBe(grid.slots![100]);
  });

  test('every frame keeps its time to half a slot, and none is lost while a common rate can hold them', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 400, max: 6000 }), { minLength: 3, maxLength: 80 }), (gaps) => {
        let t = 5000;
        const times = Float64Array.from([t, ...gaps.map((g) => (t += g))]);
        const grid = constantGrid(times, 1 / 90000, undefined);
        expect(grid.dropped).toBe(0);
        for (let n = 0; n < grid.frames; n++) {
          const shown = grid.slots ? grid.slots[n]! : n;
          const next = times[shown + 1];
          const now = times[0]! + (n * grid.rate.den * 90000) / grid.rate.num;
          expect(times[shown]! - now).toBeLessThanOrEqual(45000 * (grid.rate.den / grid.rate.num) + 2);
          if (next !== undefined) expect(next - now).toBeGreaterThan(-45000 * (grid.rate.den / grid.rate.num) - 2);
        }
      }),
    );
  });
});
