import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { OWN_SOUND, type Project } from '@idle-bend/core/model';
import type { Page } from '@playwright/test';
import { H264 } from '../packages/media/test/numbered-clip.js';
import { expect, openBench, type Clip } from './fixtures.js';
import type { RunningServer } from '../apps/server/test/running-server.js';

const SOURCE_FRAMES = 48;
/** Frames of the source that are covered with noise: nothing can be followed there. */
export const NOISY = [20, 21, 22] as const;

type Flaw = 'noise' | 'stutter';

/** A slow pan over an uneven picture, with noise over a few frames, or with every fifth frame shown twice instead of the next. */
function panned(folder: string, flaw: Flaw): string {
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

/** A reel of one clip, the pan at a quarter of its speed under Flow, its motion looked at; its bench open. */
export async function slowPan(
  page: Page,
  server: RunningServer,
  folder: string,
  change: Partial<Clip> = {},
  flaw: Flaw = 'noise',
): Promise<{ id: string; footage: string }> {
  const { id, version, document } = await server.newProject();
  const { id: footage } = await server.upload(id, panned(folder, flaw));
  await server.until(
    async () => (await server.footage(id)).find((f) => f.id === footage),
    (f) => f?.motion === 'ready',
  );
  const rate = { num: 24, den: 1 };
  const hard = { widthFrames: 0, ease: 'soft' as const };
  const map = {
    vertices: [
      { t: 0, s: 0 },
      { t: 160, s: 40 },
    ],
    bends: [hard, hard],
  };
  const clip: Clip = {
    kind: 'clip',
    id: 'c',
    name: 'pan',
    sourceId: footage,
    map,
    method: 'flow',
    tuning: null,
    reachMethods: [],
    mends: [],
    end: 'hold',
    ties: [],
    locks: [],
    limits: null,
    versions: [],
    pin: null,
    fills: false,
    framing: null,
    blur: null,
    steady: null,
    sound: OWN_SOUND,
    ...change,
  };
  const changed: Project = {
    ...document,
    sources: [
      {
        id: footage,
        name: 'pan',
        frames: SOURCE_FRAMES,
        nativeRate: rate,
        readAs: rate,
        moments: [],
        droppedRepeats: null,
      },
    ],
    reel: { ...document.reel, width: 320, height: 192, items: [clip] },
  };
  const answer = await server.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'setup' });
  expect(answer.status, JSON.stringify(answer.body)).toBe(200);
  await openBench(page, server, id);
  return { id, footage };
}
