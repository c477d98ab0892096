/** A whole card at once: taken where it lies, looked through, and put on the reel by one press. */
import { linkSync, mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Project } from '@idle-bend/core/model';
import { RunningServer } from '../apps/server/test/running-server.js';
import { allKept, expect, FRAMES, picture, test } from './fixtures.js';

const CLIPS = 60;

test('sixty clips are taken in together, only the cards in sight are drawn, and all go on the reel as one edit', async ({
  page,
  folder,
  clip,
}) => {
  const root = join(folder, 'full card');
  mkdirSync(root);
  renameSync(clip, join(root, 'take 1.mp4'));
  for (let n = 2; n <= CLIPS; n++) linkSync(join(root, 'take 1.mp4'), join(root, `take ${n}.mp4`));
  writeFileSync(join(root, 'letter.mp4'), 'Dear editor, this is no film.');
  const server = await RunningServer.start(undefined, ['--media', root]);
  try {
    const { id } = await server.newProject();
    await page.goto(`${server.url}/projects/${id}/footage`);
    await page.getByRole('button', { name: 'This machine', exact: true }).click();
    await page.getByRole('button', { name: 'Pick all of them' }).click();
    await page.getByRole('button', { name: `Use ${CLIPS + 1} as footage` }).click();
    await expect(page.getByText(`${CLIPS} files are footage now.`)).toBeVisible();
    await expect(
      page.getByRole('region', { name: /Notifications/ }).getByText(/letter\.mp4 is not a video/),
    ).toBeVisible();
    await page.getByRole('region', { name: 'This machine' }).getByRole('button', { name: 'Close' }).click();

    await page.getByLabel('Sort by').click();
    await page.getByRole('option', { name: 'name', exact: true }).click();
    const cards = page.getByRole('main').getByRole('listitem');
    await expect(cards).toHaveCount(CLIPS);
    expect(await page.getByRole('button', { name: 'Bend this clip' }).count()).toBeLessThan(CLIPS / 2 + 1);
    const last = cards.last();
    await last.scrollIntoViewIfNeeded();
    await expect(last.getByText(`${FRAMES} frames`)).toBeVisible();
    await expect(cards.first().getByRole('button', { name: 'Bend this clip' })).toHaveCount(0);

    await page.getByRole('button', { name: 'Pick all shown' }).click();
    await expect(page.getByText(`${CLIPS} are picked`)).toBeVisible();
    await page.getByRole('button', { name: 'Put on the reel' }).click();
    await expect(picture(page)).toHaveAttribute('data-fingerprint', /./);
    await allKept(page);
    const reel = async () => (await server.get<{ document: Project }>(`/api/projects/${id}`)).body.document.reel;
    const { items, width } = await reel();
    expect(items.map((item) => (item.kind === 'clip' ? item.name : ''))).toEqual(
      Array.from({ length: CLIPS }, (_, n) => `take ${n + 1}`).sort((a, b) => a.localeCompare(b)),
    );
    expect(width).toBe(320);
    await page.keyboard.press('Control+z');
    await allKept(page);
    expect((await reel()).items).toEqual([]);
  } finally {
    renameSync(join(root, 'take 1.mp4'), clip);
    await server.discard();
  }
});
