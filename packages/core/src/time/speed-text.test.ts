import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { parseSpeed, percentText } from './speed-text.js';

const measure = { sourceFps: 120, reelFps: 24, frames: 60, speed: 0.5 };

describe('a typed speed', () => {
  test.each([
    ['40', 0.4],
    ['40 %', 0.4],
    ['-100%', -1],
    ['−12,5 %', -0.125],
    ['0.4x', 0.4],
    ['2×', 2],
    ['48 fps', 0.4],
    ['30f', 1],
    ['-60 f', -0.5],
    ['5s', 0.25],
    ['0', 0],
  ])('%s is %d', (text, ratio) => expect(parseSpeed(text, measure)).toBeCloseTo(ratio, 12));

  test.each(['', 'fast', '40 % now', '1e3', '--4', '0f'])('"%s" is refused', (text) =>
    expect(() => parseSpeed(text, measure)).toThrow(/^speed: /),
  );

  test('a freeze cannot be given a length by its speed', () =>
    expect(() => parseSpeed('12f', { ...measure, speed: 0 })).toThrow(/freeze/));

  test('what is shown is read back, to a hundredth of a percent', () => {
    fc.assert(
      fc.property(fc.double({ min: -0.9999, max: 0.9999, noNaN: true }), (speed) => {
        expect(Math.abs(parseSpeed(percentText(speed), measure) - speed)).toBeLessThanOrEqual(0.5e-4 + 1e-12);
      }),
    );
    expect(percentText(12.3456)).toBe('1234.6 %');
  });
});
