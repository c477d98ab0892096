import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { H264, makeNumberedClip, numberIn, readNumbers } from '../../test/numbered-clip.js';
import { SourceReader } from '../decode/source-reader.js';
import { indexSoon } from './estimated-index.js';
import { indexFrames } from './frame-index.js';
import { probe } from './probe.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-estimated-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const B_FRAMES = [...H264, '-bf', '3', '-g', '50'];
const MPEG2 = ['-c:v', 'mpeg2video', '-q:v', '3', '-bf', '2', '-g', '12', '-pix_fmt', 'yuv420p'];

describe('frames of a file whose headers do not list them', () => {
  test.each([
    ['broadcast.ts', '50', B_FRAMES],
    ['late.ts', '30000/1001', [...B_FRAMES, '-output_ts_offset', '3600.5']],
    ['camera.m2ts', '60000/1001', MPEG2],
    ['deck.mxf', '25', MPEG2],
    ['old.avi', '24', B_FRAMES],
    ['each.avi', '60', ['-c:v', 'mjpeg', '-q:v', '3', '-pix_fmt', 'yuvj420p']],
    ['programme.mpg', '30', MPEG2],
  ])(
    '%s at %s: estimated with their rate and their first, and each picture is the one it is taken for',
    async (name, rate, options) => {
      const file = await makeNumberedClip({ file: join(folder, name), frames: 400, rate, options });
      const facts = await probe(file);
      const estimated = await indexSoon(file, facts, { estimateFrom: 0 });
      const exact = await indexFrames(file, facts);
      expect(readNumbers(file)).toHaveLength(400);
      expect(exact).toMatchObject({ grid: { frames: 400 } });
      expect(exact.isEstimated).toBeUndefined();
      expect(estimated).toMatchObject({ isEstimated: true, grid: { rate: exact.grid.rate, variable: false } });
      expect(estimated.times[0]).toBe(exact.times[0]);
      expect(Math.abs(estimated.grid.frames - 400)).toBeLessThanOrEqual(4);

      const reader = new SourceReader(file, facts, estimated);
      for (const n of [0, 1, 210, 211, 250, 120, 119, 390, 7]) {
        const [frame] = await reader.frames([n]);
        expect([n, numberIn(frame!.data)]).toEqual([n, n]);
      }
      reader.close();
    },
  );

  test('what it says beyond the last frame is told, and the rest goes on', async () => {
    const file = await makeNumberedClip({ file: join(folder, 'end.ts'), frames: 200, rate: '50', options: B_FRAMES });
    const facts = await probe(file);
    const longer = { ...facts, video: { ...facts.video!, durationSeconds: 6 } };
    const estimated = await indexSoon(file, longer, { estimateFrom: 0 });
    expect(estimated.grid.frames).toBe(300);
    const reader = new SourceReader(file, facts, estimated);
    await expect(reader.frames([290])).rejects.toThrow(/end\.ts: frame 290 could not be decoded/);
    expect(numberIn((await reader.frames([150]))[0]!.data)).toBe(150);
    reader.close();
  });

  test('a small one, and one whose headers list them, are listed at once', async () => {
    const small = await makeNumberedClip({ file: join(folder, 'small.ts'), frames: 20, rate: '50', options: B_FRAMES });
    expect((await indexSoon(small, await probe(small))).isEstimated).toBeUndefined();
    const listed = await makeNumberedClip({ file: join(folder, 'listed.mp4'), frames: 20, rate: '50', options: H264 });
    expect((await indexSoon(listed, await probe(listed), { estimateFrom: 0 })).isEstimated).toBeUndefined();
  });
});
