import { describe, expect, test } from '@jest/globals';
import { LATE } from './onsets.js';
import { refineBeats } from './refine.js';

const RATE = 1000;
/** Rises at those seconds, each a narrow peak, on a floor that is not quite even. */
function rises(seconds: readonly number[], heights: readonly number[] = []): Float32Array {
  const sharp = new Float32Array(12 * RATE).map((_, i) => 0.02 + 0.01 * Math.sin(i / 37));
  seconds.forEach((second, n) => {
    const at = Math.round((second + LATE.sharp) * RATE);
    for (let i = -3; i <= 3; i++) sharp[at + i] = Math.max(sharp[at + i]!, (heights[n] ?? 1) * (1 - Math.abs(i) / 4));
  });
  return sharp;
}
const every = Array.from({ length: 16 }, (_, i) => 1 + i / 2);

describe('beats put where sound begins', () => {
  test('tracked up to 25 ms away, they come to the rises', () => {
    const tracked = every.map((second, i) => (second + (i % 2 ? 0.02 : -0.025) + LATE.sharp) * RATE);
    for (const [i, time] of refineBeats(tracked, rises(every), RATE).entries())
      expect(Math.abs(time - every[i]!)).toBeLessThan(0.004);
  });

  test('a beat on which nothing begins stays on the line of its neighbours', () => {
    const heights = every.map((_, i) => (i === 7 ? 0 : 1));
    const refined = refineBeats(
      every.map((second) => second * RATE),
      rises(every, heights),
      RATE,
    );
    expect(Math.abs(refined[7]! - every[7]!)).toBeLessThan(0.006);
  });
});
