import { spawnSync } from 'node:child_process';
import { chmodSync, existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { blackFrame, NO_COLOUR_TAGS, parsePixelFormat } from '@idle-bend/core/frame';
import { codecOptions, outputKind } from './codec.js';
import { Encoder } from './encoder.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-encoder-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const format = {
  width: 64,
  height: 48,
  layout: parsePixelFormat('yuv420p')!,
  colour: NO_COLOUR_TAGS,
  pixelAspect: { num: 1, den: 1 },
};
const open = (file: string) =>
  Encoder.open({ file, kind: outputKind(file), rate: { num: 24, den: 1 }, format, pixelFormat: 'yuv420p' });

describe('what an output name asks for', () => {
  test.each([
    ['a.mp4', undefined, 'mp4', 'h264'],
    ['a.MKV', undefined, 'matroska', 'ffv1'],
    ['a.mkv', 'h264', 'matroska', 'h264'],
    ['a.mov', undefined, 'mov', 'prores-hq'],
    ['a.mov', 'prores', 'mov', 'prores-hq'],
    ['f/%d.tif', undefined, 'image2', 'tiff'],
    ['f/%05d.png', undefined, 'image2', 'png'],
  ])('%s %s', (file, codec, muxer, result) => expect(outputKind(file, codec)).toEqual({ muxer, codec: result }));

  test.each([
    ['a.xyz', undefined, /^-o: a\.xyz ends in none of/],
    ['a.png', undefined, /need a place for the number/],
    ['a.mp4', 'ffv1', /^--codec: "ffv1" does not go into \.mp4; use h264 or hevc/],
  ])('%s %s is refused', (file, codec, message) => expect(() => outputKind(file, codec)).toThrow(message));

  test('depth is kept where the codec has it', () => {
    expect(codecOptions('ffv1', 'yuv422p10le').pixelFormat).toBe('yuv422p10le');
    expect(codecOptions('h264', 'yuv422p10le').pixelFormat).toBe('yuv420p10le');
    expect(codecOptions('h264', 'yuv420p').pixelFormat).toBe('yuv420p');
    expect(codecOptions('prores-hq', 'yuv420p').pixelFormat).toBe('yuv422p10le');
  });
});

describe('writing', () => {
  test('a finished file stands in its place, and nothing beside it', async () => {
    const file = join(folder, 'done', 'clip.mkv');
    const encoder = await open(file);
    for (let i = 0; i < 5; i++) await encoder.write(blackFrame(format));
    expect(existsSync(file)).toBe(false);
    await encoder.finish();
    expect(readdirSync(join(folder, 'done'))).toEqual(['clip.mkv']);
  });

  test('a discarded one leaves nothing, and an old file of that name stays until the new one is whole', async () => {
    const file = join(folder, 'old.mkv');
    writeFileSync(file, 'the old one');
    const encoder = await open(file);
    await encoder.write(blackFrame(format));
    await encoder.discard();
    expect(readdirSync(folder).filter((name) => name.includes('old'))).toEqual(['old.mkv']);
  });

  test.each([
    ['yuv420p', 7680, 4320],
    ['gbrap16le', 4096, 2160],
    ['gbrap16le', 8192, 4320],
    ['gray', 15, 4000],
    ['yuv422p10le', 16, 16],
  ])('a lossless picture of %s, %d × %d, is written', (pixelFormat, width, height) => {
    const { args } = codecOptions('ffv1', pixelFormat, { width, height });
    const picture = [
      '-f',
      'lavfi',
      '-i',
      `color=gray:s=${width}x${height}:r=1:d=1`,
      '-frames:v',
      '1',
      '-pix_fmt',
      pixelFormat,
    ];
    expect(
      spawnSync('ffmpeg', ['-v', 'error', ...picture, ...args, '-f', 'null', '-'], { encoding: 'utf8' }),
    ).toMatchObject({ status: 0, stderr: '' });
  });

  test('a frame of the wrong size breaks the encoder, and the sentence names the file', async () => {
    const file = join(folder, 'broken.mkv');
    const encoder = await open(file);
    await encoder.write(blackFrame(format));
    await encoder.write({ format, data: new Uint8Array(17) });
    // A torn last picture is cut off by the encoder or complained of; either way no half file is left.
    await encoder.finish().catch((error: Error) => expect(error.message).toContain('broken.mkv could not be written'));
    expect(readdirSync(folder).filter((name) => name.includes('.part'))).toEqual([]);
  });

  test('a folder that is a file is said', async () => {
    const place = join(folder, 'flat');
    writeFileSync(place, '');
    chmodSync(place, 0o600);
    await expect(open(join(place, 'clip.mkv'))).rejects.toThrow(/flat cannot be written/);
  });
});
