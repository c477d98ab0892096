import { spawnSync } from 'node:child_process';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { BT2100_HLG, BT2100_PQ, BT709, conversionOf, spaceOf, tagsOf, type ColourSpace } from '@idle-bend/core/colour';
import { frameBytes, parsePixelFormat, type Frame, type FrameFormat } from '@idle-bend/core/frame';
import { loadConverter } from '../kernels.js';

/** zscale (the zimg library) is the referee: it shares no code with ours. */
const named = ({ matrix, primaries, transfer, range }: ColourSpace, end: 'in' | '') =>
  `m${end}=${matrix}:p${end}=${primaries}:t${end}=${transfer === 'smpte170m' ? '601' : transfer}:r${end}=${range}`;
const converter = loadConverter();

const formatOf = (pixelFormat: string, space: ColourSpace, width: number, height: number): FrameFormat => ({
  width,
  height,
  layout: parsePixelFormat(pixelFormat)!,
  colour: tagsOf(space, 'left'),
  pixelAspect: { num: 1, den: 1 },
});

function ours(frame: Frame, pixelFormat: string, space: ColourSpace): Frame {
  const conversion = conversionOf(frame.format, { space, layout: parsePixelFormat(pixelFormat)! })!;
  const { to } = conversion;
  return {
    format: to,
    data: converter.convert(frame, conversion, new Uint8Array(frameBytes(to.layout, to.width, to.height))),
  };
}

function theirs(frame: Frame, from: [string, ColourSpace], to: [string, ColourSpace]): Uint8Array {
  const filter = `zscale=${named(from[1], 'in')}:${named(to[1], '')}:c=left:cin=left:dither=none`;
  const { width, height } = frame.format;
  const { status, stdout, stderr } = spawnSync(
    'ffmpeg',
    [
      '-v',
      'error',
      '-f',
      'rawvideo',
      '-pix_fmt',
      from[0],
      '-s',
      `${width}x${height}`,
      '-i',
      'pipe:0',
      '-vf',
      `${filter},format=${to[0]}`,
      '-f',
      'rawvideo',
      'pipe:1',
    ],
    { input: frame.data, maxBuffer: 2 ** 28 },
  );
  if (status !== 0) throw new Error(String(stderr));
  return stdout;
}

const samples = (data: Uint8Array, deep: boolean): ArrayLike<number> =>
  deep ? new Uint16Array(data.slice().buffer) : data;

/** Patches of colours, drawn in red, green and blue so that every code is one of a colour. */
function patches(pixelFormat: string, space: ColourSpace, size = 24): Frame {
  const rgb: FrameFormat = {
    ...formatOf('gbrp10le', { ...space, matrix: 'gbr', range: 'full' }, size * 8, size * 6),
    layout: parsePixelFormat('gbrp10le')!,
  };
  const plane = rgb.width * rgb.height;
  const data = new Uint16Array(plane * 3);
  for (let y = 0; y < rgb.height; y++)
    for (let x = 0; x < rgb.width; x++) {
      const [i, j] = [Math.floor(x / size), Math.floor(y / size)];
      const value = (n: number) => Math.round(1023 * (((i * 37 + j * 53 + n * 71 + i * j * n * 13) % 101) / 100));
      for (let n = 0; n < 3; n++) data[n * plane + y * rgb.width + x] = value(n);
    }
  const frame = { format: rgb, data: new Uint8Array(data.buffer) };
  return ours(frame, pixelFormat, space);
}

const BT601: ColourSpace = { matrix: 'smpte170m', primaries: 'smpte170m', transfer: 'smpte170m', range: 'limited' };
const PAL: ColourSpace = { matrix: 'bt470bg', primaries: 'bt470bg', transfer: 'smpte170m', range: 'limited' };
const WIDE: ColourSpace = { matrix: 'bt2020nc', primaries: 'bt2020', transfer: 'bt2020-10', range: 'limited' };
const FULL: ColourSpace = { ...BT709, range: 'full' };

describe('a picture in another colour space, against zscale', () => {
  test.each<[string, ColourSpace, string, ColourSpace, number]>([
    ['yuv444p', BT601, 'yuv444p', BT709, 1],
    ['yuv444p', PAL, 'yuv444p', BT709, 1],
    ['yuv444p', FULL, 'yuv444p', BT709, 1],
    ['yuv444p', BT709, 'yuv444p', FULL, 1],
    ['yuv420p', BT601, 'yuv420p', BT709, 2],
    ['yuv420p', BT709, 'yuv422p10le', BT709, 2],
    ['yuv422p10le', BT709, 'yuv420p', BT601, 2],
    ['yuv444p10le', BT709, 'yuv444p10le', WIDE, 2],
    ['yuv420p10le', WIDE, 'yuv420p10le', BT601, 4],
  ])('%s %j → %s %j within %i codes in the middle of every patch', (formatIn, from, formatOut, to, most) => {
    const size = 24;
    const frame = patches(formatIn, from, size);
    const converted = ours(frame, formatOut, to);
    const deep = /10le/.test(formatOut);
    const mine = samples(converted.data, deep);
    const other = samples(theirs(frame, [formatIn, from], [formatOut, to]), deep);
    expect(other.length).toBe(mine.length);
    const { width, height, layout } = converted.format;
    let worst = 0;
    let offset = 0;
    for (const plane of [0, 1, 2]) {
      const [sx, sy] = plane === 0 ? [0, 0] : [layout.chromaShiftX, layout.chromaShiftY];
      const [w, h] = [width >> sx, height >> sy];
      for (let j = 0; j < 6; j++)
        for (let i = 0; i < 8; i++) {
          const at = offset + ((j * size + size / 2) >> sy) * w + ((i * size + size / 2) >> sx);
          worst = Math.max(worst, Math.abs(mine[at]! - other[at]!));
        }
      offset += w * h;
    }
    expect(worst).toBeLessThanOrEqual(most);
  });
});

describe('conversions', () => {
  test('a picture that is in the space and layout already passes as it is', () => {
    expect(
      conversionOf(formatOf('yuv420p', BT709, 64, 36), { space: BT709, layout: parsePixelFormat('yuv420p')! }),
    ).toBeUndefined();
    expect(
      conversionOf(formatOf('yuv420p', PAL, 64, 36), {
        space: { ...PAL, transfer: 'bt709' },
        layout: parsePixelFormat('yuv420p')!,
      }),
    ).toBeUndefined();
  });

  test('there and back again, at ten bits, every colour of the standard range is within one code of eight', () => {
    fc.assert(
      fc.property(fc.constantFrom(BT601, PAL, FULL, WIDE), fc.integer({ min: 4, max: 12 }), (space, size) => {
        const frame = patches('yuv444p10le', BT709, size);
        const back = samples(ours(ours(frame, 'yuv444p16le', space), 'yuv444p10le', BT709).data, true);
        const was = samples(frame.data, true);
        let worst = 0;
        for (let i = 0; i < was.length; i++) worst = Math.max(worst, Math.abs(was[i]! - back[i]!));
        // What smaller primaries cannot hold is cut off on the way.
        const limit = space.primaries === 'smpte170m' || space.primaries === 'bt470bg' ? 60 : 4;
        expect(worst).toBeLessThanOrEqual(limit);
      }),
      { numRuns: 8 },
    );
  });

  test('high dynamic range: brightness rises with brightness, nothing is above white, 203 cd/m² becomes a bright tone and black stays black', () => {
    const width = 1024;
    const format = formatOf('yuv444p10le', BT2100_PQ, width, 2);
    const data = new Uint16Array(width * 6).fill(512);
    for (let y = 0; y < 2; y++)
      for (let x = 0; x < width; x++) data[y * width + x] = 64 + Math.round((876 * x) / (width - 1));
    const mapped = samples(ours({ format, data: new Uint8Array(data.buffer) }, 'yuv444p10le', BT709).data, true);
    const luma = Array.from({ length: width }, (_, x) => mapped[x]!);
    expect(luma[0]).toBe(64);
    for (let x = 1; x < width; x++) expect(luma[x]!).toBeGreaterThanOrEqual(luma[x - 1]!);
    expect(Math.max(...luma)).toBeLessThanOrEqual(941);
    // 4000 cd/m² and above are white.
    expect(luma[Math.ceil(0.9026 * 1023)]!).toBeGreaterThanOrEqual(938);
    expect(luma[Math.round(0.5807 * 1023)]!).toBeGreaterThan(600);
    expect(luma[Math.round(0.5807 * 1023)]!).toBeLessThan(900);
  });

  test('standard white in a reel of high dynamic range lies at 203 cd/m²', () => {
    const format = formatOf('yuv444p10le', BT709, 16, 2);
    const data = new Uint16Array(16 * 6).fill(512);
    data.fill(940, 0, 32);
    const pq = samples(ours({ format, data: new Uint8Array(data.buffer) }, 'yuv444p10le', BT2100_PQ).data, true);
    // SMPTE ST 2084: 203 cd/m² is 58 % of the signal.
    expect(Math.abs(pq[8]! - (64 + 876 * 0.5807))).toBeLessThanOrEqual(1);
    const hlg = samples(ours({ format, data: new Uint8Array(data.buffer) }, 'yuv444p10le', BT2100_HLG).data, true);
    // ITU-R BT.2408: 75 %.
    expect(Math.abs(hlg[8]! - (64 + 876 * 0.75))).toBeLessThanOrEqual(4);
  });

  test('alpha stays, at the new depth; where there was none it is opaque; grey has no colour', () => {
    const format = formatOf('yuva444p', BT601, 8, 4);
    const data = new Uint8Array(32 * 4).fill(128);
    data.fill(77, 96);
    const deep = samples(ours({ format, data }, 'yuva444p10le', BT709).data, true);
    expect(deep[100]).toBe(Math.round((77 * 1023) / 255));
    const opaque = ours(
      { format: formatOf('yuv420p', BT601, 8, 4), data: new Uint8Array(48).fill(128) },
      'yuva444p',
      BT709,
    );
    expect(opaque.data.at(-1)).toBe(255);
    const grey = ours({ format: formatOf('gray', BT709, 8, 4), data: new Uint8Array(32).fill(90) }, 'yuv420p', BT709);
    expect([...new Set(grey.data.subarray(0, 32)), ...new Set(grey.data.subarray(32))]).toEqual([90, 128]);
  });

  test('odd sizes keep their last column and row', () => {
    const format = formatOf('yuv420p', BT601, 5, 3);
    const frame = { format, data: new Uint8Array(15 + 12).fill(128) };
    const { data } = ours(frame, 'yuv420p', FULL);
    expect(new Set(data.subarray(15))).toEqual(new Set([128]));
    expect(new Set(data.subarray(0, 15)).size).toBe(1);
  });

  test.each<[string, Partial<FrameFormat['colour']>, number, ColourSpace['matrix'], ColourSpace['primaries']]>([
    ['nothing said, high', {}, 1080, 'bt709', 'bt709'],
    ['nothing said, low', {}, 480, 'smpte170m', 'smpte170m'],
    ['nothing said, 576 lines', {}, 576, 'bt470bg', 'bt470bg'],
    ['only the curve said', { transfer: 'smpte2084' }, 480, 'bt2020nc', 'bt2020'],
    ['only the matrix said', { matrix: 'bt709' }, 240, 'bt709', 'bt709'],
  ])('%s: the usual rule', (_, colour, height, matrix, primaries) => {
    const tags = {
      range: undefined,
      matrix: undefined,
      primaries: undefined,
      transfer: undefined,
      chromaLocation: undefined,
      ...colour,
    };
    expect(spaceOf({ colour: tags, height, layout: parsePixelFormat('yuv420p')! })).toMatchObject({
      matrix,
      primaries,
    });
  });
});
