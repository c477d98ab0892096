import { describe, expect, test } from '@jest/globals';
import { analyseBeats } from './analyse.js';
import { beatsAt, drums, RATE, type Strike } from './test-drums.js';

/** A kick where bars begin, snares on the others, hats on all. */
function inBarsOf(beats: readonly number[], size: number, first: number): Strike[] {
  return beats.flatMap((time, i): Strike[] => [
    { time, drum: (i - first + size) % size === 0 ? 'kick' : 'snare' },
    { time, drum: 'hat' },
  ]);
}

describe('bars', () => {
  test.each([
    [3, 0],
    [3, 2],
    [2, 1],
  ])('of %d beats that begin with beat %d are found by their kicks', (size, first) => {
    const truth = beatsAt(112, 0.3, 24);
    const { beats, bar, sections } = analyseBeats(drums(inBarsOf(truth, size, first), 24), RATE);
    const begin = beats.filter((_, i) => (i - bar.first + 64 * bar.beats) % bar.beats === 0);
    // Bars twice as long begin with them too.
    expect(bar.beats % size).toBe(0);
    for (const time of begin) {
      const nearest = truth.findIndex((beat) => Math.abs(beat - time) < 0.03);
      expect((nearest - first + 3 * size) % size).toBe(0);
    }
    expect(sections.every(({ confidence }) => confidence.bar > 0 && confidence.bar <= 1)).toBe(true);
  });
});
