import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { PUSH_WAYS, type Effects, type Passage } from '@idle-bend/core/look';
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
const between = (from: Frame, to: Frame, passage: Passage, come: number, pace = 0) =>
  samplesOf(accents.between(from, to, { cut: 0, come, pace, passage })).slice();

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
    const before = between(out, into, { kind: 'push', way, gap: 0 }, 0.5);
    // Half of either is in sight, side by side.
    const goes = way === 'left' ? before[5]! : before[20]!;
    const comes = way === 'left' ? before[20]! : before[5]!;
    expect(goes).toBe(way === 'left' ? 21 : 4);
    expect(comes).toBe(way === 'left' ? 104 : 121);
  });

  test('on the move it is blurred along its way', () => {
    const [out, into] = [drawn('gray', () => 20), drawn('gray', () => 220)];
    const push = { kind: 'push', way: 'left', gap: 0 } as const;
    const [sharp, blurred] = [between(out, into, push, 0.5), between(out, into, push, 0.5, 0.5)];
    const greys = (row: Uint8Array | Uint16Array) =>
      [...row.subarray(0, WIDTH)].filter((v) => v > 30 && v < 210).length;
    expect([greys(sharp), greys(blurred) > 4]).toEqual([0, true]);
  });

  test.each(['yuv420p', 'yuv420p10le', 'yuv444p'])(
    'half way through a dissolve is half way between both, in %s',
    (name) => {
      const [from, to] = [drawn(name, (x) => 40 + x), drawn(name, (x, y) => 200 - x - y)];
      const half = between(from, to, { kind: 'dissolve' }, 0.5);
      const step = name.endsWith('10le') ? 4 : 1;
      half.forEach((value, i) => {
        const mean = (samplesOf(from)[i]! + samplesOf(to)[i]!) / 2;
        expect(Math.abs(value - mean)).toBeLessThanOrEqual(step);
      });
      expect([...between(from, to, { kind: 'dissolve' }, 0)]).toEqual([...samplesOf(from)]);
      expect([...between(from, to, { kind: 'dissolve' }, 1)]).toEqual([...samplesOf(to)]);
    },
  );

  test.each(PUSH_WAYS)('a slide to the %s keeps both pictures whole, and black between them', (way) => {
    const [from, to] = [drawn('gray', (x, y) => 60 + x + y), drawn('gray', (x, y) => 140 + x + y)];
    const across = way === 'left' || way === 'right';
    const size = across ? WIDTH : HEIGHT;
    for (const come of [0, 0.2, 0.5, 0.7, 1]) {
      const seen = between(from, to, { kind: 'push', way, gap: 0.25 }, come);
      const far = 2 * Math.round((come * 1.25 * size) / 2);
      const gap = size / 4;
      for (let y = 0; y < HEIGHT; y++)
        for (let x = 0; x < WIDTH; x++) {
          // From the edge the first picture goes to.
          const along = way === 'left' ? x : way === 'right' ? WIDTH - 1 - x : way === 'up' ? y : HEIGHT - 1 - y;
          const place = along + far < size ? along + far : along + far - size - gap;
          const back = (at: number) => (way === 'left' || way === 'up' ? at : size - 1 - at);
          const [px, py] = across ? [back(place), y] : [x, back(place)];
          const expected = along + far < size ? 60 + px + py : place < 0 ? 16 : 140 + px + py;
          expect(seen[y * WIDTH + x]).toBe(expected);
        }
    }
  });

  test('while the second grows out of the first, what is around it stays', () => {
    const [from, to] = [drawn('yuv420p', () => 50), drawn('yuv420p', () => 200)];
    const seen = between(from, to, { kind: 'zoom', scale: 4 }, 0.5);
    // Half as large: a quarter of the picture on either side.
    const row = [...seen.subarray(8 * WIDTH, 9 * WIDTH)];
    expect(row).toEqual([...Array(8).fill(50), ...Array(16).fill(200), ...Array(8).fill(50)]);
    expect([...seen.subarray(0, 4 * WIDTH)].every((v) => v === 50)).toBe(true);
    expect([...between(from, to, { kind: 'zoom', scale: 4 }, 1)]).toEqual([...samplesOf(to)]);
  });

  test('streaks keep what is the same along them, and even out the rest', () => {
    const rows = drawn('gray', (_x, y) => 40 + 8 * y);
    expect([...samplesOf(accents.streaked(rows, { degrees: 0, share: 0.5 }))]).toEqual([...samplesOf(rows)]);
    const columns = drawn('gray', (x) => (x % 2 === 0 ? 50 : 150));
    const seen = samplesOf(accents.streaked(columns, { degrees: 0, share: 0.5 }));
    // At the edges there is less to even out.
    const inner = [...seen].filter((_, i) => i % WIDTH >= 10 && i % WIDTH < WIDTH - 10);
    expect(Math.max(...inner.map((v) => Math.abs(v - 100)))).toBeLessThan(8);
    expect(accents.streaked(columns, { degrees: 90, share: 0.01 })).toBe(columns);
  });
});
