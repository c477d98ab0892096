import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { parseLength } from './length.js';
import { rate } from './rate.js';
import { formatTimecode } from './timecode.js';

describe('a length as it is typed', () => {
  test.each([
    ['35', 35],
    ['35f', 35],
    ['35 F', 35],
    ['22.5', 22.5],
    ['1s', 24],
    ['1.5 s', 36],
    ['1s 11f', 35],
    ['1s11', 35],
    ['00:00:01:11', 35],
    ['1:11', 35],
    ['0:01:00:00', 1440],
    ['01:00:00', 1440],
  ])('%s is so many frames at 24', (typed, frames) => {
    expect(parseLength(typed, rate(24))).toBeCloseTo(frames, 9);
  });

  test('seconds are those of the clock at any rate', () => {
    expect(parseLength('1.46 s', rate(30000, 1001))).toBeCloseTo((1.46 * 30000) / 1001, 9);
    expect(parseLength('00:01:00;02', rate(30000, 1001))).toBe(1800);
  });

  test('what a timecode says is read back', () => {
    fc.assert(
      fc.property(
        fc.nat({ max: 2_000_000 }),
        fc.constantFrom(rate(24), rate(25), rate(30000, 1001), rate(60), rate(120)),
        (frames, fps) => {
          expect(parseLength(formatTimecode(frames, fps), fps)).toBe(frames);
        },
      ),
    );
  });

  test.each(['', 'long', '-3', '1m', '1s 2s', '00:00:01:24', '12:61:00:00', '1:2:3:4:5', '3f 1s'])(
    '"%s" is refused, with what can be written',
    (typed) => {
      expect(() => parseLength(typed, rate(24))).toThrow(/write 35f|out of range|HH:MM:SS:FF/);
    },
  );
});
