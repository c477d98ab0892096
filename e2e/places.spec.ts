import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import type { Project } from '@idle-bend/core/model';
import { H264, makeNumberedClip } from '../packages/media/test/numbered-clip.js';
import { allKept, clipOf, expect, kept, openBench, projectOfClip, shownAt, test } from './fixtures.js';

const mapOf = (project: Project) => clipOf(project).map;

test('two windows: the other’s change is followed, or the choice is the editor’s', async ({
  page,
  browser,
  context,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const other = await context.newPage();
  await openBench(other, server, id);
  await page.keyboard.press('c');
  await allKept(page);
  await expect(other.getByRole('group', { name: 'Reel' }).getByText('cue 1')).toBeVisible();

  // The other window cannot reach the server while this one goes on.
  await other.route('**/document', (route) => route.abort());
  await other.keyboard.press('Shift+ArrowRight');
  await other.keyboard.press('c');
  await expect(other.getByText(/Waiting for the server/)).toBeVisible();
  await page.keyboard.press('End');
  await page.keyboard.press('c');
  await allKept(page);
  await other.unroute('**/document');
  await expect(other.getByRole('alertdialog')).toBeVisible();
  await other.getByRole('button', { name: 'Keep this window’s' }).click();
  await allKept(other);
  expect((await kept(server, id)).reel.cues.map((c) => c.frame)).toEqual([0, 10]);
  await expect(page.getByRole('group', { name: 'Reel' }).getByText('cue 2')).toBeVisible();
  // What the other window did is not this one's to undo; its own cue is gone already.
  await page.keyboard.press('Control+z');
  await allKept(page);
  expect((await kept(server, id)).reel.cues.map((c) => c.frame)).toEqual([0, 10]);

  // A window that could not hear the server for a while catches up once it does.
  const away = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const third = await away.newPage();
  await openBench(third, server, id);
  const cueIn = (window: Page, name: string) => window.getByRole('group', { name: 'Reel' }).getByText(name);
  await expect(cueIn(third, 'cue 1')).toBeVisible();
  await away.setOffline(true);
  await page.keyboard.press('Control+z');
  await allKept(page);
  await expect(cueIn(page, 'cue 1')).toBeHidden();
  await expect(cueIn(page, 'cue 2')).toBeVisible();
  await away.setOffline(false);
  await expect(cueIn(third, 'cue 1')).toBeHidden();
  await expect(cueIn(third, 'cue 2')).toBeVisible();
  await expect(third.getByText('Saved')).toBeVisible();
  await away.close();
});

/**
 * What is wrong with a page for those who cannot see it, or not well, by the rules of axe. Only colours differ by night. There are no pages
 * of others in it, so it is looked at where it is ("legacy"), which is several times faster.
 */
async function violations(page: Page, theme: string, where: string): Promise<string[]> {
  const axe = new AxeBuilder({ page }).setLegacyMode(true);
  const found = await (theme === 'night' ? axe.withRules(['color-contrast', 'link-in-text-block']) : axe).analyze();
  return found.violations.map(
    (v) => `${where} ${theme} ${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' | ')}`,
  );
}

test('the places are usable without a mouse and readable by machines', async ({ page, server }) => {
  for (const path of [
    '/',
    '/projects/marble-parade/footage',
    '/projects/marble-parade/bench',
    '/projects/marble-parade/renders',
  ])
    for (const theme of ['day', 'night']) {
      await page.addInitScript((value) => localStorage.setItem('theme', value), theme);
      await page.goto(server.url + path);
      // While it opens, a place is not there yet.
      await expect(page.getByRole('main')).toBeVisible();
      expect(await violations(page, theme, path)).toEqual([]);
    }
});

test('every panel of the bench is readable by machines, day and night', async ({ page, server }) => {
  const byAction = async (name: string) => {
    await page.keyboard.press('/');
    await page.getByPlaceholder('What do you want to do?').fill(name);
    await page.keyboard.press('Enter');
  };
  const panels: [string, () => Promise<void>][] = [
    ['shapes', () => page.getByRole('tab', { name: 'Shapes' }).click()],
    ['hold and steps', () => page.getByRole('tab', { name: 'Holds' }).click()],
    ['place', () => page.getByRole('tab', { name: 'Place' }).click()],
    ['compare', async () => (await page.getByRole('tab', { name: 'Compare' }).click(), page.keyboard.press('x'))],
    ['reach', () => page.getByRole('button', { name: /^Reach 2/ }).click()],
    ['bend', () => page.getByRole('button', { name: /^Bend 1 at/ }).click()],
    ['sound', () => byAction('The music: its beats')],
    ['landings', () => byAction('All landings')],
    ['reel', () => byAction('The reel: its rate')],
    ['lay', () => page.keyboard.press('e')],
    ['moment', () => page.getByRole('group', { name: 'Reel' }).getByText('−6 f').click()],
    ['range', () => page.keyboard.press('i')],
    ['many clips', async () => (await page.keyboard.press('Escape'), page.keyboard.press('Control+a'))],
    ['accents and transitions', async () => (await page.keyboard.press('Escape'), page.keyboard.press('Shift+A'))],
    ['guide', () => page.keyboard.press('?')],
    ['a recipe', () => page.getByRole('button', { name: 'Freeze a frame' }).click()],
    ['list of actions', async () => (await page.keyboard.press('Escape'), page.keyboard.press('/'))],
  ];
  for (const theme of ['day', 'night']) {
    await page.addInitScript((value) => localStorage.setItem('theme', value), theme);
    await openBench(page, server, 'marble-parade');
    for (const [name, open] of panels) {
      await open();
      expect(await violations(page, theme, name)).toEqual([]);
    }
  }
});

test('a file that is not footage is refused in its sentence', async ({ page, server }) => {
  await page.goto(`${server.url}/projects/marble-parade/footage`);
  await page
    .getByLabel('Footage files')
    .setInputFiles({ name: 'letter.mp4', mimeType: 'video/mp4', buffer: Buffer.from('Dear editor,') });
  await expect(
    page.getByText('letter.mp4 is not a video or sound file that can be read; it may be damaged or of another kind.'),
  ).toBeVisible();
  await expect(page.getByRole('listitem', { name: 'letter.mp4' })).toHaveCount(0);
});

test('a clip dropped on the page comes in, with the rate its camera says and its own timecode on offer', async ({
  page,
  server,
  folder,
}) => {
  const options = [
    ...H264,
    '-timecode',
    '01:00:00:00',
    '-movflags',
    'use_metadata_tags',
    '-metadata',
    'com.android.capture.fps=240',
  ];
  const file = await makeNumberedClip({ file: join(folder, 'camera.mov'), frames: 60, rate: '30', options });
  const { id } = await server.newProject('Marble Parade, dropped');
  await page.goto(`${server.url}/projects/${id}/footage`);
  const content = readFileSync(file).toString('base64');
  const dropped = await page.evaluateHandle((base64) => {
    const transfer = new DataTransfer();
    transfer.items.add(new File([Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))], 'camera.mov'));
    return transfer;
  }, content);
  await page.locator('main').dispatchEvent('drop', { dataTransfer: dropped });
  const card = page.getByRole('listitem', { name: 'camera.mov' });
  await expect(card.getByText('starts at 01:00:00:00')).toBeVisible();
  await card.getByRole('button', { name: 'Read as 240' }).click();
  await expect(card.getByText('240 fps on 24: down to 10 % with every frame real')).toBeVisible();
  await expect(card.getByRole('button', { name: 'Bend this clip' })).toBeEnabled({ timeout: 60_000 });
  await card.getByRole('button', { name: 'Bend this clip' }).click();
  await shownAt(page, 0);
  await allKept(page);
  // 60 frames read as 240 fps last a quarter of a second: six frames of the reel.
  expect(mapOf(await kept(server, id)).vertices[1]!.t).toBe(6);
  await page.keyboard.press('End');
  await page.getByRole('button', { name: '50.00' }).click();
  await expect(page.getByRole('button', { name: '01:00:01:20' })).toBeVisible();
});

test('any footage of the project can take a clip’s place, on the reel before or not', async ({
  page,
  server,
  clip,
  folder,
}) => {
  const { id } = await projectOfClip(server, clip);
  const file = await makeNumberedClip({ file: join(folder, 'spare.mp4'), frames: 48, rate: '24', options: H264 });
  const { id: spare } = await server.upload(id, file);
  await openBench(page, server, id);
  await page.getByRole('tab', { name: 'Place' }).click();
  await page.getByRole('combobox', { name: 'Other footage in its place' }).click();
  await page.getByRole('option', { name: 'spare' }).click();
  await allKept(page);
  const project = await kept(server, id);
  expect(clipOf(project).sourceId).toBe(spare);
  expect(project.sources.map((source) => source.id)).toContain(spare);
});
