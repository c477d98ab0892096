import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { formatRate, frameToSeconds, naturalSlope, parseRate, rate, secondsToFrames, speakRate } from './rate.js';
import { multiply, parseDecimal, rational, timesWhole } from './rational.js';
import { canDropFrames, formatTimecode, parseTimecode } from './timecode.js';

const NTSC = rate(30000, 1001);

describe('rates', () => {
  test.each([
    ['24', 24, 1],
    ['23.976', 24000, 1001],
    ['29.97', 30000, 1001],
    ['59.94', 60000, 1001],
    ['30000/1001', 30000, 1001],
    ['48/2', 24, 1],
    ['12.5', 25, 2],
    ['1000', 1000, 1],
  ])('%s is %d/%d', (text, num, den) => expect(parseRate(text)).toEqual({ num, den }));

  test.each(['', 'fast', '0', '-24', '24/0', '1001', '0.5', '1e3', '24/1/1', 'NaN', '٢٤'])(
    '"%s" is refused by name',
    (text) => expect(() => parseRate(text, '--fps')).toThrow(/^--fps: /),
  );

  test('what is written is read back', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 1, max: 1e4 }), (num, den) => {
        fc.pre(num >= den && num <= 1000 * den);
        const r = rate(num, den);
        expect(parseRate(formatRate(r))).toEqual(r);
      }),
    );
    expect(speakRate(rate(24000, 1001))).toBe('23.976');
    expect(speakRate(NTSC)).toBe('29.97');
  });

  test('24000/1001 never drifts: after ten hours and after a thousand, the time of a frame is exact', () => {
    const r = rate(24000, 1001);
    for (const frame of [863_136, 86_313_600, 863_136_000]) {
      expect(Math.round(secondsToFrames(frameToSeconds(frame, r), r))).toBe(frame);
      const exactMicroseconds = (BigInt(frame) * 1001n * 1_000_000n) / 24000n;
      expect(Math.abs(frameToSeconds(frame, r) * 1e6 - Number(exactMicroseconds))).toBeLessThan(2);
    }
    expect(naturalSlope(r, rate(24))).toBe(1000 / 1001);
    expect(naturalSlope(rate(120), rate(24))).toBe(5);
  });
});

describe('exact fractions', () => {
  test('k · p/q is rounded once, however large k is', () => {
    expect(timesWhole(1_000_000_007, rational(1n, 3n))).toBe(333_333_335.6666667);
    expect(timesWhole(-7, rational(-5n, 2n))).toBe(17.5);
    expect(multiply(parseDecimal('33.3', 'speed'), rational(1n, 100n))).toEqual({ num: 333n, den: 1000n });
  });
});

describe('timecode', () => {
  test('known drop-frame labels: the first minute, the tenth, an hour', () => {
    expect(formatTimecode(1799, NTSC, true)).toBe('00:00:59;29');
    expect(formatTimecode(1800, NTSC, true)).toBe('00:01:00;02');
    expect(formatTimecode(17982, NTSC, true)).toBe('00:10:00;00');
    expect(formatTimecode(107892, NTSC, true)).toBe('01:00:00;00');
    expect(formatTimecode(107892, NTSC)).toBe('00:59:56:12');
    expect(formatTimecode(3599, rate(60000, 1001), true)).toBe('00:00:59;59');
    expect(formatTimecode(3600, rate(60000, 1001), true)).toBe('00:01:00;04');
    expect(formatTimecode(-25, rate(24))).toBe('-00:00:01:01');
    expect(formatTimecode(250, rate(240))).toBe('00:00:01:010');
  });

  test('every frame has its own label and the label leads back to it', () => {
    fc.assert(
      fc.property(
        fc.nat(20_000_000),
        fc.constantFrom(rate(24), rate(24000, 1001), NTSC, rate(60000, 1001), rate(25), rate(120)),
        fc.boolean(),
        (frame, r, drop) => {
          expect(parseTimecode(formatTimecode(frame, r, drop), r)).toBe(frame);
        },
      ),
      { numRuns: 2000 },
    );
  });

  test.each([
    ['00:01:00;00', /skips it/],
    ['00:00:00:30', /out of range/],
    ['00:60:00:00', /out of range/],
    ['1:2:3', /HH:MM:SS:FF/],
  ])('%s is refused', (text, message) => expect(() => parseTimecode(text, NTSC)).toThrow(message));

  test('only multiples of 29.97 drop frames', () => {
    expect(canDropFrames(rate(24000, 1001))).toBe(false);
    expect(() => parseTimecode('00:00:01;00', rate(24))).toThrow(/drop-frame/);
  });
});
