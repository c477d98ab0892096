import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { NO_EFFECTS, type Effects } from '@idle-bend/core/look';
import {
  blackFrame,
  NO_COLOUR_TAGS,
  parsePixelFormat,
  planeSizes,
  type Frame,
  type FrameFormat,
} from '@idle-bend/core/frame';
import type { Framing, Similarity } from '@idle-bend/core/model';
import type { ResolvedFrame, ClipFrame } from '@idle-bend/core/resolve';
import { Kernels } from '@idle-bend/kernels';
import fc from 'fast-check';
import { ReelCompositor } from './compositor.js';

const module = new WebAssembly.Module(readFileSync('packages/kernels/dist/kernels.wasm'));
const kernels = new Kernels(module);
const formatOf = (name: string, width: number, height: number): FrameFormat => ({
  width,
  height,
  layout: parsePixelFormat(name)!,
  colour: { ...NO_COLOUR_TAGS, matrix: 'bt709', range: 'limited' },
  pixelAspect: { num: 1, den: 1 },
});

function drawn(format: FrameFormat, value: (x: number, y: number, plane: number) => number): Frame {
  const planes = planeSizes(format.layout, format.width, format.height);
  const data = new Uint8Array(planes.reduce((sum, { bytes }) => sum + bytes, 0));
  const samples = format.layout.bitDepth > 8 ? new Uint16Array(data.buffer) : data;
  let at = 0;
  planes.forEach(({ width, height }, p) => {
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) samples[at++] = value(x, y, p) * 2 ** (format.layout.bitDepth - 8);
  });
  return { format, data };
}

interface Laid {
  readonly framing?: Framing | null;
  readonly laid?: Similarity;
  readonly effects?: Partial<Effects>;
}

const resolvedOf = ({ framing = null, laid, effects = {} }: Laid, beside?: ClipFrame): ResolvedFrame => ({
  clipFrame: {
    clip: { framing },
    source: { id: 's' },
    sample: { kind: 'source', frame: 0 },
    laid,
    k: 0,
    position: 0,
  } as unknown as ClipFrame,
  effects: { ...NO_EFFECTS, ...effects },
  beside,
  goes: true,
});

/** What the compositor makes of one picture on a reel of that format. */
async function made(picture: Frame, reel: FrameFormat, how: Laid): Promise<Frame> {
  const compositor = new ReelCompositor(reel, {
    kernels,
    composer: () => Promise.resolve({ compose: () => Promise.resolve(picture) }),
  });
  return compositor.frame(resolvedOf(how));
}
const gray = formatOf('gray', 32, 16);
const luma = async (picture: Frame, reel: FrameFormat, how: Laid) => (await made(picture, reel, how)).data;

describe('a picture laid into the reel’s', () => {
  test('one that needs nothing is handed on, not copied', async () => {
    const picture = drawn(gray, (x) => 4 * x);
    expect((await made(picture, gray, {})).data).toBe(picture.data);
  });

  test('without a clip it is black', async () => {
    const compositor = new ReelCompositor(gray, {
      kernels,
      composer: () => Promise.reject(new Error('not wanted')),
    });
    const frame = await compositor.frame({ clipFrame: undefined, effects: NO_EFFECTS, beside: undefined, goes: false });
    expect(frame.data).toEqual(blackFrame(gray).data);
  });

  test.each(['yuv420p', 'yuv422p10le', 'yuv444p', 'gbrp'])(
    'a tall one stands in the middle of black, sample for sample, in %s',
    async (name) => {
      const picture = drawn(formatOf(name, 16, 16), (x, y, plane) => 40 + 3 * x + 5 * y + plane);
      const reel = formatOf(name, 32, 16);
      const wanted = drawn(reel, () => 0);
      blackFrame(reel).data.forEach((v, i) => (wanted.data[i] = v));
      const size = reel.layout.bitDepth > 8 ? 2 : 1;
      let [from, to] = [0, 0];
      planeSizes(reel.layout, 16, 16).forEach((plane, i) => {
        const wide = planeSizes(reel.layout, 32, 16)[i]!;
        const left = (wide.width - plane.width) / 2;
        for (let y = 0; y < plane.height; y++)
          wanted.data.set(
            picture.data.subarray(from + y * plane.width * size, from + (y + 1) * plane.width * size),
            to + (y * wide.width + left) * size,
          );
        from += plane.bytes;
        to += wide.bytes;
      });
      expect((await made(picture, reel, {})).data).toEqual(wanted.data);
    },
  );

  test('closer by two, the middle half fills the picture; moved, what was beside it comes in', async () => {
    const slope = drawn(gray, (x) => 4 * x);
    const closer = (await luma(slope, gray, { effects: { scale: 2 } })).slice();
    expect([closer[8 * 32 + 15], closer[8 * 32], closer[8 * 32 + 31]]).toEqual([61, 31, 93]);
    expect((await luma(slope, gray, { effects: { x: 0.25 } }))[8 * 32 + 20]).toBe(4 * 12);
  });

  test('held steady: turned half round it is the other way round, moved by a share of its width; chroma goes along', async () => {
    const format = formatOf('yuv422p', 32, 16);
    const picture = drawn(format, (x, y, plane) => (plane === 0 ? 4 * x + y : 8 * x + plane));
    const turned = (await made(picture, format, { laid: { scale: 1, angle: Math.PI, x: 0, y: 0 } })).data.slice();
    expect(turned[3 * 32 + 5]).toBe(picture.data[12 * 32 + 26]);
    expect(turned[32 * 16 + 2 * 16 + 3]).toBe(picture.data[32 * 16 + 13 * 16 + 12]);
    const moved = (await made(picture, format, { laid: { scale: 1, angle: 0, x: 0.125, y: 0.0625 } })).data;
    expect(moved[8 * 32 + 20]).toBe(picture.data[6 * 32 + 16]);
  });

  test('framed, held steady and closer at once is one step: a straight slope stays the straight slope it has to be', async () => {
    const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });
    const all = fc.record({
      s: number(1, 1.5),
      fx: number(-0.1, 0.1),
      fy: number(-0.1, 0.1),
      z: number(1, 1.3),
      angle: number(-0.1, 0.1),
      lx: number(-0.05, 0.05),
      ly: number(-0.05, 0.05),
      scale: number(1, 1.3),
      x: number(-0.05, 0.05),
      y: number(-0.05, 0.05),
    });
    await fc.assert(
      fc.asyncProperty(all, async ({ s, fx, fy, z, angle, lx, ly, scale, x, y }) => {
        const [width, height] = [128, 72];
        const format = formatOf('gray', width, height);
        const slope = drawn(format, (px, py) => 40 + px + 0.5 * py);
        const out = await luma(slope, format, {
          framing: { fit: 'fit', scale: s, x: fx, y: fy },
          laid: { scale: z, angle, x: lx, y: ly },
          effects: { scale, x, y },
        });
        // The other way round, by hand: a point of the picture is steadied, framed and drawn closer in turn.
        const even = (v: number) => 2 * Math.round(v / 2);
        const [w, h] = [even(width * s), even(height * s)];
        const [left, top] = [
          2 * Math.round(((width - w) / 2 + fx * width) / 2),
          2 * Math.round(((height - h) / 2 + fy * height) / 2),
        ];
        const there = (px: number, py: number) => {
          const [dx, dy] = [px - (width - 1) / 2, py - (height - 1) / 2];
          const [c, n] = [Math.cos(angle) * z, Math.sin(angle) * z];
          const [hx, hy] = [c * dx - n * dy + lx * width, n * dx + c * dy + ly * width];
          const [gx, gy] = [(hx * w) / width + left + w / 2 - width / 2, (hy * h) / height + top + h / 2 - height / 2];
          return [gx * scale + x * width, gy * scale + y * height] as const;
        };
        let seen = 0;
        for (let py = 4; py < height - 4; py += 3)
          for (let px = 4; px < width - 4; px += 3) {
            const [ox, oy] = there(px, py).map((v, i) => v + [(width - 1) / 2, (height - 1) / 2][i]!) as [
              number,
              number,
            ];
            if (ox < 1 || oy < 1 || ox > width - 2 || oy > height - 2) continue;
            // Between samples of the result, which is a plane there.
            const [x0, y0] = [Math.floor(ox), Math.floor(oy)];
            const at = (i: number, j: number) => out[(y0 + j) * width + x0 + i]!;
            const [u, v] = [ox - x0, oy - y0];
            const value = (1 - v) * ((1 - u) * at(0, 0) + u * at(1, 0)) + v * ((1 - u) * at(0, 1) + u * at(1, 1));
            expect(Math.abs(value - (40 + px + 0.5 * py))).toBeLessThan(1.6);
            seen++;
          }
        expect(seen).toBeGreaterThan(50);
      }),
      { numRuns: 40 },
    );
  });

  test('much smaller, nothing is skipped: fine stripes become grey', async () => {
    const stripes = drawn(formatOf('gray', 256, 128), (x) => (x % 2 === 0 ? 40 : 200));
    const out = await luma(stripes, gray, { framing: { fit: 'fit', scale: 0.5, x: 0, y: 0 } });
    const middle = [...out.subarray(8 * 32 + 10, 8 * 32 + 22)];
    expect(Math.max(...middle.map((v) => Math.abs(v - 120)))).toBeLessThanOrEqual(1);
  });

  test('while one pushes the other both are laid as their clips say', async () => {
    const [out, into] = [drawn(gray, (x) => 20 + x), drawn(formatOf('gray', 16, 16), () => 200)];
    const beside = {
      clip: { id: 'b', framing: null },
      source: { id: 'b' },
      sample: { kind: 'source', frame: 0 },
    } as unknown as ClipFrame;
    const composer = (_: unknown, { id }: { readonly id: string }) =>
      Promise.resolve({ compose: () => Promise.resolve(id === 'b' ? into : out) });
    const compositor = new ReelCompositor(gray, { kernels, composer });
    const across = { cut: 5, come: 0.5, pace: 0, passage: { kind: 'push', way: 'left', gap: 0 } } as const;
    const { data } = await compositor.frame(resolvedOf({ effects: { across } }, beside));
    // The right half of the one that goes, then the left half of the one that comes: black, and its picture from a quarter on.
    expect([...data.subarray(0, 32)]).toEqual([
      ...Array.from({ length: 16 }, (_, x) => 36 + x),
      ...Array(8).fill(16),
      ...Array(8).fill(200),
    ]);
  });

  test('two that turn leave no corner empty, at any size and angle; turned all the way it is as it lies', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom([64, 36], [36, 64], [40, 40] as const),
        fc.double({ min: -180, max: 180, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        async ([width, height], degrees, come) => {
          const format = formatOf('gray', width, height);
          const both = drawn(format, () => 120);
          const composer = () => Promise.resolve({ compose: () => Promise.resolve(both) });
          const compositor = new ReelCompositor(format, { kernels, composer });
          const across = { cut: 5, come, pace: 0, passage: { kind: 'turn', degrees } } as const;
          const { clipFrame } = resolvedOf({});
          const { data } = await compositor.frame(resolvedOf({ effects: { across } }, clipFrame));
          expect(Math.min(...data)).toBeGreaterThanOrEqual(119);
        },
      ),
    );
    const [from, to] = [drawn(gray, () => 90), drawn(gray, (x, y) => 40 + x + 4 * y)];
    const composer = (_: unknown, { id }: { readonly id: string }) =>
      Promise.resolve({ compose: () => Promise.resolve(id === 'b' ? to : from) });
    const compositor = new ReelCompositor(gray, { kernels, composer });
    const across = { cut: 5, come: 1, pace: 0, passage: { kind: 'turn', degrees: 30 } } as const;
    const beside = { clip: { framing: null }, source: { id: 'b' }, sample: { kind: 'source', frame: 0 } };
    const { data } = await compositor.frame(resolvedOf({ effects: { across } }, beside as unknown as ClipFrame));
    expect([...data]).toEqual([...to.data]);
  });

  test('turned the way of a clock’s hands: what was at the top goes to the right', async () => {
    const square = formatOf('gray', 32, 32);
    const top = drawn(square, (_x, y) => (y < 8 ? 220 : 30));
    const composer = () => Promise.resolve({ compose: () => Promise.resolve(top) });
    const compositor = new ReelCompositor(square, { kernels, composer });
    // The first picture alone, a quarter turned.
    const across = { cut: 5, come: 0.5, pace: 0, passage: { kind: 'turn', degrees: 180 } } as const;
    const { clipFrame } = resolvedOf({});
    const { data } = await compositor.frame(resolvedOf({ effects: { across } }, clipFrame));
    // Half of it is of the second, a quarter turned back: what was at the top is on both sides there.
    expect([data[16 * 32 + 30]!, data[16 * 32 + 1]!, data[16 * 32 + 16]!]).toEqual([125, 125, 30]);
  });
});
