/** Footage from the machine's own folders: picked where it lies, bent before anything is made of it, gone and back, rendered. */
import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { H264, makeNumberedClip, readNumbers } from '../packages/media/test/numbered-clip.js';
import { RunningServer } from '../apps/server/test/running-server.js';
import { NUMBER, numberShown, TALL } from './number-shown.js';
import { allKept, backToBench, expect, picture, renderFile, shownAt, test } from './fixtures.js';

const FRAMES = 420;
/** The source frame that is said to be shown, once frame k is. */
async function frameSaid(page: Page, k: number): Promise<number> {
  return Math.round((await shownAt(page, k)).position);
}

test('a folder of this machine is looked through, a film bent before it has a proxy, its disk taken away and brought back, and rendered', async ({
  page,
  folder,
  clip,
}) => {
  test.setTimeout(240_000);
  const root = join(folder, 'card');
  mkdirSync(join(root, 'day one'), { recursive: true });
  renameSync(clip, join(root, 'rail-120.mp4'));
  const film = join(root, 'day one', 'long run.mp4');
  const options = [...H264, '-g', '60', '-bf', '2', '-x264-params', 'open-gop=1'];
  await makeNumberedClip({ file: film, frames: FRAMES, rate: '60', options, width: 960, height: TALL });
  writeFileSync(join(root, 'day one', 'letter.mp4'), 'Dear editor, this is no film.');
  const server = await RunningServer.start(undefined, ['--media', root]);
  try {
    const { id } = await server.newProject();
    await page.goto(`${server.url}/projects/${id}/footage`);
    // A file that is chosen from the folder, as any other, is not sent.
    await page.getByLabel('Footage files').setInputFiles(join(root, 'rail-120.mp4'));
    await expect(page.getByText('rail-120.mp4 is used where it lies')).toBeVisible();
    await expect(page.getByText('card / rail-120.mp4')).toBeVisible();
    await page.getByRole('button', { name: 'This machine', exact: true }).click();
    const machine = page.getByRole('region', { name: 'This machine' });
    await expect(machine.getByRole('row', { name: 'rail-120.mp4' })).toContainText('120 fps');
    await machine.getByRole('button', { name: 'day one' }).click();
    const long = machine.getByRole('row', { name: 'long run.mp4' });
    await expect(long).toContainText('60 fps');
    await expect(long).toContainText('960×576');
    await machine.getByLabel('Search this folder').fill('60');
    await expect(machine.getByText('1 of 2 files')).toBeVisible();
    await machine.getByLabel('Search this folder').fill('');
    // A press anywhere on a row picks it, and once more does not; with Shift all up to it.
    const use = (what: string) => machine.getByRole('button', { name: what });
    await long.getByText('60 fps').click();
    await expect(use('Use one as footage')).toBeEnabled();
    await long.getByText('long run.mp4').click();
    await expect(use('Use as footage')).toBeDisabled();
    await long.getByRole('checkbox').press('Space');
    await machine.getByRole('checkbox', { name: 'Pick letter.mp4' }).click({ modifiers: ['Shift'] });
    await use('Use 2 as footage').click();
    await expect(page.getByText(/letter\.mp4 is not a video/)).toBeVisible();

    const card = page.getByRole('listitem', { name: 'long run.mp4' });
    await expect(card.getByText('card / day one/long run.mp4')).toBeVisible();
    const began = Date.now();
    await card.getByRole('button', { name: 'Bend this clip' }).click();
    await expect(picture(page)).toHaveAttribute('data-fingerprint', /./);
    test.info().annotations.push({ type: 'first picture', description: `${Date.now() - began} ms` });
    expect(await numberShown(page)).toBe(0);
    const footage = (await server.footage(id)).find(({ name }) => name === 'long run.mp4');
    expect(footage.status).toBe('preparing');
    // The curve can be bent at once: 40 % shows every frame of 60 a second on 24.
    await page.getByLabel('Speed over all').fill('40');
    await page.keyboard.press('Enter');
    await allKept(page);

    // Far from where the proxy has come by now, from the original; there again from a piece of the proxy; at last from the whole.
    const last = FRAMES - 1;
    await page.getByTestId('picture').click({ position: { x: 5, y: 5 } });
    await page.keyboard.press('End');
    const k = Number(
      await picture(page)
        .getAttribute('data-frame')
        .then((now) => now ?? '0'),
    );
    await expect.poll(async () => Number(await picture(page).getAttribute('data-frame'))).toBeGreaterThan(last - 2);
    const at = Number(await picture(page).getAttribute('data-frame'));
    expect(k).toBeLessThanOrEqual(at);
    expect(await numberShown(page)).toBe(await frameSaid(page, at));
    await expect
      .poll(
        async () => (await server.get<{ made: number[] }>(`/api/footage/${footage.id}/pieces`)).body.made ?? ['whole'],
      )
      .not.toEqual([]);
    for (let n = 0; n < 5; n++) {
      await page.keyboard.press('ArrowLeft');
      const back = at - n - 1;
      expect(await frameSaid(page, back)).toBe(back);
      expect(await numberShown(page)).toBe(back);
    }
    await server.prepared(id, footage.id);
    await expect(page.getByText('no proxy yet')).toHaveCount(0);
    await page.keyboard.press('ArrowLeft');
    expect(await frameSaid(page, at - 6)).toBe(at - 6);
    expect(await numberShown(page)).toBe(at - 6);

    renameSync(root, `${root} away`);
    await page.getByRole('link', { name: 'Footage' }).click();
    await expect(page.getByText('2 files are missing.')).toBeVisible({ timeout: 20_000 });
    renameSync(`${root} away`, root);
    await expect(page.getByText('2 files are missing.')).toHaveCount(0, { timeout: 20_000 });
    // Put elsewhere in the folder, it is found by what it is.
    renameSync(film, join(root, 'renamed.mp4'));
    await page.getByRole('button', { name: 'Look in the media folders' }).click({ timeout: 20_000 });
    await expect(page.getByText('long run.mp4 was found.')).toBeVisible();
    await server.prepared(id, footage.id);
    await backToBench(page);
    const file = await renderFile(page, join(folder, 'arrived.mkv'));
    expect(readNumbers(file, [], NUMBER)).toEqual(Array.from({ length: FRAMES }, (_, n) => n));
  } finally {
    renameSync(join(root, 'rail-120.mp4'), clip);
    await server.discard();
  }
});

test('while a reel plays elsewhere a card says that its proxy waits; on the bench it is made, and the chart shows which frames have theirs', async ({
  page,
  folder,
}) => {
  const server = await RunningServer.start();
  const play = () => server.send('PUT', '/api/playing/elsewhere');
  await play();
  const playing = setInterval(() => void play().catch(() => undefined), 3000);
  try {
    const { id } = await server.newProject();
    const film = await makeNumberedClip({ file: join(folder, 'waits.mp4'), frames: 900, rate: '60', options: H264 });
    const { id: footage } = await server.upload(id, film);
    await page.goto(`${server.url}/projects/${id}/footage`);
    const card = page.getByRole('listitem', { name: 'waits.mp4' });
    await expect(card.getByText('Its proxy waits while a reel plays')).toBeVisible();
    await expect(card.getByRole('progressbar')).toHaveAttribute('aria-valuenow', '0');
    await card.getByRole('button', { name: 'Bend this clip' }).click();
    const line = page.getByTestId('proxy-line');
    await expect(line).toHaveAttribute('aria-label', /^[1-9]\d* of 900 frames have their proxy$/);
    clearInterval(playing);
    await server.send('DELETE', '/api/playing/elsewhere');
    await server.prepared(id, footage);
    await expect(line).toHaveCount(0);
  } finally {
    clearInterval(playing);
    await server.discard();
  }
});
