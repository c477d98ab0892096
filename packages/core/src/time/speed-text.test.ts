import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { evenSpeeds } from '../cadence/index.js';
import { framesPerSecond, rate } from './rate.js';
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

  test('a clean speed typed as it is shown is that speed, and any other is what was typed', () => {
    const of120on25 = { ...measure, reelFps: 25 };
    for (const [typed, slope] of [
      ['20.83', 1],
      ['-41,67 %', -2],
      ['104.2', 5],
      ['10.42', 1 / 2],
      ['1.3', 1 / 16],
      ['31.25', 3 / 2],
    ] as const)
      expect(parseSpeed(typed, of120on25)).toBe(slope / (120 / 25));
    expect(parseSpeed('20.8', of120on25)).toBeCloseTo(0.208, 15);
    expect(parseSpeed('20.84', of120on25)).toBeCloseTo(0.2084, 15);
    expect(parseSpeed('0.2083x', of120on25)).toBe(0.2083);
  });

  test('every speed that is called clean can be typed as it is shown', () => {
    const rates = [rate(24), rate(25), rate(30), rate(50), rate(60), rate(120), rate(60000, 1001), rate(240)];
    fc.assert(
      fc.property(fc.constantFrom(...rates), fc.constantFrom(...rates), (source, reel) => {
        const [sourceFps, reelFps] = [framesPerSecond(source), framesPerSecond(reel)];
        for (const speed of evenSpeeds(source, reel, 0.1, 1))
          expect(parseSpeed(percentText(speed), { ...measure, sourceFps, reelFps })).toBeCloseTo(speed, 14);
      }),
    );
  });

  test('what is shown is read back, to a hundredth of a percent', () => {
    fc.assert(
      fc.property(fc.double({ min: -0.9999, max: 0.9999, noNaN: true }), (speed) => {
        expect(Math.abs(parseSpeed(percentText(speed), measure) - speed)).toBeLessThanOrEqual(0.5e-4 + 1e-12);
      }),
    );
    expect(percentText(12.3456)).toBe('1234.6 %');
  });
});
