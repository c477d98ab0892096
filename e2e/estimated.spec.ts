/** A large file whose container keeps no list of its frames: bent before they are counted, and right after. */
import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { filmOfTwoRates, slowProbe } from '../packages/media/test/two-rates.js';
import { RunningServer } from '../apps/server/test/running-server.js';
import { allKept, clipOf, expect, kept, picture, playhead, shownAt, test } from './fixtures.js';
import { numberShown, TALL } from './number-shown.js';

test('what is marked and bent by an estimate stays at its time when the frames are counted', async ({
  page,
  folder,
}) => {
  test.setTimeout(240_000);
  const own = mkdtempSync(join(folder, 'estimated-'));
  const gate = join(own, 'gate');
  const card = join(own, 'card');
  mkdirSync(card);
  await filmOfTwoRates(join(card, 'two rates.ts'), own, 960, TALL);
  const server = await RunningServer.start(undefined, ['--media', card], { IDLE_BEND_FFPROBE: slowProbe(own, gate) });
  try {
    const { id } = await server.newProject('Marble Parade', '25');
    await page.goto(`${server.url}/projects/${id}/footage`);
    await page.getByRole('button', { name: 'This machine', exact: true }).click();
    const machine = page.getByRole('region', { name: 'This machine' });
    await machine.getByRole('button', { name: 'Pick all of them' }).click();
    await machine.getByRole('button', { name: 'Use one as footage' }).click();
    const film = page.getByRole('listitem', { name: 'two rates.ts' });
    await expect(film.getByText('about 100 frames')).toBeVisible();
    await expect(film.getByText('Counting its frames')).toBeVisible();
    await film.getByRole('button', { name: 'Bend this clip' }).click();

    await shownAt(page, 0);
    const reel = (await page.locator('svg[aria-label=Reel]').boundingBox())!;
    await page.mouse.click(reel.x + 2 + 0.6 * reel.width, reel.y + 8);
    const k = await playhead(page, 25);
    const number = 50 + (k - 50) * 2;
    expect(await shownAt(page, k)).toMatchObject({ position: k });
    expect(await numberShown(page)).toBe(number);
    await page.keyboard.press('m');
    await page.keyboard.press('c');
    await page.keyboard.press('t');
    await expect(page.getByText(/"two rates.ts" are still being counted; it can land when they are/)).toBeVisible();
    await allKept(page);
    expect((await kept(server, id)).sources[0]).toMatchObject({ frames: 100, moments: [{ frame: k }] });

    writeFileSync(gate, '');
    await expect(page.getByText(/has 200 frames at 50 fps; 100 at 25 fps were estimated/)).toBeVisible({
      timeout: 60_000,
    });
    await expect(picture(page)).toHaveAttribute('data-position', String(2 * k));
    await expect.poll(() => numberShown(page)).toBe(number);
    await allKept(page);
    const counted = await kept(server, id);
    expect(counted.sources[0]).toMatchObject({ frames: 200, moments: [{ frame: 2 * k }] });
    // What was done before is undone with the frames there are now.
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await allKept(page);
    const undone = await kept(server, id);
    expect(undone.sources[0]).toMatchObject({ frames: 200, moments: [] });
    expect(clipOf(undone)).toMatchObject({ map: clipOf(counted).map });
    expect(await numberShown(page)).toBe(number);
  } finally {
    await server.discard();
  }
});
