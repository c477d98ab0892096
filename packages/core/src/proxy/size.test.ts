import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { linesOf, PROXY_LINES, proxySize } from './size.js';

const square = { num: 1, den: 1 };

describe('the size of a proxy', () => {
  test.each([
    [{ width: 3840, height: 2160, pixelAspect: square }, 540, [960, 540]],
    [{ width: 3840, height: 2160, pixelAspect: square }, 1080, [1920, 1080]],
    [{ width: 1280, height: 720, pixelAspect: square }, 1080, [1280, 720]],
    [{ width: 1080, height: 1920, pixelAspect: square }, 720, [406, 720]],
    [{ width: 1440, height: 1080, pixelAspect: { num: 4, den: 3 } }, 720, [1280, 720]],
  ] as const)('%j at %d lines is %j', (source, lines, [width, height]) => {
    expect(proxySize(source, lines)).toEqual({ width, height });
  });

  test('is inside its frame, never larger than the source, of its shape; and its lines are told by it where the source has them', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 16, max: 8192 }),
        fc.integer({ min: 16, max: 4608 }),
        fc.constantFrom({ num: 1, den: 1 }, { num: 4, den: 3 }, { num: 8, den: 9 }),
        fc.constantFrom(...PROXY_LINES),
        (width, height, pixelAspect, lines) => {
          const size = proxySize({ width, height, pixelAspect }, lines);
          const shown = (width * pixelAspect.num) / pixelAspect.den;
          expect([size.width % 2, size.height % 2]).toEqual([0, 0]);
          expect(size.width).toBeLessThanOrEqual(Math.min(shown + 2, (lines * 16) / 9));
          expect(size.height).toBeLessThanOrEqual(Math.min(height + 1, lines));
          const scale = Math.min(1, (lines * 16) / 9 / shown, lines / height);
          expect(Math.abs(size.width - Math.max(2, shown * scale))).toBeLessThanOrEqual(1.001);
          expect(Math.abs(size.height - Math.max(2, height * scale))).toBeLessThanOrEqual(1.001);
          expect(linesOf(size)).toBeLessThanOrEqual(lines);
          if (scale < 0.95) expect(linesOf(size)).toBe(lines);
        },
      ),
    );
  });
});
