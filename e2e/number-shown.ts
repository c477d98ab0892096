import { spawnSync } from 'node:child_process';
import type { Page } from '@playwright/test';
import { HEIGHT, numberIn, WIDTH } from '../packages/media/test/numbered-clip.js';

/** Pictures of numbered clips this high have the number at their top, so that words over the picture hide nothing of it. */
export const TALL = 576;
/** The part of its pictures that has the number. */
export const NUMBER = `crop=iw:ih*32/${TALL}:0:0`;

/** The number in the picture on the page, read from a photograph of it. */
export async function numberShown(page: Page): Promise<number> {
  const png = await page.getByTestId('picture-itself').screenshot();
  const { stdout } = spawnSync(
    'ffmpeg',
    [
      '-v',
      'error',
      '-f',
      'png_pipe',
      '-i',
      '-',
      '-vf',
      `${NUMBER},scale=${WIDTH}:${HEIGHT},format=gray`,
      '-f',
      'rawvideo',
      '-',
    ],
    { input: png, maxBuffer: 2 ** 26 },
  );
  return numberIn(stdout);
}
