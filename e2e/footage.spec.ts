import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { H264, makeNumberedClip } from '../packages/media/test/numbered-clip.js';
import { allKept, choose, clipsOf, expect, expectedNumbers, kept, picture, test } from './fixtures.js';

test('the footage room: parts by I and O, search, many at once, repeats skipped, another file behind the same clips', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await server.newProject('Marble Parade, footage');
  const steady = await makeNumberedClip({ file: join(folder, 'steady.mp4'), frames: 60, rate: '60', options: H264 });
  await server.prepared(id, (await server.upload(id, steady)).id);
  await page.goto(`${server.url}/projects/${id}/footage`);
  const card = page.getByRole('listitem', { name: 'steady.mp4' });
  const look = card.getByRole('slider');
  await look.focus();
  await page.keyboard.press('Home');
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('i');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('o');
  await expect(card.getByText('part: frames 20 to 30')).toBeVisible();
  await card.getByRole('button', { name: 'Bend this part' }).click();
  await expect(picture(page)).toHaveAttribute('data-fingerprint', /./);
  await allKept(page);
  expect(expectedNumbers(await kept(server, id))).toEqual([20, 22, 25, 27, 30]);

  // The same number stands for two frames: animation on twos.
  await page.getByRole('link', { name: 'Footage' }).click();
  const twos = await makeNumberedClip({
    file: join(folder, 'twos.mp4'),
    frames: 48,
    rate: '24',
    options: H264,
    numberOf: (n) => n >> 1,
  });
  await page.getByLabel('Footage files').setInputFiles(twos);
  const second = page.getByRole('listitem', { name: 'twos.mp4' });
  await expect(second.getByText('animated on twos: each picture stands for 2 frames.')).toBeVisible({
    timeout: 90_000,
  });
  await choose(page, 'Repeats of twos.mp4', 'Skipped, closed up');
  await second.getByRole('button', { name: 'Bend this clip' }).click();
  await expect(picture(page)).toHaveAttribute('data-fingerprint', /./);
  await allKept(page);
  expect(expectedNumbers(await kept(server, id)).slice(5)).toEqual(Array.from({ length: 24 }, (_, n) => n));

  await page.getByRole('link', { name: 'Footage' }).click();
  await page.getByLabel('Search footage').fill('60 fps');
  await expect(second).toHaveCount(0);
  await page.getByLabel('Search footage').fill('');
  await choose(page, 'Sort by', 'repeats, most first');
  await expect(page.getByRole('listitem').first()).toContainText('twos.mp4');
  await page.getByRole('button', { name: 'Pick all shown' }).click();
  await page.getByRole('button', { name: /Slow to the timeline/ }).click();
  await allKept(page);
  expect((await kept(server, id)).sources.map((s) => s.readAs)).toEqual([
    { num: 24, den: 1 },
    { num: 24, den: 1 },
  ]);

  await card.getByRole('button', { name: 'steady.mp4', exact: true }).click();
  await page.getByLabel('New name of steady.mp4').fill('rail, take 2.mp4');
  await page.keyboard.press('Enter');
  const renamed = page.getByRole('listitem', { name: 'rail, take 2.mp4' });
  await expect(renamed).toBeVisible();
  // Numbered pictures chosen together are one clip; the fields of an interlaced one become frames.
  const ffmpeg = (...args: string[]) => expect(spawnSync('ffmpeg', ['-v', 'error', '-y', ...args]).status).toBe(0);
  ffmpeg('-i', steady, '-frames:v', '4', '-start_number', '7', join(folder, 'p%02d.png'));
  ffmpeg(
    '-i',
    steady,
    '-vf',
    'tinterlace=interleave_top',
    '-c:v',
    'ffv1',
    '-field_order',
    'tt',
    join(folder, 'fields.mkv'),
  );
  await page
    .getByLabel('Footage files')
    .setInputFiles(['p07.png', 'p08.png', 'p09.png', 'p10.png', 'fields.mkv'].map((name) => join(folder, name)));
  await expect(
    page.getByRole('listitem', { name: 'p[07-10].mkv' }).getByText('24 fps · 320×192 · 4 frames'),
  ).toBeVisible();
  await page
    .getByRole('listitem', { name: 'fields.mkv' })
    .getByRole('button', { name: 'Make 60 fps of its fields' })
    .click();
  await expect(
    page.getByRole('listitem', { name: 'fields 60p.mkv' }).getByText('60 fps · 320×192 · 60 frames'),
  ).toBeVisible();

  const longer = await makeNumberedClip({ file: join(folder, 'longer.mp4'), frames: 90, rate: '60', options: H264 });
  await renamed.getByLabel('File in place of rail, take 2.mp4').setInputFiles(longer);
  // It is not the file that was there: that is said, and asked.
  const question = page.getByRole('alertdialog');
  await expect(question).toContainText('Use “longer.mp4” for “rail, take 2.mp4”?');
  await expect(question).toContainText(/1\.50 s long instead of \d\.\d\d s/);
  await question.getByRole('button', { name: 'Cancel' }).click();
  await renamed.getByLabel('File in place of rail, take 2.mp4').setInputFiles(longer);
  await question.getByRole('button', { name: 'Use it' }).click();
  await expect(renamed.getByText('60 fps · 320×192 · 90 frames')).toBeVisible({ timeout: 90_000 });
  const replaced = await kept(server, id);
  expect(replaced.sources[0]).toMatchObject({ frames: 90, name: 'rail, take 2' });
  expect(clipsOf(replaced)).toHaveLength(2);
});

test('a reel that begins with high dynamic range is asked about: as the footage is, or in the standard range', async ({
  page,
  server,
  folder,
}) => {
  const hlg = await makeNumberedClip({
    ...{ file: join(folder, 'sunset.mov'), frames: 48, rate: '24' },
    options: [
      ...['-c:v', 'libx265', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p10le', '-tag:v', 'hvc1'],
      ...['-x265-params', 'log-level=none', '-color_primaries', 'bt2020', '-color_trc', 'arib-std-b67'],
      ...['-colorspace', 'bt2020nc', '-color_range', 'tv'],
    ],
  });
  const { id } = await server.newProject('Marble Parade, sunset');
  await server.prepared(id, (await server.upload(id, hlg)).id);
  const colour = async () => (await kept(server, id)).reel.colour;
  const card = page.getByRole('listitem', { name: 'sunset.mov' });
  for (const [answer, transfer] of [
    ['High dynamic range', 'arib-std-b67'],
    ['Standard range', 'bt709'],
  ] as const) {
    await page.goto(`${server.url}/projects/${id}/footage`);
    await card.getByRole('button', { name: 'Bend this clip' }).click();
    const question = page.getByRole('alertdialog', { name: 'This footage has high dynamic range' });
    await expect(question).toBeVisible();
    // Nothing is done before it is answered.
    await page.keyboard.press('Escape');
    await expect(question).toHaveCount(0);
    expect((await kept(server, id)).reel.items).toEqual([]);
    await card.getByRole('button', { name: 'Bend this clip' }).click();
    await question.getByRole('button', { name: answer }).click();
    await expect(picture(page)).toHaveAttribute('data-fingerprint', /./);
    await allKept(page);
    expect((await colour())?.transfer).toBe(transfer);
    await page.keyboard.press('Control+z');
    await allKept(page);
    expect((await kept(server, id)).reel.items).toEqual([]);
  }
});
