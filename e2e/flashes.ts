import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { beatsAt, type Strike } from '../packages/core/src/beats/test-drums.js';
import { makeDrumFile } from '../packages/media/test/drum-file.js';
import { H264 } from '../packages/media/test/numbered-clip.js';
import { evenClip, expect, openBench, projectOfFilm } from './fixtures.js';
import type { RunningServer } from '../apps/server/test/running-server.js';

export const BEATS = beatsAt(100, 0.4, 8);
/** Snares alone: each is a click one can find again in a file. */
const CLICKS = BEATS.map((time): Strike => ({ time, drum: 'snare' }));
export const FLASH = 62;

const music = (folder: string) => {
  const file = join(folder, 'clicks.wav');
  return existsSync(file) ? file : makeDrumFile(file, CLICKS, 8);
};

/** Grey for two seconds at 60 fps, one frame of it white; with so many more frames before and after. */
function flashing(folder: string, spare: number): string {
  const file = join(folder, `flash-${spare}.mp4`);
  if (existsSync(file)) return file;
  const lit = `drawbox=c=white:t=fill:enable='eq(n,${FLASH + spare})'`;
  const { status, stderr } = spawnSync(
    'ffmpeg',
    [
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      `color=c=0x404040:s=320x192:r=60:d=${2 + (2 * spare) / 60},${lit}`,
      ...H264,
      '-crf',
      '12',
      file,
    ],
    { encoding: 'utf8' },
  );
  expect(status, stderr).toBe(0);
  return file;
}

/** A reel of three clips of the flashing film, two seconds each, its bench open; `spare` source frames are left on either side. */
export async function threeFlashes(
  page: Page,
  server: RunningServer,
  folder: string,
  spare = 0,
): Promise<{ id: string; footage: string }> {
  const { id, footage } = await projectOfFilm(server, {
    file: flashing(folder, spare),
    name: 'flash',
    clips: (footage) => ['a', 'b', 'c'].map((name) => evenClip(footage, name, name, { t: 48, s: spare + 120 }, spare)),
  });
  await openBench(page, server, id);
  return { id, footage };
}

/** Drops the clicks into the footage room and lays them under the reel; back on the bench their beats are known. */
export async function layMusic(page: Page, folder: string): Promise<void> {
  await page.getByRole('link', { name: 'Footage' }).click();
  await page.getByLabel('Footage files').setInputFiles(music(folder));
  const card = page.getByRole('listitem', { name: 'clicks.wav' });
  await expect(card.getByText('lay it under the reel')).toBeVisible({ timeout: 60_000 });
  await card.getByRole('button', { name: 'Under the reel' }).click();
  await expect(page.getByLabel('Beats a minute')).not.toHaveValue('none');
}
