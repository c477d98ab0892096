import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { PEAKS_PER_SECOND, peaksOf } from './peaks.js';

describe('peaks of a sound', () => {
  test('hold every sample of their hundredth of a second, to a byte', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 1, maxLength: 600 }),
        fc.constantFrom(1000, 8000, 22050),
        (list, rate) => {
          const peaks = peaksOf(Float32Array.from(list), rate);
          expect(peaks).toHaveLength(2 * Math.ceil((list.length / rate) * PEAKS_PER_SECOND));
          list.forEach((value, i) => {
            // A sample on the edge belongs to the one or the other.
            const around = [i - 1, i, i + 1].map((n) =>
              Math.max(0, Math.min(peaks.length / 2 - 1, Math.floor(((n + 0.5) / rate) * PEAKS_PER_SECOND))),
            );
            expect(Math.min(...around.map((n) => peaks[2 * n]!))).toBeLessThanOrEqual(value * 127 + 0.51);
            expect(Math.max(...around.map((n) => peaks[2 * n + 1]!))).toBeGreaterThanOrEqual(value * 127 - 0.51);
          });
        },
      ),
    );
  });

  test('of a tone that stops are its height, then nothing; louder than full is full', () => {
    const tone = Float32Array.from({ length: 2000 }, (_, i) => (i < 1000 ? 0.5 * Math.sin(i) : i === 1500 ? 3 : 0));
    const peaks = peaksOf(tone, 1000);
    expect([peaks[10], peaks[11]]).toEqual([-63, 63].map((v) => expect.closeTo(v, -1)));
    expect([peaks[220], peaks[221]]).toEqual([0, 0]);
    expect(peaks[301]).toBe(127);
    expect(peaksOf(new Float32Array(0), 1000)).toHaveLength(0);
  });
});
