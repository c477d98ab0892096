import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { rate } from '../time/rate.js';
import { piecesOf, PROXY_GROUP } from './pieces.js';

describe('the pieces of a proxy', () => {
  test('are whole groups of about two seconds that hold every frame once', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 5000 }),
        fc.constantFrom(rate(24), rate(60000, 1001), rate(120), rate(25), rate(10), rate(1)),
        (frames, fps) => {
          const layout = piecesOf({ frames, rate: fps });
          expect(layout.frames % PROXY_GROUP).toBe(0);
          if (fps.num / fps.den >= 24) expect(Math.abs((layout.frames * fps.den) / fps.num - 2)).toBeLessThan(0.3);
          const all = Array.from({ length: layout.count }, (_, piece) => layout.framesIn(piece));
          expect(all.reduce((sum, n) => sum + n, 0)).toBe(frames);
          expect(all.every((n) => n > 0)).toBe(true);
          for (const frame of [0, frames - 1, frames >> 1]) {
            const piece = layout.of(frame);
            expect(frame - layout.first(piece)).toBeLessThan(layout.framesIn(piece));
            expect(frame).toBeGreaterThanOrEqual(layout.first(piece));
          }
        },
      ),
    );
  });
});
