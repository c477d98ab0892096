import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Clip, Project } from '@idle-bend/core/model';
import { straightMap } from '@idle-bend/core/time-map';
import { RunningServer } from '../apps/server/test/running-server.js';
import { readNumbers } from '../packages/media/test/numbered-clip.js';
import { allKept, expect, FRAMES, kept, openBench, projectOfClip, test } from './fixtures.js';
// @ts-expect-error the soak is plain JavaScript, for the script that runs it
import { soakBrowser } from './soak-browser.mjs';

test('renders: a format chosen, what it asks is told, another put before it, paused, and gone on with; a file for every clip', async ({
  page,
  server,
  clip,
  folder,
}) => {
  const { id } = await projectOfClip(server, clip, ['first', 'second']);
  await page.goto(`${server.url}/projects/${id}/renders`);
  await page.getByRole('radio', { name: 'MOV · ProRes 422 HQ' }).click();
  await expect(page.getByText('To edit and grade on.')).toBeVisible();
  await expect(page.getByLabel('Estimated cost')).toContainText('96 frames');
  await page.getByLabel('How much of it', { exact: true }).getByRole('radio', { name: 'Every clip' }).click();
  await expect(page.getByLabel('Estimated cost')).toContainText('2 files');
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  const row = page.getByRole('listitem', { name: 'Marble Parade - 02 second.mov' });
  await expect(row.getByText('done')).toBeVisible({ timeout: 240_000 });
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    row.getByRole('link', { name: 'Download' }).click(),
  ]);
  await download.saveAs(join(folder, 'second.mov'));
  expect(readNumbers(join(folder, 'second.mov'))).toEqual(
    Array.from({ length: 48 }, (_, k) => Math.min(FRAMES - 1, 5 * k)),
  );

  // One that is paused lets the next one go, and goes on afterwards. It is long enough for a hand to get there.
  const { version, document } = (await server.get<{ version: number; document: Project }>(`/api/projects/${id}`)).body;
  const [first, ...others] = document.reel.items;
  const long = { ...first, map: straightMap(3000, 0, FRAMES - 1) } as Clip;
  const changed = { ...document, reel: { ...document.reel, items: [long, ...others] } };
  await server.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'another window' });
  await page.getByLabel('How much of it', { exact: true }).getByRole('radio', { name: 'Reel' }).click();
  await page.getByRole('radio', { name: 'TIFF pictures' }).click();
  await expect(page.getByLabel('Estimated cost')).toContainText(`${3000 + 48} frames`);
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  const pictures = page.getByRole('listitem', { name: 'Marble Parade.zip' });
  await pictures.getByRole('button', { name: 'Pause Marble Parade.zip' }).click();
  await expect(pictures.getByText('paused')).toBeVisible();
  await pictures.getByRole('button', { name: 'Resume' }).click();
  await expect(pictures.getByText('done')).toBeVisible({ timeout: 240_000 });
});

test('a bundle is saved and opened again as a project of its own; its footage is found by its content', async ({
  page,
  server,
  clip,
  folder,
}) => {
  const { id } = await projectOfClip(server, clip);
  await page.goto(`${server.url}/projects/${id}/renders`);
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Bundle', exact: true }).click(),
  ]);
  const file = join(folder, 'parade.zip');
  await download.saveAs(file);
  expect(readFileSync(file).subarray(0, 2).toString()).toBe('PK');
  await page.goto(server.url);
  await page.getByLabel('Bundle').setInputFiles(file);
  await expect(page).toHaveURL(/projects\/(?!marble-parade)[\w-]+\/footage/);
  const card = page.getByRole('listitem', { name: 'rail-120.mp4' });
  await expect(card.getByText('Its file is missing')).toBeVisible();
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    card.getByRole('button', { name: 'Find it…' }).click(),
  ]);
  await chooser.setFiles(clip);
  await expect(card.getByRole('button', { name: 'Bend this clip' })).toBeEnabled({ timeout: 120_000 });
  await expect(card.getByText('not here')).toHaveCount(0);
});

test('an earlier state is one press away, and one undo brings back what was', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await page.keyboard.press('c');
  await allKept(page);
  expect((await kept(server, id)).reel.cues).toHaveLength(1);
  await page.getByRole('button', { name: 'Earlier states' }).click();
  const states = page.getByRole('dialog').getByRole('listitem');
  await expect(states.last()).toContainText('0 clips');
  await states.last().getByRole('button', { name: 'Go back to it' }).click();
  await expect.poll(async () => (await kept(server, id)).reel.items.length).toBe(0);
  // What was there is a state now, with what it shows and what had changed.
  await page.getByRole('button', { name: 'Earlier states' }).click();
  await expect(states.first()).toContainText('“rail” is there, footage “rail” is there, “cue 1” is there.');
  await expect(states.first().locator('[style*="strip"]')).toHaveCount(3);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(async () => (await kept(server, id)).reel.cues.length).toBe(1);
});

test('beyond loopback the page asks for the token, and what is wrong with the machine is said on top', async ({
  browser,
}) => {
  const token = 'marbles-roll-downhill-42';
  const server = await RunningServer.start(undefined, ['--host', '0.0.0.0'], {
    IDLE_BEND_TOKEN: token,
    IDLE_BEND_FFMPEG: '/nowhere/ffmpeg',
  });
  const page = await browser.newPage();
  await page.goto(server.url);
  await page.getByLabel('Token of this server').fill('marbles-roll-uphill-42');
  await page.getByRole('button', { name: 'Open' }).click();
  await expect(page.getByRole('alert')).toHaveText('That is not the token.');
  await page.getByLabel('Token of this server').fill(token);
  await page.getByRole('button', { name: 'Open' }).click();
  await page.getByLabel('Name of a new project').fill('Marble Parade');
  await page.getByRole('button', { name: 'Create' }).click();
  await expect(page.getByRole('alert')).toContainText('/nowhere/ffmpeg cannot be run; correct IDLE_BEND_FFMPEG.');
  await page.close();
  await server.discard();
});

test('twenty seconds of edits drawn at random: no error, and the heap stays where it is', async ({ server }) => {
  const { edits, heaps } = await soakBrowser(server.url, 20);
  expect(edits).toBeGreaterThan(40);
  // The long form looks at the slope; here a leak of a whole document an edit would be seen.
  expect(heaps.at(-1)! - heaps[2]!).toBeLessThan(40);
});
