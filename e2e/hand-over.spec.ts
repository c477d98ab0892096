import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { allKept, backToBench, expect, kept, openBench, projectOfClip, test } from './fixtures.js';

test('the reel goes to a file of another tool and comes back as it was; a stranger’s is taken by its standard parts', async ({
  page,
  server,
  folder,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip, ['first', 'second']);
  await openBench(page, server, id);
  await page.keyboard.press('b');
  await allKept(page);
  const before = await kept(server, id);
  await page.getByRole('link', { name: 'Renders' }).click();
  const save = async (name: string) => {
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name }).click()]);
    const file = join(folder, download.suggestedFilename());
    await download.saveAs(file);
    return file;
  };
  const otio = await save('OpenTimelineIO');
  expect(readFileSync(await save('Edit decision list'), 'utf8')).toMatch(/^TITLE: .*\r\nFCM: NON-DROP FRAME/);
  expect(
    readFileSync(await save('Frame map'), 'utf8')
      .trimEnd()
      .split('\r\n'),
  ).toHaveLength(97);

  await backToBench(page);
  await page.keyboard.press('Shift+Delete');
  await allKept(page);
  expect((await kept(server, id)).reel.items).toHaveLength(1);
  await page.getByRole('link', { name: 'Renders' }).click();
  await page.getByLabel('Timeline file').setInputFiles(otio);
  await expect(page.getByText(/is on the reel; one undo brings back what was\./)).toBeVisible();
  await allKept(page);
  expect(await kept(server, id)).toEqual(before);

  const foreign = JSON.parse(readFileSync(otio, 'utf8'));
  delete foreign.metadata.idle_bend;
  for (const { media_reference: media } of foreign.tracks.children[0].children)
    if (media) media.target_url = 'file:///elsewhere/rail-120.mp4';
  const stranger = join(folder, 'stranger.otio');
  writeFileSync(stranger, JSON.stringify(foreign));
  await page.getByLabel('Timeline file').setInputFiles(stranger);
  await expect(
    page.getByText('stranger.otio is on the reel; one undo brings back what was.', { exact: true }),
  ).toBeVisible();
  await allKept(page);
  const { items } = (await kept(server, id)).reel;
  expect(items.every((item) => item.kind === 'clip')).toBe(true);
  await backToBench(page);
  await page.keyboard.press('Control+z');
  await allKept(page);
  expect(await kept(server, id)).toEqual(before);

  const letter = join(folder, 'letter.otio');
  writeFileSync(letter, 'Dear editor,');
  await page.getByRole('link', { name: 'Renders' }).click();
  // A reel with clips is not replaced unasked.
  await page.getByRole('button', { name: 'Import…' }).click();
  await expect(page.getByText('takes the place of all')).toBeVisible();
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Choose the file…' }).click();
  await (await chooser).setFiles(letter);
  await expect(page.getByText('letter.otio is not JSON, so it is not OpenTimelineIO.')).toBeVisible();
});
