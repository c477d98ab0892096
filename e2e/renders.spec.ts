import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { RENDER_FORMAT_NAMES, RENDER_FORMATS, type RenderFormatName } from '@idle-bend/core/render';
import type { Page } from '@playwright/test';
import type { RunningServer } from '../apps/server/test/running-server.js';
import { readNumbers } from '../packages/media/test/numbered-clip.js';
import { allKept, choose, expect, openBench, projectOfClip, test } from './fixtures.js';

/** Begins the render that is chosen on the page, and saves its file by its link once it is done. */
async function rendered(page: Page, server: RunningServer, id: string, folder: string): Promise<string> {
  const rows = async () => (await server.get<{ id: string; status: string }[]>(`/api/projects/${id}/renders`)).body;
  const had = new Set((await rows()).map((row) => row.id));
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  const done = await server.until(
    async () => (await rows()).find((row) => !had.has(row.id)),
    (row) => row !== undefined && ['done', 'failed'].includes(row.status),
  );
  expect(done).toMatchObject({ status: 'done' });
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.locator(`a[href*="${done!.id}"]`).first().click(),
  ]);
  const file = join(folder, `${done!.id}-${download.suggestedFilename()}`);
  await download.saveAs(file);
  return file;
}

/** The codecs of a file's streams, and how many pictures were decoded, as ffprobe has it. */
function probed(file: string): { codecs: string[]; pictures: number } {
  const { stdout, status, stderr } = spawnSync(
    'ffprobe',
    [
      '-v',
      'error',
      '-count_frames',
      '-show_entries',
      'stream=codec_name,codec_type,nb_read_frames',
      '-of',
      'json',
      file,
    ],
    { encoding: 'utf8' },
  );
  expect(status, stderr).toBe(0);
  const { streams } = JSON.parse(stdout) as {
    streams: Record<'codec_name' | 'codec_type' | 'nb_read_frames', string>[];
  };
  const picture = streams.find(({ codec_type: type }) => type === 'video');
  return { codecs: streams.map((stream) => stream.codec_name), pictures: Number(picture?.nb_read_frames ?? 0) };
}

/** How often some bytes are in a file. */
const count = (file: string, bytes: string) => readFileSync(file, 'latin1').split(bytes).length - 1;

const FRAMES = 48;

/** What somebody else finds in a file of each format. */
const CHECKS: Readonly<Record<RenderFormatName, (file: string) => void>> = {
  h264: (file) => expect(probed(file)).toEqual({ codecs: ['h264', 'aac'], pictures: FRAMES }),
  hevc: (file) => expect(probed(file)).toEqual({ codecs: ['hevc', 'aac'], pictures: FRAMES }),
  vp9: (file) => expect(probed(file)).toEqual({ codecs: ['vp9', 'opus'], pictures: FRAMES }),
  av1: (file) => expect(probed(file)).toEqual({ codecs: ['av1', 'opus'], pictures: FRAMES }),
  'prores-422': (file) => expect(probed(file)).toMatchObject({ codecs: ['prores', 'pcm_s24le'], pictures: FRAMES }),
  'prores-hq': (file) => expect(probed(file)).toMatchObject({ codecs: ['prores', 'pcm_s24le'], pictures: FRAMES }),
  'prores-4444': (file) => expect(probed(file)).toMatchObject({ codecs: ['prores', 'pcm_s24le'], pictures: FRAMES }),
  ffv1: (file) => expect(probed(file)).toEqual({ codecs: ['ffv1', 'flac'], pictures: FRAMES }),
  // A central entry for every picture, each named twice in the archive.
  png: (file) => expect([count(file, 'PK\u0001\u0002'), count(file, '.png')]).toEqual([FRAMES, 2 * FRAMES]),
  tiff: (file) => expect([count(file, 'PK\u0001\u0002'), count(file, '.tif')]).toEqual([FRAMES, 2 * FRAMES]),
  gif: (file) => {
    const { codecs, pictures } = probed(file);
    expect(codecs).toEqual(['gif']);
    expect(pictures).toBeGreaterThan(FRAMES / 3);
  },
  webp: (file) => {
    expect(readFileSync(file, 'latin1')).toMatch(/^RIFF[^]{4}WEBP/);
    expect(count(file, 'ANMF')).toBeGreaterThan(FRAMES / 3);
  },
  wav: (file) => expect(probed(file)).toEqual({ codecs: ['pcm_s24le'], pictures: 0 }),
};

test('every format is rendered from the page, and is what its name says to another reader', async ({
  page,
  server,
  clip,
  folder,
}) => {
  test.setTimeout(600_000);
  const file = join(folder, 'sounding-too.mp4');
  const hum = ['-f', 'lavfi', '-i', 'sine=440:d=2:r=48000', '-c:v', 'copy', '-c:a', 'aac', '-shortest', file];
  expect(spawnSync('ffmpeg', ['-v', 'error', '-y', '-i', clip, ...hum]).status).toBe(0);
  const { id } = await projectOfClip(server, file);
  await page.goto(`${server.url}/projects/${id}/renders`);
  for (const name of RENDER_FORMAT_NAMES) {
    const { title, suits } = RENDER_FORMATS[name];
    await page.getByRole('radio', { name: title, exact: true }).click();
    await expect(page.getByText(suits)).toBeVisible();
    await test.step(title, async () => CHECKS[name](await rendered(page, server, id, folder)));
  }
});

test('the reel’s range, or one clip of it, is rendered alone', async ({ page, server, clip, folder }) => {
  const { id } = await projectOfClip(server, clip, ['first', 'second']);
  await openBench(page, server, id);
  for (let i = 0; i < 4; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Shift+I');
  await page.keyboard.press('PageDown');
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Shift+O');
  await allKept(page);
  await page.getByRole('link', { name: 'Renders' }).click();
  await page.getByRole('radio', { name: 'MKV · FFV1' }).click();
  const part = page.getByLabel('How much of it', { exact: true });
  await part.getByRole('radio', { name: 'Its range, 10 frames' }).click();
  const numbers = readNumbers(await rendered(page, server, id, folder));
  expect(numbers).toEqual([...Array.from({ length: 8 }, (_, k) => 5 * (40 + k)), 0, 5]);
  await part.getByRole('radio', { name: 'One clip' }).click();
  await choose(page, 'Which', 'second');
  expect(readNumbers(await rendered(page, server, id, folder))).toEqual(
    Array.from({ length: FRAMES }, (_, k) => 5 * k),
  );
});
