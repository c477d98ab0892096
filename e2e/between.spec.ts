import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { crc32 } from 'node:zlib';
import { resolveClip } from '@idle-bend/core/resolve';
import { FlowThreads, loadKernels, openSource, SourceReader } from '@idle-bend/media';
import { FrameComposer } from '@idle-bend/pipeline';
import type { Page } from '@playwright/test';
import { allKept, choose, clipOf, expect, kept, picture, shownAt, test } from './fixtures.js';
import { NOISY, slowPan } from './slow-pan.js';
import type { RunningServer } from '../apps/server/test/running-server.js';

const spots = (page: Page) => page.getByRole('list', { name: 'Rough spots' }).getByRole('listitem');
const openPage = (page: Page) => page.getByRole('tab', { name: 'Frames' }).click();
const undo = (page: Page) => page.keyboard.press('Control+z');
const clipNow = async (server: RunningServer, id: string) => clipOf(await kept(server, id));

test('a rough spot is seen on the clip, in the strip and in a list, and each remedy mends it with one press', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await slowPan(page, server, folder);
  await expect(page.getByTestId('rough-marks')).toBeAttached();
  await expect(page.getByTestId('rough-cells')).toHaveAttribute('d', /M/);
  // From any page of the clip, a sentence leads to the worst place.
  await page.getByRole('button', { name: /^One rough spot: Flow is likely to tear or smear around frame/ }).click();
  await expect(spots(page)).toHaveCount(1);
  const shown = async () => Number(await picture(page).getAttribute('data-position'));
  await expect.poll(shown).toBeGreaterThan(NOISY[0] - 2);
  expect(await shown()).toBeLessThan(NOISY[2] + 2);
  await expect(spots(page).locator('canvas')).toHaveCount(2);
  const before = await clipNow(server, id);
  for (const [remedy, way] of [
    ['Mix there', 'mix'],
    ['Step there', 'step'],
    ['Freeze', 'hold'],
  ] as const) {
    await spots(page).getByRole('button', { name: remedy }).click();
    await expect(page.getByText('No rough spots')).toBeVisible();
    await expect(page.getByRole('list', { name: 'Mended stretches' }).getByRole('listitem')).toHaveCount(1);
    await allKept(page);
    const { mends, map } = await clipNow(server, id);
    expect(mends).toEqual([expect.objectContaining({ way, soft: 1 })]);
    expect(map).toEqual(before.map);
    await undo(page);
    await expect(spots(page)).toHaveCount(1);
  }
  await spots(page).getByRole('button', { name: 'Hurry through' }).click();
  await expect(page.getByText('No rough spots')).toBeVisible();
  await allKept(page);
  const { map } = await clipNow(server, id);
  expect(map.vertices).toHaveLength(4);
  expect([map.vertices[0], map.vertices.at(-1)]).toEqual([before.map.vertices[0], before.map.vertices.at(-1)]);
  await undo(page);
  await expect(spots(page)).toHaveCount(1);
  // Taken off by hand, it is rough again.
  await spots(page).getByRole('button', { name: 'Mix there' }).click();
  await page.getByRole('button', { name: /^Take the mend of/ }).click();
  await expect(spots(page)).toHaveCount(1);
});

test('made, mended, tuned: every frame of the preview is what the pipeline makes of the same pictures', async ({
  page,
  server,
  folder,
}) => {
  const mends = [
    { id: 'm1', from: 6, to: 8, way: 'mix' as const, soft: 1 },
    { id: 'm2', from: 12, to: 14, way: 'hold' as const, soft: 0.5 },
    { id: 'm3', from: 18, to: 24, way: 'step' as const, soft: 2 },
  ];
  const { id, footage } = await slowPan(page, server, folder, {
    mends,
    tuning: { trust: 0.8, keenness: -0.4 },
    reachMethods: [],
  });
  const proxy = join(folder, `${footage}.mp4`);
  writeFileSync(proxy, Buffer.from(await (await fetch(`${server.url}/api/footage/${footage}/proxy`)).arrayBuffer()));
  const source = await openSource(proxy);
  const reader = new SourceReader(source.file, source.facts, source.index);
  const threads = new FlowThreads(1, 'default');
  const composer = new FrameComposer(loadKernels(), reader, threads.means);
  const document = await kept(server, id);
  const clip = clipOf(document);
  const show = resolveClip(document, clip);
  const kinds = new Set<string>();
  for (let k = 0; k < 110; k += 1) {
    const { sample } = show(k)!;
    kinds.add(sample.kind);
    const { data } = await composer.compose(sample);
    expect((await shownAt(page, k)).fingerprint, `frame ${k}, ${sample.kind}`).toBe(
      crc32(data).toString(16).padStart(8, '0'),
    );
    await page.keyboard.press('ArrowRight');
  }
  expect([...kinds].sort()).toEqual(['fade', 'flow', 'mix', 'source']);
  reader.close();
  threads.close();
});

test('how far motion is trusted, calm or keen: seen at once, one undo a slide, and taken back to even', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await slowPan(page, server, folder);
  await openPage(page);
  for (let i = 0; i < 82; i += 10) await page.keyboard.press('Shift+ArrowRight');
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowLeft');
  const even = (await shownAt(page, 82)).fingerprint;
  const trust = page.getByRole('slider', { name: 'Motion is trusted' });
  await trust.focus();
  await page.keyboard.press('Home');
  await expect.poll(async () => (await shownAt(page, 82)).fingerprint).not.toBe(even);
  await expect(trust).toHaveAttribute('aria-valuetext', '0 %');
  await allKept(page);
  expect((await clipNow(server, id)).tuning).toEqual({ trust: 0, keenness: 0 });
  await page.getByRole('slider', { name: 'Where frames differ' }).focus();
  await page.keyboard.press('End');
  await expect(page.getByText('100 keen')).toBeVisible();
  await undo(page);
  await expect(page.getByText('even', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Back to full trust, even' }).click();
  await expect.poll(async () => (await shownAt(page, 82)).fingerprint).toBe(even);
});

test('the reel has a way of its own, a clip may follow it, and a reach may differ', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await slowPan(page, server, folder, { method: null });
  await openPage(page);
  await expect(page.getByText('As the reel says.')).toBeVisible();
  await expect(page.getByRole('radio', { name: 'Step' })).toBeChecked();
  await page.getByRole('radio', { name: 'Flow' }).click();
  await page.getByRole('button', { name: 'Make it the reel’s way' }).click();
  await page.getByRole('button', { name: /^As the reel says \(Flow\)/ }).click();
  await allKept(page);
  const document = await kept(server, id);
  expect(document.reel.method).toBe('flow');
  expect(clipOf(document).method).toBeNull();
  await page.getByRole('button', { name: /^Reach 1/ }).click();
  await page.getByRole('radio', { name: 'Step', exact: true }).click();
  await picture(page).click();
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowRight');
  await shownAt(page, 5);
  await expect(picture(page)).toContainText('held · 0001 stands for 1.25');
  await allKept(page);
  expect((await clipNow(server, id)).reachMethods).toEqual([{ reach: 0, method: 'step' }]);
});

test('looking closely: neighbours, arrows, colour and what is hidden; compared with Mix, another level, and by difference', async ({
  page,
  server,
  folder,
}) => {
  await slowPan(page, server, folder);
  await openPage(page);
  for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowRight');
  await shownAt(page, 6);
  const canvas = () => picture(page).screenshot();
  const plain = await canvas();
  const seen = [plain];
  for (const [key, words] of [
    ['Neighbours', 'made, 50 % of the way'],
    ['Arrows', 'from 0001 to 0002'],
    ['Colour', 'hue: which way · strength: how far'],
    ['Hidden', 'hidden in 0001'],
    ['Blended', 'blended where motion explains too little'],
  ] as const) {
    await page.getByRole('radio', { name: key }).click();
    await expect(picture(page)).toContainText(words);
    await expect.poll(async () => (await canvas()).equals(seen.at(-1)!)).toBe(false);
    seen.push(await canvas());
  }
  // On a real frame there is nothing to look into.
  await picture(page).click();
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('ArrowLeft');
  await expect(picture(page)).toContainText('a real frame: nothing was made');
  await page.keyboard.press('w');
  await expect(picture(page)).not.toContainText('nothing was made');

  await page.keyboard.press('ArrowRight');
  await page.getByRole('tab', { name: 'Compare' }).click();
  await choose(page, 'Compare with', 'Mix');
  await page.getByRole('radio', { name: 'Difference' }).click();
  await expect(page.getByTestId('compare')).toContainText('difference, four times as strong');
  await expect(page.getByTestId('compare')).toContainText('from Mix');
  await choose(page, 'Compare with', 'Flow, quick');
  await page.getByRole('radio', { name: 'Wipe' }).click();
  await expect(page.getByTestId('compare')).toContainText('Flow, quick');
});

test('repeats that make Flow stand still are left out with one press', async ({ page, server, folder }) => {
  const { id, footage } = await slowPan(page, server, folder, {}, 'stutter');
  await openPage(page);
  await expect(page.getByText(/frames of this footage repeat the one before/)).toBeVisible();
  await page.getByRole('button', { name: 'Leave them out' }).click();
  await expect(page.getByText(/frames of this footage repeat the one before/)).toBeHidden();
  await allKept(page);
  const source = (await kept(server, id)).sources.find((s) => s.id === footage)!;
  expect(source.droppedRepeats?.mode).toBe('keep');
  expect(source.droppedRepeats!.repeats.slice(0, 5)).toEqual([4, 9, 14, 19, 24]);
  // Where a frame was held, one is made of those around it.
  await picture(page).click();
  for (let i = 0; i < 16; i++) await page.keyboard.press('ArrowRight');
  await shownAt(page, 16);
  await expect(picture(page)).toContainText('made · 50 % between 0003 and 0005');
});

test('a range that ends in the noise is offered a calmer end', async ({ page, server, folder }) => {
  await slowPan(page, server, folder);
  for (let i = 0; i < 6; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('i');
  for (let i = 0; i < 24; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('o');
  const calmer = page.getByRole('list', { name: 'Calmer places' });
  await expect(calmer).toContainText('It is calmer at source');
  const offered = Number(/End at frame (\d+)/.exec(await calmer.innerText())![1]);
  // Before the noise or after it: its frames show from 80 to 88.
  expect(offered <= 80 || offered >= 88).toBe(true);
  await calmer.getByRole('button', { name: /^End at frame/ }).click();
  await expect(page.getByText(`frames 60 to ${offered - 1}`)).toBeVisible();
});

test('made smooth, a stretch plays as the render makes it; a bend there makes it plain again', async ({
  page,
  server,
  folder,
}) => {
  await slowPan(page, server, folder);
  await picture(page).click();
  await page.keyboard.press('i');
  for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('o');
  await page.keyboard.press('q');
  await expect(page.getByTestId('smooth-stretch')).toBeAttached();
  await expect(page.getByRole('button', { name: 'Make smooth' })).toBeVisible({ timeout: 60_000 });
  await page.keyboard.press('Home');
  await shownAt(page, 0);
  await page.keyboard.press('g');
  const words = new Set<string>();
  const end = Date.now() + 2500;
  while (Date.now() < end) {
    const frame = Number(await picture(page).getAttribute('data-frame'));
    if (frame > 0 && frame < 30) words.add((await picture(page).innerText()).includes('quick') ? 'quick' : 'exact');
  }
  await page.keyboard.press('k');
  expect([...words]).toEqual(['exact']);
  await page.keyboard.press('r');
  await expect(page.getByTestId('smooth-stretch')).toBeHidden();
});
