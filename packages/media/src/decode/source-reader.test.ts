import { copyFileSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { H264, HEIGHT, makeNumberedClip, numberIn, WIDTH } from '../../test/numbered-clip.js';
import { indexFrames } from '../probe/frame-index.js';
import { openPictures } from './pictures.js';
import { SourceReader, type ReaderOptions } from './source-reader.js';
import { openSource, type OpenedSource } from '../probe/source.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-reader-'));
const FRAMES = 150;
const FRAME_BYTES = WIDTH * HEIGHT * 1.5;

let long: OpenedSource;
let open: OpenedSource;
beforeAll(async () => {
  const longFile = await makeNumberedClip({
    file: join(folder, 'long.mp4'),
    frames: FRAMES,
    rate: '60',
    options: [...H264, '-g', '1000', '-bf', '3'],
  });
  const openFile = await makeNumberedClip({
    file: join(folder, 'open.mkv'),
    frames: FRAMES,
    rate: '24',
    options: [...H264, '-x264-params', 'open-gop=1:keyint=20:min-keyint=20:bframes=3:b-adapt=0:scenecut=0'],
  });
  long = await openSource(longFile);
  open = await openSource(openFile);
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Asks for frames one request after another and reads the numbers that come. */
async function numbers(
  source: OpenedSource,
  requests: readonly (readonly number[])[],
  options?: ReaderOptions,
): Promise<number[][]> {
  const reader = new SourceReader(source.file, source.facts, source.index, options);
  try {
    const seen: number[][] = [];
    for (const wanted of requests) seen.push((await reader.frames(wanted)).map((frame) => numberIn(frame.data)));
    return seen;
  } finally {
    reader.close();
  }
}
const singles = (list: readonly number[]) => list.map((n) => [n]);
const upTo = (n: number) => Array.from({ length: n }, (_, i) => i);

describe('a reader', () => {
  test('gives every frame by its number: forward, backward, and pairs as Mix asks for them', async () => {
    for (const source of [long, open]) {
      expect(await numbers(source, singles(upTo(FRAMES)))).toEqual(singles(upTo(FRAMES)));
      const back = upTo(FRAMES).reverse();
      expect(await numbers(source, singles(back))).toEqual(singles(back));
      const pairs = upTo(FRAMES - 1)
        .reverse()
        .map((n) => [n, n + 1]);
      expect(await numbers(source, pairs)).toEqual(pairs);
    }
  });

  test('with hardly any room to keep pictures the frames are the same', async () => {
    const back = upTo(FRAMES).reverse();
    expect(await numbers(open, singles(back), { cacheBytes: 5 * FRAME_BYTES })).toEqual(singles(back));
    const tight = singles([140, 3, 77, 78, 2, 149, 0]);
    expect(await numbers(long, tight, { cacheBytes: 1 })).toEqual(tight);
  });

  test('jumps anywhere, onto key frames, beside them, past them', async () => {
    const jumps = [0, 149, 19, 20, 21, 39, 41, 40, 100, 99, 61, 5, 59, 120, 118, 149, 148, 1];
    for (const source of [long, open]) expect(await numbers(source, singles(jumps))).toEqual(singles(jumps));
  });

  test('the same frame twice, and in both places of a pair, is decoded once and given twice', async () => {
    expect(await numbers(open, [[50, 50], [50], [50, 51], [51, 50]])).toEqual([[50, 50], [50], [50, 51], [51, 50]]);
  });

  test('says which frame there is not', async () => {
    await expect(numbers(open, [[FRAMES]])).rejects.toThrow(
      `open.mkv has no frame ${FRAMES}; it has 0 to ${FRAMES - 1}.`,
    );
    await expect(numbers(open, [[-1]])).rejects.toThrow(/no frame -1/);
    await expect(numbers(open, [[1.5]])).rejects.toThrow(/no frame 1.5/);
  });

  test('a file that went away after it was opened is called missing, with its name and without its path', async () => {
    const file = join(folder, 'gone.mkv');
    copyFileSync(open.file, file);
    const gone = await openSource(file);
    rmSync(file);
    await expect(numbers(gone, [[3]])).rejects.toThrow(/^gone\.mkv: there is no such file\.$/);
    await expect(indexFrames(file, gone.facts)).rejects.toThrow(/^gone\.mkv: there is no such file\.$/);
  });

  test('delivers another size, the picture fitted inside and padded', async () => {
    const reader = openPictures(open, { size: { width: WIDTH * 2, height: HEIGHT } });
    const [frame] = await reader.frames([33]);
    expect(frame!.format).toMatchObject({ width: WIDTH * 2, height: HEIGHT, pixelAspect: { num: 1, den: 1 } });
    const middle = Uint8Array.from(
      { length: WIDTH * HEIGHT },
      (_, i) => frame!.data[Math.floor(i / WIDTH) * WIDTH * 2 + WIDTH / 2 + (i % WIDTH)]!,
    );
    expect(numberIn(middle)).toBe(33);
    expect(frame!.data[0]).toBe(16);
    reader.close();
  });
});
