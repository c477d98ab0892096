import { existsSync, mkdtempSync, readFileSync, rmSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { H264, makeNumberedClip } from '../../test/numbered-clip.js';
import { cacheBeside, openCached } from './index-cache.js';
import { openSource } from './source.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-known-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('what was found once is what is found again, under the name it has now; another file in its place, or a damaged note, is looked into', async () => {
  const file = await makeNumberedClip({
    file: join(folder, 'rail.mp4'),
    frames: 30,
    rate: '60',
    options: [...H264, '-bf', '2', '-g', '10'],
  });
  const found = await openCached(file, 'rail.mp4');
  expect(found).toEqual(await openSource(file));
  const note = readFileSync(cacheBeside(file), 'utf8');
  const again = await openCached(file, 'rail, take 2');
  expect(again).toEqual({ ...found, facts: { ...found.facts, name: 'rail, take 2' } });
  // It is the note that answers: a frame struck out of it is missing.
  const told = JSON.parse(note);
  writeFileSync(cacheBeside(file), JSON.stringify({ ...told, times: told.times.slice(1) }));
  expect((await openCached(file, 'rail.mp4')).index.times).toHaveLength(29);

  writeFileSync(cacheBeside(file), note.slice(0, 100));
  expect(await openCached(file, 'rail.mp4')).toEqual(found);
  expect(readFileSync(cacheBeside(file), 'utf8')).toBe(note);

  await makeNumberedClip({ file, frames: 12, rate: '24', options: H264 });
  expect((await openCached(file, 'rail.mp4')).index.times).toHaveLength(12);
  const { atime, mtimeMs } = statSync(file);
  utimesSync(file, atime, new Date(mtimeMs + 5000));
  expect((await openCached(file, 'rail.mp4')).index.grid.frames).toBe(12);
  expect(JSON.parse(readFileSync(cacheBeside(file), 'utf8')).modifiedMs).toBe(statSync(file).mtimeMs);
});

test('what cannot be opened says so and leaves no note', async () => {
  const file = join(folder, 'letter.mp4');
  writeFileSync(file, 'Dear editor,');
  await expect(openCached(file, 'letter.mp4')).rejects.toThrow(/letter\.mp4/);
  await expect(openCached(join(folder, 'none.mp4'), 'none.mp4')).rejects.toThrow('none.mp4: there is no such file.');
  expect([file, join(folder, 'none.mp4')].map((f) => existsSync(cacheBeside(f)))).toEqual([false, false]);
});
