/** From another machine over a plain network: browsers then keep decoders, random ids and digests from the page. */
import { join } from 'node:path';
import { H264, makeNumberedClip } from '../packages/media/test/numbered-clip.js';
import { RunningServer } from '../apps/server/test/running-server.js';
import { allKept, expect, picture, shownAt, test } from './fixtures.js';
import { numberShown, TALL } from './number-shown.js';

const NAME = 'workshop.test';
const TOKEN = 'a token of many letters';

test('over a plain network the page opens, is told why it plays slowly, and every picture is the right one', async ({
  playwright,
  launchOptions,
  folder,
}) => {
  const options = { file: join(folder, 'over there.mp4'), frames: 150, rate: '60', width: 960, height: TALL };
  const film = await makeNumberedClip({ ...options, options: [...H264, '-g', '30', '-bf', '2'] });
  const server = await RunningServer.start(undefined, ['--host', '0.0.0.0'], {
    IDLE_BEND_TOKEN: TOKEN,
    IDLE_BEND_NAMES: NAME,
  });
  const browser = await playwright.chromium.launch({
    ...launchOptions,
    args: [...(launchOptions.args ?? []), `--host-resolver-rules=MAP ${NAME} 127.0.0.1`],
  });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const errors: string[] = [];
    page.on('pageerror', ({ message }) => errors.push(message));
    await page.goto(server.url.replace('127.0.0.1', NAME));
    await page.getByLabel('Token').fill(TOKEN);
    await page.keyboard.press('Enter');
    await page.getByLabel('Name of a new project').fill('Marble Parade');
    expect(await page.evaluate(() => [isSecureContext, 'VideoDecoder' in window])).toEqual([false, false]);
    await page.keyboard.press('Enter');
    await page.getByLabel('Footage files').setInputFiles(film);
    const card = page.getByRole('listitem', { name: 'over there.mp4' });
    await expect(card.getByRole('progressbar')).toHaveCount(0);
    await card.getByRole('button', { name: 'Bend this clip' }).click();
    await expect(page.getByRole('alert')).toContainText('does not decode video for this page');
    await page.getByLabel('Speed over all').fill('40');
    await page.keyboard.press('Enter');
    await allKept(page);
    // 60 frames a second at 40 % on 24: every frame in turn.
    for (const k of [0, 1, 2]) {
      expect(Math.round((await shownAt(page, k)).position)).toBe(k);
      expect(await numberShown(page)).toBe(k);
      await page.getByTestId('picture').click({ position: { x: 5, y: 5 } });
      await page.keyboard.press('ArrowRight');
    }
    await page.getByRole('button', { name: 'Play', exact: true }).click();
    await expect.poll(async () => Number(await picture(page).getAttribute('data-frame'))).toBeGreaterThan(20);
    await page.getByRole('button', { name: 'Stop', exact: true }).click();
    expect(errors).toEqual([]);
  } finally {
    await browser.close();
    await server.discard();
  }
});
