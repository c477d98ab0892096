import { join } from 'node:path';
import { placeItems } from '@idle-bend/core/reel';
import { clipFrameCount } from '@idle-bend/core/sampling';
import { positionAt } from '@idle-bend/core/time-map';
import { readNumbers } from '../packages/media/test/numbered-clip.js';
import { allKept, choose, drag, expect, FRAMES, kept, picture, test, type Clip } from './fixtures.js';

test('the whole job: open the demo, import a clip, bend it by dragging, render, download; every frame is right', async ({
  page,
  server,
  clip,
  folder,
}) => {
  // Run alone it begins while the demo’s own footage is being got ready, and waits its turn.
  test.slow();
  await page.goto(server.url);
  await page.locator('a[href="/projects/marble-parade/bench"]').click();
  await expect(picture(page)).toHaveAttribute('data-fingerprint', /./);

  await page.getByRole('link', { name: 'Footage' }).click();
  await page.getByLabel('Footage files').setInputFiles(clip);
  const card = page.getByRole('listitem', { name: 'rail-120.mp4' });
  await expect(
    card.getByText('120 fps on 24: down to 20 % with every frame real; even at 20, 40, 60, 80 and 100 %'),
  ).toBeVisible();
  await expect(card.getByRole('button', { name: 'Bend this clip' })).toBeEnabled({ timeout: 200_000 });
  await card.getByRole('button', { name: 'Bend this clip' }).click();
  await expect(picture(page)).toHaveAttribute('data-fingerprint', /./);

  // Half way through, a bend; it is dragged down, so the first half is slow and the second fast.
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('b');
  await drag(page, page.getByRole('button', { name: 'Bend 1 at frame 20' }), 60, 70);
  await drag(page, page.getByRole('slider', { name: 'Width of bend 1, end' }), 40, 0);
  await page.getByRole('button', { name: 'Silk' }).click();
  await drag(page, page.getByRole('button', { name: /^Reach 1/ }), 0, 40);
  await allKept(page);

  const document = await kept(server, 'marble-parade');
  const item = placeItems(document).at(-1)!.item as Clip;
  const { map } = item;
  expect(map.vertices).toHaveLength(3);
  expect(map.bends[1]).toMatchObject({ ease: 'silk' });
  expect(map.bends[1]!.widthFrames).toBeGreaterThan(12);
  const speeds = [0, 1].map(
    (i) => (map.vertices[i + 1]!.s - map.vertices[i]!.s) / (map.vertices[i + 1]!.t - map.vertices[i]!.t),
  );
  expect(speeds[0]!).toBeLessThan(speeds[1]! / 2);

  // A draft of the clip; originals at full size are rendered in the tests of the server.
  await page.getByRole('button', { name: 'Render…' }).click();
  await page.getByRole('radio', { name: 'Draft' }).click();
  const part = page.getByLabel('How much of it', { exact: true });
  await part.getByRole('radio', { name: 'One clip' }).click();
  await choose(page, 'Which', item.name);
  const name = `Marble Parade - ${item.name}.mp4`;
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  const offered = page.getByRole('listitem', { name }).getByRole('link', { name: 'Download' });
  await expect(offered).toBeVisible({ timeout: 120_000 });
  const [download] = await Promise.all([page.waitForEvent('download'), offered.click()]);
  expect(download.suggestedFilename()).toBe(name);
  const file = join(folder, name);
  await download.saveAs(file);
  const expected = Array.from({ length: clipFrameCount(map, FRAMES) }, (_, k) =>
    Math.min(FRAMES - 1, Math.floor(positionAt(map, k) + 1e-6)),
  );
  // The draft is 960 × 540, as the bench's picture; the numbered one stands in its middle, fitted to its height.
  expect(readNumbers(file, [], 'crop=900:540')).toEqual(expected);
});
