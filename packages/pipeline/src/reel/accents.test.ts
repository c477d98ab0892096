import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import type { Effects } from '@idle-bend/core/look';
import { NO_COLOUR_TAGS, parsePixelFormat, planeSizes, type Frame } from '@idle-bend/core/frame';
import { Kernels } from '@idle-bend/kernels';
import { Accents } from './accents.js';

const module = new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm'));
const accents = new Accents(new Kernels(module));
const [WIDTH, HEIGHT] = [32, 16];

/** A frame of a pixel format whose samples are drawn on 8 bits' scale. */
function drawn(name: string, value: (x: number, y: number, plane: number) => number): Frame {
  const layout = parsePixelFormat(name)!;
  const planes = planeSizes(layout, WIDTH, HEIGHT);
  const data = new Uint8Array(planes.reduce((sum, { bytes }) => sum + bytes, 0));
  const samples = layout.bitDepth > 8 ? new Uint16Array(data.buffer) : data;
  let at = 0;
  planes.forEach(({ width, height }, p) => {
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) samples[at++] = value(x, y, p) * 2 ** (layout.bitDepth - 8);
  });
  return {
    format: {
      width: WIDTH,
      height: HEIGHT,
      layout,
      colour: { ...NO_COLOUR_TAGS, matrix: 'bt709' },
      pixelAspect: { num: 1, den: 1 },
    },
    data,
  };
}
const samplesOf = ({ format, data }: Frame) =>
  format.layout.bitDepth > 8 ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data;
const flashed = (frame: Frame, flash: NonNullable<Effects['flash']>) => samplesOf(accents.flashed(frame, flash));
const pushed = (frame: Frame, push: NonNullable<Effects['push']>, goes: boolean, other: Frame) =>
  samplesOf(accents.pushed(frame, other, push, goes));

describe('what accents do to pixels', () => {
  test.each(['yuv420p', 'yuv420p10le', 'yuv444p'])(
    'a white flash of half its strength is half way to white, in %s',
    (name) => {
      const frame = drawn(name, (_x, _y, plane) => (plane === 0 ? 35 : 90));
      const out = flashed(frame, { colour: 'white', amount: 0.5 });
      const step = name.endsWith('10le') ? 4 : 1;
      expect(out[0]! / step).toBeCloseTo((35 + 235) / 2, -0.3);
      expect(out.at(-1)! / step).toBeCloseTo((90 + 128) / 2, -0.3);
    },
  );

  test('a colour is what its matrix makes of it; black and inverted too; twice inverted is as it was', () => {
    const frame = drawn('yuv444p', (x, _y, plane) => (plane === 0 ? 40 + x : 100 + plane));
    const red = flashed(frame, { colour: '#ff0000', amount: 1 });
    // BT.709 red in limited range: 63, 102, 240.
    expect([red[0], red[WIDTH * HEIGHT], red[2 * WIDTH * HEIGHT]]).toEqual([63, 102, 240]);
    expect(flashed(frame, { colour: 'black', amount: 1 })[5]).toBe(16);
    const inverted = flashed(frame, { colour: 'inverted', amount: 1 }).slice();
    expect([inverted[0], inverted[WIDTH * HEIGHT]]).toEqual([251 - 40, 256 - 101]);
    const again = flashed({ ...frame, data: inverted as Uint8Array }, { colour: 'inverted', amount: 1 });
    expect([...again]).toEqual([...frame.data]);
  });

  test.each(['left', 'right'] as const)('pushed to the %s, one picture goes and the other comes with it', (way) => {
    const [out, into] = [
      drawn('yuv420p', (px, _y, plane) => (plane === 0 ? px : 50)),
      drawn('yuv420p', (px, _y, plane) => (plane === 0 ? 100 + px : 60)),
    ];
    const push = { cut: 0, way, come: 0.5, pace: 0 };
    const [before, after] = [pushed(out, push, true, into).slice(), pushed(into, push, false, out).slice()];
    expect([...before]).toEqual([...after]);
    // Half of either is in sight, side by side.
    const goes = way === 'left' ? before[5]! : before[20]!;
    const comes = way === 'left' ? before[20]! : before[5]!;
    expect(goes).toBe(way === 'left' ? 21 : 4);
    expect(comes).toBe(way === 'left' ? 104 : 121);
  });

  test('on the move it is blurred along its way', () => {
    const [out, into] = [drawn('gray', () => 20), drawn('gray', () => 220)];
    const sharp = pushed(out, { cut: 0, way: 'left', come: 0.5, pace: 0 }, true, into).slice();
    const blurred = pushed(out, { cut: 0, way: 'left', come: 0.5, pace: 0.5 }, true, into);
    const between = (row: Uint8Array | Uint16Array) =>
      [...row.subarray(0, WIDTH)].filter((v) => v > 30 && v < 210).length;
    expect([between(sharp), between(blurred) > 4]).toEqual([0, true]);
  });
});
