import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { H264, HEIGHT, makeNumberedClip, numberIn, WIDTH } from '../../test/numbered-clip.js';
import { filmstrip, stripLayout } from './proxy.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-strip-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** The numbers in a filmstrip's pictures. */
function numbersIn(strip: Buffer, count: number): number[] {
  const file = join(folder, 'strip.jpg');
  writeFileSync(file, strip);
  return Array.from({ length: count }, (_, i) => {
    const filters = `crop=iw/${count}:ih:${i}*iw/${count}:0,scale=${WIDTH}:${HEIGHT},format=gray`;
    const luma = execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-vf', filters, '-f', 'rawvideo', '-']);
    return numberIn(luma);
  });
}

describe('a filmstrip', () => {
  test.each([5, 100, 287, 500])('of %i frames has a picture at or just before each of its places', async (frames) => {
    const options = [...H264, '-g', '12', '-keyint_min', '12', '-sc_threshold', '0', '-bf', '0'];
    const file = await makeNumberedClip({ file: join(folder, `${frames}.mp4`), frames, rate: '60', options });
    const { step, count } = stripLayout(frames);
    const seen = numbersIn(await filmstrip(file, 'run', frames), count);
    const places = Array.from({ length: count }, (_, i) => i * step);
    expect(seen).toEqual(places.map((place) => (step < 12 ? place : 12 * Math.floor(place / 12))));
  });
});
