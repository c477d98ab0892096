import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { checkFraming, FITTED, type Framing } from '../model/framing.js';
import { coveredShare, covers, placePicture } from './framing.js';

const WIDE = { width: 1280, height: 720 };

const TALL = { width: 1080, height: 1920 };

describe('a picture in the reel', () => {
  test('of the same shape covers it exactly, at any size', () => {
    for (const reel of [WIDE, { width: 640, height: 360 }, { width: 3840, height: 2160 }])
      expect(covers(placePicture(16 / 9, reel), reel)).toBe(true);
  });

  test('fitted, a wide one has black above and below in a tall reel; filled, it loses its sides', () => {
    expect(placePicture(16 / 9, TALL)).toEqual({ left: 0, top: 656, width: 1080, height: 608 });
    expect(placePicture(16 / 9, TALL, { ...FITTED, fit: 'fill' })).toEqual({
      left: -1166,
      top: 0,
      width: 3414,
      height: 1920,
    });
  });

  test('is scaled and moved from its middle', () => {
    expect(placePicture(16 / 9, WIDE, { fit: 'fit', scale: 2, x: 0.25, y: -0.5 })).toEqual({
      left: -320,
      top: -720,
      width: 2560,
      height: 1440,
    });
  });

  const framings = fc.record({
    fit: fc.constantFrom('fit' as const, 'fill' as const),
    scale: fc.double({ min: 0.05, max: 8, noNaN: true }),
    x: fc.double({ min: -1, max: 1, noNaN: true }),
    y: fc.double({ min: -1, max: 1, noNaN: true }),
  });
  const shapes = fc.double({ min: 0.3, max: 3, noNaN: true });
  const reels = fc
    .record({ width: fc.integer({ min: 16, max: 2000 }), height: fc.integer({ min: 16, max: 2000 }) })
    .map(({ width, height }) => ({
      width: 2 * width,
      height: 2 * height,
    }));

  test('always lies on even pixels, keeps its shape, and filled leaves no black', () => {
    fc.assert(
      fc.property(shapes, reels, framings, (aspect, reel, framing) => {
        const place = placePicture(aspect, reel, framing);
        for (const n of Object.values(place)) expect(n % 2 === 0).toBe(true);
        // Each side is rounded to an even number.
        expect(Math.abs(place.width - place.height * aspect)).toBeLessThanOrEqual(1 + aspect + 2 * Math.max(1, aspect));
        const filled = placePicture(aspect, reel, { ...FITTED, fit: 'fill' });
        expect(coveredShare(filled, reel)).toBeGreaterThan(0.999 - 4 / Math.min(reel.width, reel.height));
      }),
    );
  });

  test('out of its limits is refused with the field', () => {
    const bad: Framing[] = [
      { ...FITTED, scale: 0 },
      { ...FITTED, scale: NaN },
      { ...FITTED, x: 5 },
      { ...FITTED, y: Infinity },
    ];
    for (const framing of bad) expect(() => checkFraming(framing)).toThrow(/framing\./);
  });
});
