import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { openSource } from '../probe/source.js';
import { SourceReader } from '../decode/source-reader.js';
import { writeFields } from './write-fields.js';

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'idle-bend-fields-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A white bar that moves 4 pixels in every fiftieth of a second, filmed at 25 interlaced. */
const BAR = "geq=lum='if(between(X,8+N*4,8+N*4+15),220,30)':cb=128:cr=128";

test('25 interlaced frames a second become 50 whole ones, each of its own instant', async () => {
  const file = join(folder, 'fields.mkv');
  spawnSync('ffmpeg', [
    '-v',
    'error',
    '-f',
    'lavfi',
    '-i',
    `color=black:s=320x192:r=50:d=1,format=yuv420p,${BAR}`,
    '-vf',
    'tinterlace=interleave_top',
    '-c:v',
    'ffv1',
    '-field_order',
    'tt',
    file,
  ]);
  const interlaced = await openSource(file);
  expect(interlaced.facts.video!.interlaced).toBe(true);
  expect(interlaced.index.grid).toMatchObject({ rate: { num: 25, den: 1 }, frames: 25 });
  const made = join(folder, 'frames.mkv');
  await writeFields(file, interlaced.facts, made);
  const source = await openSource(made);
  expect(source.facts.video!.interlaced).toBe(false);
  expect(source.index.grid).toMatchObject({ rate: { num: 50, den: 1 }, frames: 50 });
  const reader = new SourceReader(source.file, source.facts, source.index);
  for (const n of [6, 7, 20, 21, 40]) {
    const [frame] = await reader.frames([n]);
    const line = frame!.data.subarray(100 * 320, 101 * 320);
    const middle = line.reduce((sum, v, x) => sum + (v > 125 ? x : 0), 0) / line.filter((v) => v > 125).length;
    expect(Math.abs(middle - (8 + n * 4 + 7.5))).toBeLessThan(1);
  }
  reader.close();
  await expect(writeFields(made, source.facts, join(folder, 'again.mkv'))).rejects.toThrow(
    /frames.mkv is not interlaced/,
  );
});
