import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { blackFrame, NO_COLOUR_TAGS } from './frame.js';
import { bytesPerSample, frameBytes, parsePixelFormat, planeSizes } from './pixel-format.js';

describe('pixel formats', () => {
  test.each([
    ['yuv420p', 'yuv', 8, 1, 1, false],
    ['yuvj420p', 'yuv', 8, 1, 1, false],
    ['yuv422p10le', 'yuv', 10, 1, 0, false],
    ['yuva444p12le', 'yuv', 12, 0, 0, true],
    ['yuv411p', 'yuv', 8, 2, 0, false],
    ['gbrp10le', 'rgb', 10, 0, 0, false],
    ['gbrap', 'rgb', 8, 0, 0, true],
    ['gray12le', 'gray', 12, 0, 0, false],
  ])('%s', (name, model, bitDepth, chromaShiftX, chromaShiftY, alpha) =>
    expect(parsePixelFormat(name)).toEqual({ model, bitDepth, chromaShiftX, chromaShiftY, alpha }),
  );

  test.each(['nv12', 'rgb24', 'yuv420p10be', 'pal8', 'yuv999p', ''])(
    '%s is not planar, and is not guessed at',
    (name) => expect(parsePixelFormat(name)).toBeUndefined(),
  );

  test('planes: known sizes, odd ones rounded up', () => {
    const of = (name: string, width: number, height: number) =>
      planeSizes(parsePixelFormat(name)!, width, height).map((p) => [p.width, p.height, p.bytes]);
    expect(of('yuv420p', 1920, 1080)).toEqual([
      [1920, 1080, 2073600],
      [960, 540, 518400],
      [960, 540, 518400],
    ]);
    expect(of('yuv420p', 321, 193)).toEqual([
      [321, 193, 61953],
      [161, 97, 15617],
      [161, 97, 15617],
    ]);
    expect(of('yuv422p10le', 5, 3)).toEqual([
      [5, 3, 30],
      [3, 3, 18],
      [3, 3, 18],
    ]);
    expect(of('yuva444p', 2, 2)).toHaveLength(4);
    expect(of('gray', 7, 7)).toEqual([[7, 7, 49]]);
  });
});

describe('black', () => {
  test('is at the floor of the range, colour in the middle, alpha opaque', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('yuv420p', 'yuv422p10le', 'yuva444p12le', 'gbrp', 'gray'),
        fc.integer({ min: 1, max: 33 }),
        fc.integer({ min: 1, max: 9 }),
        fc.constantFrom('limited' as const, 'full' as const, undefined),
        (name, width, height, range) => {
          const layout = parsePixelFormat(name)!;
          const { data } = blackFrame({
            width,
            height,
            layout,
            colour: { ...NO_COLOUR_TAGS, range },
            pixelAspect: { num: 1, den: 1 },
          });
          expect(data.length).toBe(frameBytes(layout, width, height));
          const samples = bytesPerSample(layout) === 2 ? new Uint16Array(data.buffer) : data;
          const unit = 2 ** (layout.bitDepth - 8);
          expect(samples[0]).toBe(layout.model === 'rgb' || range === 'full' ? 0 : 16 * unit);
          if (layout.model === 'yuv') expect(samples[width * height]).toBe(128 * unit);
          if (layout.alpha) expect(samples.at(-1)).toBe(2 ** layout.bitDepth - 1);
        },
      ),
    );
  });
});
