import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { timeStep } from './time-steps.ts';

describe('marks of a time axis', () => {
  test('never lie closer than they may, however long what they measure is, and never sparser than they have to', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -7, max: 3, noNaN: true }),
        fc.integer({ min: 20, max: 120 }),
        (exponent, leastPixels) => {
          const pixelsPerSecond = 10 ** exponent;
          const step = timeStep(pixelsPerSecond, leastPixels);
          expect(step * pixelsPerSecond).toBeGreaterThan(leastPixels);
          // The largest gap between two steps is threefold.
          if (step > 0.5) expect((step / 3) * pixelsPerSecond).toBeLessThanOrEqual(leastPixels);
        },
      ),
    );
  });

  test('five hours on 700 pixels are marked by the hour', () => {
    expect(timeStep(726 / 18_000, 84)).toBe(3600);
    expect(timeStep(100, 90, 1)).toBe(1);
  });
});
