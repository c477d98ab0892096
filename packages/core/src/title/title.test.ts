import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { FONT } from './outlines.js';
import { rasterize, type Coverage, type Line } from './rasterize.js';
import { missingLetters, SAFE_SHARE, setLine, wordsOf } from './set-line.js';

/** A closed outline through points. */
const closed = (...points: readonly (readonly [number, number])[]): Line[] =>
  points.map(([x0, y0], i) => {
    const [x1, y1] = points[(i + 1) % points.length]!;
    return { x0, y0, x1, y1 };
  });
const areaOf = ({ data }: Coverage) => data.reduce((sum, covered) => sum + covered, 0) / 255;
const at = ({ left, top, width, data }: Coverage, x: number, y: number) => data[(y - top) * width + x - left];
const setting = { width: 640, height: 360, size: 0.2, x: 0.5, y: 0.5 };

describe('coverage', () => {
  test('of a rectangle is exact, whichever way it turns', () => {
    const points = [
      [1.25, 1.5],
      [4.5, 1.5],
      [4.5, 3],
      [1.25, 3],
    ] as const;
    for (const lines of [closed(...points), closed(...points.toReversed())]) {
      const covered = rasterize(lines, 10, 10);
      expect([covered.left, covered.top, covered.width, covered.height]).toEqual([1, 1, 4, 2]);
      expect([...covered.data]).toEqual([96, 128, 128, 64, 191, 255, 255, 128]);
    }
  });

  test('of any triangle has its area, and what lies outside the picture is cut off', () => {
    const inside = fc.double({ min: 0, max: 40, noNaN: true });
    fc.assert(
      fc.property(fc.tuple(inside, inside, inside, inside, inside, inside), ([a, b, c, d, e, f]) => {
        const lines = closed([a, b], [c, d], [e, f]);
        const area = Math.abs((c - a) * (f - b) - (e - a) * (d - b)) / 2;
        const whole = rasterize(lines, 40, 40);
        // Each pixel is rounded to 1/255.
        expect(Math.abs(areaOf(whole) - area)).toBeLessThan(0.002 * whole.data.length + 1e-6);
        const part = rasterize(lines, 23, 17);
        for (let y = part.top; y < part.top + part.height; y++)
          for (let x = part.left; x < part.left + part.width; x++)
            expect(Math.abs(at(part, x, y)! - (at(whole, x, y) ?? 0))).toBeLessThanOrEqual(1);
      }),
      { numRuns: 1000 },
    );
  });

  test('is once where outlines of one direction overlap', () => {
    const square = (x: number) => closed([x, 2], [x + 4, 2], [x + 4, 6], [x, 6]);
    const both = rasterize([...square(2), ...square(4)], 12, 12);
    expect(areaOf(both)).toBeCloseTo(24, 6);
    expect(Math.max(...both.data)).toBe(255);
  });
});

describe('a line', () => {
  test('lies about its middle, its capitals as high as is said', () => {
    const [word] = setLine({ ...setting, text: 'HH' });
    const { top, height, left, width, data } = word!.coverage;
    const rows = Array.from({ length: height }, (_, y) =>
      data.subarray(y * width, (y + 1) * width).some((c) => c > 127),
    );
    expect(rows.filter(Boolean).length).toBeGreaterThanOrEqual(71);
    expect(rows.filter(Boolean).length).toBeLessThanOrEqual(73);
    expect(Math.abs(top + height / 2 - 180)).toBeLessThan(1);
    expect(Math.abs(left + width / 2 - 320)).toBeLessThan(3);
  });

  test('is set word by word; pairs as the font says; no wider than what is safe', () => {
    expect(setLine({ ...setting, text: ' Marble  Parade ' }).map(({ text }) => text)).toEqual(['Marble', 'Parade']);
    const width = (text: string) => setLine({ ...setting, text })[0]!.coverage.width;
    expect(FONT.kerning['AV']).toBeLessThan(0);
    expect(width('AV')).toBeLessThan(width('A') + width('V') - 2);
    const long = setLine({ ...setting, text: 'marble '.repeat(12) });
    const last = long.at(-1)!.coverage;
    expect(long[0]!.coverage.left).toBeGreaterThanOrEqual(Math.floor(((1 - SAFE_SHARE) / 2) * 640));
    expect(last.left + last.width).toBeLessThanOrEqual(Math.ceil(((1 + SAFE_SHARE) / 2) * 640));
  });

  test('names what its font lacks, and keeps the place of each word', () => {
    expect(missingLetters('Größe žluťoučký – “kůň” 日本 日')).toEqual(['日', '本']);
    expect(missingLetters('e\u0301')).toEqual([]);
    const words = setLine({ ...setting, text: 'one 日本 two' });
    expect(words.map(({ text, coverage }) => [text, coverage.data.length > 0])).toEqual([
      ['one', true],
      ['日本', false],
      ['two', true],
    ]);
    expect(setLine({ ...setting, text: '日本' })).toEqual([]);
    expect(wordsOf('  ')).toEqual([]);
  });
});
