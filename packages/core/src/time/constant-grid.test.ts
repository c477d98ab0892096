import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { constantGrid } from './constant-grid.js';
import { rate } from './rate.js';

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
    expect(constantGrid(ticks(500, 37.5, 1 / 90000), 1 / 90000, undefined)).toMatchObject({
      rate: { num: 75, den: 2 },
      variable: false,
    });
  });

  test.each([
    [rate(19001, 317), rate(60000, 1001)],
    [rate(29011, 242), rate(120000, 1001)],
    [rate(2997, 100), rate(30000, 1001)],
    [rate(23976, 1000), rate(24000, 1001)],
  ])('a container’s own way to write a rate, %j, is the common one it means', (declared, common) => {
    expect(constantGrid(ticks(90, common.num / common.den, 1 / 1000), 1 / 1000, declared).rate).toEqual(common);
    // A tick as long as a frame, as some containers have: every time fits many rates.
    expect(
      constantGrid(
        Float64Array.from({ length: 40 }, (_, i) => i),
        declared.den / declared.num,
        declared,
      ).rate,
    ).toEqual(common);
  });

  test('a rate that only the file says stays where ticks cannot tell it from others', () => {
    expect(
      constantGrid(
        Float64Array.from({ length: 20 }, (_, i) => i),
        1 / 17.5,
        rate(35, 2),
      ).rate,
    ).toEqual(rate(35, 2));
  });

  test('a guess that the times speak against is not taken', () => {
    expect(constantGrid(ticks(144, 120000 / 1001, 1 / 1000), 1 / 1000, rate(120)).rate).toEqual(rate(120000, 1001));
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

  test('one frame in twenty that comes early costs no faster grid', () => {
    const times = ticks(200, 30, 1 / 90000).map((t, i) => (i % 20 === 7 ? t - 1800 : t));
    expect(constantGrid(times, 1 / 90000, undefined)).toMatchObject({
      rate: rate(30),
      frames: 200,
      dropped: 0,
      held: 0,
    });
  });

  test('times that jump by days are refused', () => {
    const times = ticks(400, 25, 1 / 90000).map((t, i) => (i < 200 ? t : t + 300 * 86400 * 90000));
    expect(() => constantGrid(times, 1 / 90000, rate(25))).toThrow(/jump: 400 frames/);
  });

  test('most frames keep their time to half a slot, all to a slot, and none is lost while a common rate can hold them', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 400, max: 6000 }), { minLength: 3, maxLength: 80 }), (gaps) => {
        let t = 5000;
        const times = Float64Array.from([t, ...gaps.map((g) => (t += g))]);
        const grid = constantGrid(times, 1 / 90000, undefined);
        expect(grid.dropped).toBe(0);
        let moved = 0;
        const slot = (90000 * grid.rate.den) / grid.rate.num;
        for (let n = 0; n < grid.frames; n++) {
          const shown = grid.slots ? grid.slots[n]! : n;
          const next = times[shown + 1];
          const now = times[0]! + n * slot;
          const early = Math.max(times[shown]! - now, next === undefined ? 0 : now - next);
          expect(early).toBeLessThan(slot + 2);
          if (early > slot / 2 + 2) moved++;
        }
        expect(moved).toBeLessThanOrEqual(2 + 0.2 * times.length);
      }),
    );
  });
});
