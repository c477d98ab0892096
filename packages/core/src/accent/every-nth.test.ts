import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { everyNth } from './every-nth.js';

/** Beats of a tempo that drifts, and a time between them. */
const beats = Array.from({ length: 65 }, (_, i) => 0.4 + 0.47 * i + 0.02 * Math.sin(i / 5));
const secondAt = (beat: number) => {
  const i = Math.min(63, Math.floor(beat));
  return beats[i]! + (beat - i) * (beats[i + 1]! - beats[i]!);
};

describe('every second hat', () => {
  test('is every second one of the music, whatever was not heard, heard twice, or lies between', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(1 / 2, 1 / 4, 1 / 3, 1),
        fc.integer({ min: 2, max: 4 }),
        fc.integer({ min: 0, max: 3 }),
        fc.uniqueArray(fc.integer({ min: 1, max: 59 }), { maxLength: 9 }),
        fc.array(fc.double({ min: -0.01, max: 0.01, noNaN: true }), { minLength: 60, maxLength: 60 }),
        fc.boolean(),
        (spacing, every, firstOf, unheard, jitter, offBeat) => {
          const first = firstOf % every;
          const place = (n: number) => spacing * n + (offBeat ? spacing / 2 : 0) + 0.001;
          const numbers = Array.from({ length: 60 }, (_, n) => n).filter((n) => place(n) < 62 && !unheard.includes(n));
          const timed = numbers.map((n) => ({ n, second: secondAt(place(n)) + jitter[n]! * spacing }));
          // One too many, halfway to the next.
          const stray = secondAt(place(20) + spacing / 2);
          const hits = [...timed.map(({ second }) => second), stray].sort((a, b) => a - b);
          const expected = timed.filter(({ n }) => n % every === first).map(({ second }) => second);
          expect(everyNth(hits, beats, every, first)).toEqual(expected);
        },
      ),
    );
  });

  test('without beats or a pattern they are counted as they come; each of them is all of them', () => {
    const hits = [0, 1, 2, 3, 4, 5];
    expect(everyNth(hits, [], 2, 1)).toEqual([1, 3, 5]);
    expect(everyNth(hits, beats, 1, 0)).toEqual(hits);
    const irregular = [0.5, 0.61, 1.9, 2.33, 2.5, 4.07, 4.4, 6.02, 6.15, 9.2];
    expect(everyNth(irregular, beats, 2, 0)).toEqual(irregular.filter((_, i) => i % 2 === 0));
  });
});
