import { describe, expect, test } from '@jest/globals';
import type { BeatSection } from './analyse.js';
import { couldBeLater, laterWithin, surenessOf } from './unsure.js';

const section = (from: number, to: number, later: number, sure = 1): BeatSection => ({
  ...{ from, to, tempo: 120, later },
  confidence: { tempo: sure, phase: 1 - later, bar: 1 },
});

describe('beats that could be half a beat later', () => {
  test('are told as stretches: neighbours are one, what is sure parts them', () => {
    const sections = [section(0, 4, 0.3), section(4, 8, 0.45), section(8, 12, 0.01), section(12, 16, 0.2)];
    expect(couldBeLater(sections)).toEqual([
      { from: 0, to: 8 },
      { from: 12, to: 16 },
    ]);
    expect(couldBeLater([section(0, 4, 0.19)])).toEqual([]);
  });

  test('move there and nowhere else; none is left within most of a beat of another', () => {
    const times = Array.from({ length: 17 }, (_, i) => i / 2);
    const { times: moved, bar } = laterWithin({ times, bar: { beats: 4, first: 1 } }, [{ from: 2, to: 4 }]);
    expect(moved).toEqual([0, 0.5, 1, 1.5, 2.25, 2.75, 3.25, 3.75, 4.5, 5, 5.5, 6, 6.5, 7, 7.5, 8]);
    expect(bar).toEqual({ beats: 4, first: 1 });
    expect(laterWithin({ times, bar }, [{ from: 0, to: 9 }]).times).toEqual(times.map((t) => t + 0.25));
  });

  test('sureness is by seconds: a long section counts more', () => {
    expect(surenessOf([section(0, 6, 0, 0.5), section(6, 8, 0.5, 1)])).toBeCloseTo((6 * 0.5 + 2 * 0.5) / 8, 12);
    expect(surenessOf([section(0, 3, 0, 0.9), section(3, 4, 0, 0.1)])).toBeCloseTo(0.7, 12);
    expect(surenessOf([])).toBe(1);
  });
});
