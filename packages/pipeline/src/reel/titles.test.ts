import { describe, expect, test } from '@jest/globals';
import { colourFrame, NO_COLOUR_TAGS, parsePixelFormat, planeSizes, type FrameFormat } from '@idle-bend/core/frame';
import type { TitleShown } from '@idle-bend/core/look';
import { setLine } from '@idle-bend/core/title';
import { Titles } from './titles.js';

const formatOf = (pixels: string): FrameFormat => ({
  ...{
    width: 160,
    height: 90,
    layout: parsePixelFormat(pixels)!,
    colour: NO_COLOUR_TAGS,
    pixelAspect: { num: 1, den: 1 },
  },
});
const title: TitleShown = { text: 'On cue', size: 0.3, x: 0.5, y: 0.5, colour: 'white', words: [1, 0.5] };

describe.each(['yuv420p', 'yuv422p10le', 'yuv444p', 'gbrp', 'gray', 'yuva420p'])('titles over %s', (pixels) => {
  const format = formatOf(pixels);
  const picture = colourFrame(format, [0.2, 0.4, 0.6]);
  const white = colourFrame(format, [1, 1, 1]);
  const samples = (data: Uint8Array) =>
    format.layout.bitDepth > 8 ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data;

  test('each word is as much there as it has come; the rest of the picture stays', async () => {
    const { data } = await new Titles().over(picture, [title], () => white);
    const [out, before, letters] = [data, picture.data, white.data].map(samples) as [
      Uint8Array,
      Uint8Array,
      Uint8Array,
    ];
    const words = setLine({ ...title, width: 160, height: 90 });
    // Luma, green or grey, pixel by pixel, from the letters' own coverage.
    const share = new Float64Array(160 * 90);
    words.forEach(({ coverage: { left, top, width, height, data: covered } }, i) => {
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++)
          share[(top + y) * 160 + left + x]! += (title.words[i]! * covered[y * width + x]!) / 255;
    });
    let full = 0;
    share.forEach((amount, n) => {
      expect(Math.abs(out[n]! - (before[n]! + (letters[n]! - before[n]!) * amount))).toBeLessThanOrEqual(0.5001);
      if (amount === 1) full++;
    });
    expect(full).toBeGreaterThan(100);
    // Coarser planes: as much in all as in the first, within rounding.
    let start = 160 * 90;
    for (const plane of planeSizes(format.layout, 160, 90).slice(1)) {
      const count = plane.width * plane.height;
      const far = letters[start]! - before[start]!;
      if (far !== 0) {
        let sum = 0;
        for (let n = start; n < start + count; n++) sum += (out[n]! - before[n]!) / far;
        const whole = share.reduce((a, b) => a + b, 0);
        expect(Math.abs((sum * 160 * 90) / count / whole - 1)).toBeLessThan(0.03);
      }
      start += count;
    }
  });

  test('without any of it the picture is the same', async () => {
    const { data } = await new Titles().over(picture, [{ ...title, words: [0, 0] }], () => white);
    expect(data).toEqual(picture.data);
  });
});
