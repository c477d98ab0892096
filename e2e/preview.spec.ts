import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { crc32 } from 'node:zlib';
import { sampleAt } from '@idle-bend/core/sampling';
import { formatMapFile, positionAt, type TimeMap } from '@idle-bend/core/time-map';
import {
  allKept,
  choose,
  clipOf,
  expect,
  FRAMES,
  kept,
  numberedClip,
  openBench,
  picture,
  planes,
  playhead,
  projectOfClip,
  projectOfFilm,
  shownAt,
  test,
} from './fixtures.js';
import { copyPlanes } from '../apps/web/src/preview/copy-planes.js';
import { H264, makeNumberedClip } from '../packages/media/test/numbered-clip.js';
import { numberShown, TALL } from './number-shown.js';

const SIZE = 320 * 192 * 1.5;

/** CRC-32 of every picture of a file, as the preview writes it. */
function fingerprints(file: string): string[] {
  const data = planes(file);
  return Array.from({ length: data.length / SIZE }, (_, i) =>
    crc32(data.subarray(i * SIZE, (i + 1) * SIZE))
      .toString(16)
      .padStart(8, '0'),
  );
}

const bent: TimeMap = {
  vertices: [
    { t: 0, s: 4 },
    { t: 14, s: 90 },
    { t: 30, s: 104.5 },
    { t: 36, s: 104.5 },
    { t: 52, s: 20 },
  ],
  bends: [0, 10, 4, 6, 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const })),
};

for (const method of ['step', 'mix', 'flow'] as const)
  test(`${method}: every frame of the preview is the frame an export makes from the same source, forward, still and backward`, async ({
    page,
    server,
    clip,
    folder,
  }) => {
    const { id, footage } = await projectOfClip(server, clip);
    const { version } = (await server.get(`/api/projects/${id}`)).body;
    const document = await kept(server, id);
    const changed = { ...document, reel: { ...document.reel, items: [{ ...clipOf(document), method, map: bent }] } };
    await server.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'test' });
    await openBench(page, server, id);

    const proxy = join(folder, `${footage}.mp4`);
    writeFileSync(proxy, Buffer.from(await (await fetch(`${server.url}/api/footage/${footage}/proxy`)).arrayBuffer()));
    const map = join(folder, `${footage}.json`);
    writeFileSync(
      map,
      formatMapFile({ map: bent, sourceRate: { num: 120, den: 1 }, timelineRate: { num: 24, den: 1 } }),
    );
    const out = join(folder, `${footage}.mkv`);
    const run = spawnSync(
      process.execPath,
      ['bin/idle-bend', 'retime', proxy, '-o', out, '--map', map, '--frames', method, '--sound', 'none'],
      {
        encoding: 'utf8',
        env: { ...process.env, NODE_OPTIONS: '' },
      },
    );
    expect(run.status, run.stderr).toBe(0);
    const exported = fingerprints(out);
    const source = fingerprints(proxy);
    expect(exported).toHaveLength(52);

    await page.keyboard.press('End');
    for (let k = 51; k >= 0; k--) {
      const { position, fingerprint } = await shownAt(page, k);
      expect(position).toBe(positionAt(bent, k));
      expect(fingerprint, `frame ${k}`).toBe(exported[k]);
      const sample = sampleAt(position, FRAMES, method, 'hold', k);
      if (sample.kind === 'source') expect(fingerprint).toBe(source[sample.frame]);
      if (k > 0) await page.keyboard.press('ArrowLeft');
    }
    // Now by jumps, all over the clip.
    const chart = page.getByRole('group', { name: 'Reel' });
    const box = (await chart.boundingBox())!;
    for (const u of [0.9, 0.1, 0.55, 0.3, 0.98]) {
      await page.mouse.click(box.x + box.width * u, box.y + 10);
      const k = await playhead(page);
      expect((await shownAt(page, k)).fingerprint).toBe(exported[k]);
    }
  });

test('playing goes forward and backward in time, loops, and stops at the ends', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play' })).toBeVisible();
  await shownAt(page, 47);
  await page.keyboard.press('j');
  await shownAt(page, 0);
  const started = Date.now();
  await page.keyboard.press('g');
  await page.waitForTimeout(3000);
  const frames = new Set<string>();
  while (Date.now() - started < 6000) frames.add((await picture(page).getAttribute('data-frame'))!);
  expect(frames.size).toBeGreaterThan(5);
  await page.keyboard.press('k');
  await expect(page.getByRole('button', { name: 'Play' })).toBeVisible();
});

test('Flow by key or by choice: quick while playing, settled when still; the advice on blending goes, and undo brings Mix back', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await page.getByLabel('Speed over all').fill('15');
  await page.keyboard.press('Enter');
  await page.getByRole('radio', { name: 'Mix' }).click();
  await expect(page.getByRole('button', { name: /^15 % shows .* moving edges will look double/ })).toBeVisible();
  await page.getByRole('group', { name: 'Reel' }).focus();
  await picture(page).click();
  await page.keyboard.press('Alt+3');
  await expect(page.getByRole('radio', { name: 'Flow' })).toBeChecked();
  await expect(page.getByRole('button', { name: /^15 % shows .* moving edges will look double/ })).toBeHidden();
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowRight');
  const { position } = await shownAt(page, 1);
  expect(position).toBeCloseTo(0.75, 9);
  await expect(picture(page)).toContainText('made · 75 % between 0000 and 0001');
  await expect(picture(page)).not.toContainText('quick');
  await page.keyboard.press('l');
  await expect(picture(page)).toContainText('· quick');
  await page.keyboard.press('k');
  const k = await playhead(page);
  await shownAt(page, k);
  await expect(picture(page)).not.toContainText('quick');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('radio', { name: 'Mix' })).toBeChecked();
  await allKept(page);
  expect(clipOf(await kept(server, id)).method).toBe('mix');
});

test('one key shows the frame made from the original', async ({ page, server }) => {
  await page.goto(`${server.url}/projects/marble-parade/footage`);
  await page.getByRole('listitem', { name: 'marble-bell.mp4' }).getByRole('button', { name: 'Bend this clip' }).click();
  await shownAt(page, 0);
  await page.keyboard.press('End');
  await shownAt(page, 83);
  await page.keyboard.press('f');
  const still = page.getByRole('img', { name: /made from the original/ });
  await expect(still).toBeVisible();
  await expect
    .poll(() => still.evaluate((e: HTMLImageElement) => [e.naturalWidth, e.naturalHeight]))
    .toEqual([1280, 720]);
  await page.keyboard.press('f');
  await expect(still).toBeHidden();
  await allKept(page);
});

test('the picture is in a second window too, in step; keys pressed there work the bench', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const [second] = await Promise.all([page.waitForEvent('popup'), page.keyboard.press('Shift+W')]);
  const video = second.getByLabel('The picture at the playhead');
  await expect(video).toBeVisible();
  /** The number that the strip of bars at the top of the picture says. */
  const seen = () =>
    video.evaluate((element: HTMLVideoElement) => {
      const { videoWidth: width, videoHeight: height } = element;
      if (width === 0) return -1;
      const canvas = document.createElement('canvas');
      [canvas.width, canvas.height] = [width, height];
      const context = canvas.getContext('2d')!;
      context.drawImage(element, 0, 0);
      let number = 0;
      for (let bit = 0; bit < 16; bit++)
        if (context.getImageData(Math.round(((bit + 0.5) * width) / 16), 4, 1, 1).data[0]! > 128) number |= 1 << bit;
      return number;
    });
  for (let i = 1; i <= 3; i++) {
    await page.keyboard.press('ArrowRight');
    await expect.poll(seen).toBe(5 * i);
  }
  await second.keyboard.press('ArrowLeft');
  await expect.poll(seen).toBe(10);
  await expect(picture(page)).toHaveAttribute('data-frame', '2');
  // One document, one undo.
  await second.keyboard.press('r');
  await expect(page.getByRole('button', { name: 'Undo' })).toBeEnabled();
  await second.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
  await Promise.all([second.waitForEvent('close'), page.keyboard.press('Shift+W')]);
});

for (const format of ['I420', 'NV12'] as const)
  test(`pictures that a browser decodes to ${format} have the codes they were made with`, async ({ page, server }) => {
    await page.goto(server.url);
    const [width, height] = [38, 22];
    const luma = Array.from({ length: width * height }, (_, i) => (i * 7) % 256);
    const chroma = (begin: number) => Array.from({ length: 19 * 11 }, (_, i) => begin + (i % 40));
    const planes = [luma, chroma(50), chroma(170)] as const;
    const found = await page.evaluate(
      async ([copy, wanted, wide, high, [y, u, v]]) => {
        const packed = u.flatMap((value, i) => [value, v[i]!]);
        const init = { format: wanted, codedWidth: wide, codedHeight: high, timestamp: 0 };
        const picture = new VideoFrame(Uint8Array.from([...y, ...(wanted === 'I420' ? [...u, ...v] : packed)]), init);
        const copyInPage = (0, eval)(`(${copy})`) as typeof copyPlanes;
        return [picture.format, [...(await copyInPage(picture, wide, high))]] as const;
      },
      [copyPlanes.toString(), format, width, height, planes] as const,
    );
    expect(found).toEqual([format, planes.flat()]);
  });

/** Every frame of a film of 96 at its own rate. */
const onceThrough: TimeMap = {
  vertices: [
    { t: 0, s: 0 },
    { t: 96, s: 96 },
  ],
  bends: [0, 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const })),
};

test('proxies of another size are made by a choice: the same frames meanwhile and after, as large as chosen', async ({
  page,
  server,
  folder,
}) => {
  const [width, height] = [1024, TALL];
  const clip = await makeNumberedClip({
    file: join(folder, 'tall.mp4'),
    frames: 96,
    rate: '24',
    options: H264,
    width,
    height,
  });
  const { id, footage } = await projectOfFilm(server, {
    ...{ file: clip, name: 'tall', width: 1280, height: 720 },
    clips: (sourceId) => [{ ...numberedClip(sourceId, 'c', 'tall'), map: onceThrough }],
  });
  await openBench(page, server, id);
  await expect.poll(() => numberShown(page)).toBe(0);
  const canvas = page.getByTestId('picture-itself').locator('canvas').first();
  const lines = () => canvas.evaluate((c: HTMLCanvasElement) => c.height);
  expect(await lines()).toBe(540);
  const goTo = async (frame: number) => {
    await page.keyboard.press('Home');
    for (let i = 0; i < Math.floor(frame / 10); i++) await page.keyboard.press('Shift+ArrowRight');
    for (let i = 0; i < frame % 10; i++) await page.keyboard.press('ArrowRight');
  };
  await page.locator('[data-tip="The reel’s rate and size"]').click();
  await choose(page, 'Proxies', '720 lines');
  await expect.poll(lines).toBe(720);
  await expect.poll(() => numberShown(page)).toBe(0);
  await goTo(50);
  await expect.poll(() => numberShown(page)).toBe(50);
  const ready = await server.prepared(id, footage);
  expect(ready.facts.picture.proxy).toEqual({ width, height });
  await goTo(71);
  await expect.poll(() => numberShown(page)).toBe(71);
  await expect(page.getByText('no proxy yet')).toHaveCount(0);
  // Back again, as somebody does who finds that it does not play smoothly.
  await choose(page, 'Proxies', '540 lines, quickest');
  await expect.poll(lines).toBe(540);
  await goTo(20);
  await expect.poll(() => numberShown(page)).toBe(20);
});
