import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { draftSize } from './settings.js';

test.each([
  [320, 192, 320, 192],
  [1280, 720, 960, 540],
  [3840, 2160, 960, 540],
  [1080, 1920, 540, 960],
  [2048, 858, 960, 402],
  [640, 640, 540, 540],
])('the draft of a reel of %d × %d is %d × %d', (width, height, ...wanted) => {
  const draft = draftSize({ width, height });
  expect([draft.width, draft.height]).toEqual(wanted);
});

test('a draft is no larger than the reel or the bench’s picture, has even sides where it is smaller, and keeps the shape to a pixel', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 4096 }), fc.integer({ min: 1, max: 4096 }), (w, h) => {
      const [width, height] = [2 * w, 2 * h];
      const draft = draftSize({ width, height });
      expect([draft.width <= width, draft.height <= height, draft.width % 2, draft.height % 2]).toEqual([
        true,
        true,
        0,
        0,
      ]);
      expect([Math.max(draft.width, draft.height) <= 960, Math.min(draft.width, draft.height) <= 540]).toEqual([
        true,
        true,
      ]);
      const scale = Math.min(1, 960 / Math.max(width, height), 540 / Math.min(width, height));
      expect(Math.abs(draft.width - Math.max(2, width * scale))).toBeLessThanOrEqual(1.001);
      expect(Math.abs(draft.height - Math.max(2, height * scale))).toBeLessThanOrEqual(1.001);
    }),
  );
});
