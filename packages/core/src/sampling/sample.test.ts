import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { editorsMap, numbers } from '../../test/editors-maps.js';
import {
  cadence,
  cadenceOfSpeed,
  describeCadence,
  evenSpeeds,
  nearestEvenSpeed,
  slowestRealSpeed,
  stepOf,
} from '../cadence/cadence.js';
import { constantClip, constantMap, constantPosition, fittedClip } from '../time-map/constant-speed.js';
import { positionAt } from '../time-map/evaluate.js';
import { clampBends, straightMap } from '../time-map/time-map.js';
import { rate } from '../time/rate.js';
import { parseDecimal, rational } from '../time/rational.js';
import { clipFrameCount, missingSource } from './frame-count.js';
import { isInSource, madeOf, sampleAt } from './sample.js';

const range = (first: number, last: number, frames = 1000) => ({ first, last, frames });

describe('a clip at one speed', () => {
  test('60 on 24 at 40 % shows every frame once', () => {
    const clip = constantClip(range(0, 239, 240), stepOf(parseDecimal('0.4', 's'), rate(60), rate(24)));
    expect(clip.count).toBe(240);
    expect(Array.from({ length: 240 }, (_, k) => constantPosition(clip, k))).toEqual(
      Array.from({ length: 240 }, (_, k) => k),
    );
  });

  test('takes every position there is and not one more, at either direction', () => {
    fc.assert(
      fc.property(
        fc.nat(300),
        fc.nat(300),
        fc.nat(5),
        fc.bigInt(1n, 400n),
        fc.bigInt(1n, 60n),
        fc.boolean(),
        (first, length, spare, p, q, reverse) => {
          const { last, frames } = { last: first + length, frames: first + length + 1 + spare };
          const clip = constantClip({ first, last, frames }, rational(reverse ? -p : p, q));
          const at = (k: number) => (reverse ? last : first) + (Number(p) / Number(q)) * k * (reverse ? -1 : 1);
          const inside = (k: number) =>
            reverse ? at(k) >= first - 1e-9 : at(k) < last + 1 - 1e-9 && at(k) <= frames - 1 + 1e-9;
          expect(Array.from({ length: clip.count }, (_, k) => k).find((k) => !inside(k))).toBeUndefined();
          expect(inside(clip.count)).toBe(false);
          expect(constantPosition(clip, 0)).toBe(reverse ? last : first);
        },
      ),
      { numRuns: 1000 },
    );
  });

  test('fitted to n frames, the first shows the first and the last the last', () => {
    fc.assert(
      fc.property(
        fc.nat(300),
        fc.nat(3000),
        fc.integer({ min: 2, max: 5000 }),
        fc.boolean(),
        (first, length, count, reverse) => {
          const clip = fittedClip(range(first, first + length, 9999), count, reverse);
          expect(clip.count).toBe(count);
          expect(constantPosition(clip, 0)).toBe(reverse ? first + length : first);
          expect(constantPosition(clip, count - 1)).toBe(reverse ? first : first + length);
        },
      ),
    );
  });

  test('its map shows the same positions, and trims the same tail', () => {
    const clip = constantClip(range(0, 359, 360), stepOf(parseDecimal('0.06', 's'), rate(120), rate(24)));
    const map = constantMap(clip);
    for (const k of [0, 1, 7, clip.count - 1]) expect(positionAt(map, k)).toBeCloseTo(constantPosition(clip, k), 9);
    expect(clipFrameCount(straightMap(1200, 0, 360), 360)).toBe(
      constantClip(range(0, 359, 360), rational(3n, 10n)).count,
    );
  });

  test('an end between two frames trims the same: no frame asks for what is not there', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 2, max: 300, noNaN: true }),
        fc.integer({ min: 2, max: 500 }),
        (duration, frames) => {
          const map = straightMap(duration, 0, frames);
          expect(missingSource(map, frames)).toBeUndefined();
          const last = clipFrameCount(map, frames) - 1;
          expect(positionAt(map, last)).toBeLessThanOrEqual(frames - 1 + 1e-6);
        },
      ),
    );
  });

  test('what cannot be is named', () => {
    expect(() => constantClip(range(5, 4), rational(1n, 1n))).toThrow(/out point/);
    expect(() => constantClip(range(1000, 1000), rational(1n, 1n))).toThrow(/in point/);
    expect(() => constantClip(range(0, 9), rational(0n, 1n))).toThrow(/never ends/);
  });
});

describe('what a frame is made of', () => {
  test('whole positions pass through; Step takes the frame before, Mix both', () => {
    expect(sampleAt(7 + 9e-7, 10, 'mix', undefined)).toEqual({ kind: 'source', frame: 7 });
    expect(sampleAt(7 - 9e-7, 10, 'step', undefined)).toEqual({ kind: 'source', frame: 7 });
    expect(sampleAt(7.4, 10, 'step', undefined)).toEqual({ kind: 'source', frame: 7 });
    expect(sampleAt(7.4, 10, 'mix', undefined)).toEqual({ kind: 'mix', a: 7, b: 8, fraction: expect.closeTo(0.4, 12) });
  });

  test('source that is not there is an error unless a choice is given', () => {
    expect(() => sampleAt(9.5, 10, 'step', undefined, 31)).toThrow(/frame 31.*9\.500.*hold, loop or black/);
    expect(sampleAt(12, 10, 'step', 'hold')).toEqual({ kind: 'source', frame: 9 });
    expect(sampleAt(-3, 10, 'mix', 'hold')).toEqual({ kind: 'source', frame: 0 });
    expect(sampleAt(12, 10, 'mix', 'loop')).toEqual({ kind: 'source', frame: 2 });
    expect(sampleAt(-0.5, 10, 'mix', 'loop')).toEqual({ kind: 'mix', a: 9, b: 0, fraction: 0.5 });
    expect(sampleAt(10, 10, 'step', 'black')).toEqual({ kind: 'black' });
    expect(missingSource(straightMap(20, 0, 40), 30)).toEqual({ first: 15, count: 5 });
    expect(missingSource(straightMap(20, 0, 40), 40)).toBeUndefined();
  });

  test('what is missing is what a count of all frames finds, where eases overshoot and curves turn too', () => {
    const random = numbers(23);
    let [whole, lacking] = [0, 0];
    for (let n = 0; n < 400; n++) {
      const map = editorsMap(random);
      const [x, y] = [random(), 3 * random() - 1];
      const ease = [x, y, 1 - x, 1 - y] as const;
      const turned = map.vertices.map(({ t, s }, i) => ({ t, s: i % 2 ? s : s * random() }));
      const shown = random() < 0.5 ? map.vertices : turned;
      const least = Math.min(...shown.map((v) => v.s));
      const bent = clampBends({
        vertices: shown.map(({ t, s }) => ({ t, s: s - least })),
        bends: map.bends.map((bend) => (random() < 0.5 ? bend : { ...bend, ease })),
      });
      // All of its source there, to the frame, or too little or too much of it.
      const most = Math.max(...bent.vertices.map(({ s }) => s));
      const frames = 1 + Math.ceil(most * (random() < 0.5 ? 1 : 0.5 + 0.6 * random()));
      const missed = Array.from({ length: clipFrameCount(bent, frames) }, (_, k) => k).filter(
        (k) => !isInSource(positionAt(bent, k), frames),
      );
      const found = missingSource(bent, frames);
      expect(found).toEqual(missed.length > 0 ? { first: missed[0], count: missed.length } : undefined);
      if (found) lacking++;
      else whole++;
    }
    expect(Math.min(whole, lacking)).toBeGreaterThan(50);
  });

  test('every sample names frames the source has', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -500, max: 500, noNaN: true }),
        fc.integer({ min: 1, max: 90 }),
        fc.constantFrom('step' as const, 'mix' as const),
        fc.constantFrom('hold' as const, 'loop' as const),
        (s, frames, method, end) => {
          const sample = sampleAt(s, frames, method, end);
          const used = sample.kind === 'mix' ? [sample.a, sample.b] : sample.kind === 'source' ? [sample.frame] : [];
          for (const n of used) expect(n >= 0 && n < frames && Number.isInteger(n)).toBe(true);
          if (sample.kind === 'mix') expect(sample.fraction > 0 && sample.fraction < 1).toBe(true);
        },
      ),
    );
  });
});

describe('cadence', () => {
  test('the nearest even speed is one of the list, and the nearest of it', () => {
    const list = evenSpeeds(rate(120), rate(24), 0.004, 40);
    fc.assert(
      fc.property(fc.double({ min: 0.005, max: 30, noNaN: true }), fc.boolean(), (speed, back) => {
        const found = nearestEvenSpeed(back ? -speed : speed, rate(120), rate(24), 9)!;
        expect(Math.sign(found)).toBe(back ? -1 : 1);
        const distance = (v: number) => Math.abs(Math.log2(v / speed));
        expect(distance(Math.abs(found))).toBeLessThanOrEqual(Math.min(...list.map(distance)) + 1e-9);
        expect(list.some((v) => Math.abs(v - Math.abs(found)) < 1e-9)).toBe(true);
      }),
    );
    expect(nearestEvenSpeed(0.41, rate(60), rate(24), 0.05)).toBeCloseTo(0.4, 12);
    expect(nearestEvenSpeed(0.5, rate(60), rate(24), 0.05)).toBeUndefined();
    expect(cadenceOfSpeed(0.4, rate(60), rate(24))).toMatchObject({ allReal: true });
    expect(cadenceOfSpeed(-0.3, rate(120), rate(24))).toEqual(cadence(rational(3n, 2n)));
    expect(cadenceOfSpeed(1 / 3, rate(60), rate(24))).toBeUndefined();
    expect(nearestEvenSpeed(0, rate(60), rate(24), 0.05)).toBeUndefined();
  });

  test('1 of every q frames is real and the pattern repeats every q, counted', () => {
    fc.assert(
      fc.property(fc.bigInt(1n, 90n), fc.bigInt(1n, 40n), (p, q) => {
        const step = rational(p, q);
        const { realEvery, holds, even } = cadence(step);
        const positions = Array.from({ length: realEvery * 4 }, (_, k) => (Number(step.num) * k) / Number(step.den));
        expect(positions.filter((s) => Math.abs(s - Math.round(s)) < 1e-6)).toHaveLength(4);
        if (step.num < step.den && step.num <= 12n) {
          expect(holds.reduce((a, b) => a + b)).toBe(realEvery);
          expect(even).toBe(new Set(holds).size === 1);
          const shown = positions.slice(0, realEvery).map((s) => Math.floor(s + 1e-9));
          expect(holds).toEqual([...new Set(shown)].map((n) => shown.filter((x) => x === n).length));
        }
      }),
    );
  });

  test('rules of thumb come out: 60 on 24 bears 40 %; 120 on 24 is even at 20 40 60 80 100 %', () => {
    expect(slowestRealSpeed(rate(60), rate(24))).toBeCloseTo(0.4, 15);
    expect(evenSpeeds(rate(120), rate(24), 0.2, 1).map((v) => Math.round(v * 1000) / 10)).toEqual([
      20, 40, 60, 80, 100,
    ]);
    expect(evenSpeeds(rate(60), rate(30), 0.25, 2).map((v) => v * 100)).toEqual([25, 50, 100, 150, 200]);
    expect(describeCadence(cadence(rational(2n, 5n)))).toBe(
      '1 of 5 frames real, repeats every 5; under Step holds 3, 2',
    );
    expect(describeCadence(cadence(rational(3n, 1n)))).toBe('every frame real');
    expect(describeCadence(cadence(rational(1n, 4n)))).toMatch(/held 4/);
  });
});

describe('Flow', () => {
  test('looks at the frames next to its two, as far as there are any', () => {
    expect(sampleAt(4.25, 10, 'flow', undefined)).toEqual({
      kind: 'flow',
      a: 4,
      b: 5,
      fraction: 0.25,
      before: 3,
      after: 6,
    });
    expect(sampleAt(0.5, 10, 'flow', undefined)).toEqual({
      kind: 'flow',
      a: 0,
      b: 1,
      fraction: 0.5,
      before: undefined,
      after: 2,
    });
    expect(sampleAt(8.5, 10, 'flow', undefined)).toEqual({
      kind: 'flow',
      a: 8,
      b: 9,
      fraction: 0.5,
      before: 7,
      after: undefined,
    });
    expect(sampleAt(7, 10, 'flow', undefined)).toEqual({ kind: 'source', frame: 7 });
  });

  test('across the seam of a loop no motion goes on', () => {
    expect(sampleAt(9.5, 10, 'flow', 'loop')).toEqual({
      kind: 'flow',
      a: 9,
      b: 0,
      fraction: 0.5,
      before: undefined,
      after: undefined,
    });
  });

  test('only made samples say what they are made of', () => {
    expect(madeOf(sampleAt(4.5, 10, 'mix', undefined))).toMatchObject({ a: 4, b: 5 });
    expect(madeOf(sampleAt(4.5, 10, 'step', undefined))).toBeUndefined();
  });
});
