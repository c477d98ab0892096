import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { H264 } from '../packages/media/test/numbered-clip.js';
import { evenClip, expect, openBench, projectOfFilm, type Clip } from './fixtures.js';
import type { RunningServer } from '../apps/server/test/running-server.js';

const SOURCE_FRAMES = 48;
/** Frames of the source that are covered with noise: nothing can be followed there. */
export const NOISY = [20, 21, 22] as const;

type Flaw = 'noise' | 'stutter';

/** A slow pan over an uneven picture, with noise over a few frames, or with every fifth frame shown twice instead of the next. */
export function panned(folder: string, flaw: Flaw): string {
  const file = join(folder, `panned-${flaw}.mp4`);
  if (existsSync(file)) return file;
  const noise = {
    noise: `noise=alls=100:allf=t:enable='between(n,${NOISY[0]},${NOISY.at(-1)})'`,
    stutter: "select='not(eq(mod(n,5),4))',fps=24",
  }[flaw];
  const { status, stderr } = spawnSync(
    'ffmpeg',
    [
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      `mandelbrot=s=480x270:rate=24:start_scale=0.02,trim=end_frame=1,loop=${SOURCE_FRAMES}:1,crop=320:192:'20+2*n':30,${noise}`,
      '-frames:v',
      String(SOURCE_FRAMES),
      ...H264,
      '-crf',
      '10',
      file,
    ],
    { encoding: 'utf8' },
  );
  expect(status, stderr).toBe(0);
  return file;
}

/** A reel of one clip (or so many), the pan at a quarter of its speed under Flow, its motion looked at; its bench open. */
export async function slowPan(
  page: Page,
  server: RunningServer,
  folder: string,
  change: Partial<Clip> = {},
  flaw: Flaw = 'noise',
  count = 1,
): Promise<{ id: string; footage: string }> {
  const { id, footage } = await projectOfFilm(server, {
    file: panned(folder, flaw),
    name: 'pan',
    clips: (footage) =>
      Array.from({ length: count }, (_, i) => ({
        ...evenClip(footage, i === 0 ? 'c' : `c${i}`, 'pan', { t: 160, s: 40 }),
        method: 'flow',
        ...change,
      })),
    until: 'motion',
  });
  await openBench(page, server, id);
  return { id, footage };
}
