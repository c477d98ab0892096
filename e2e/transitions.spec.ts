import { join } from 'node:path';
import type { TimeMap } from '@idle-bend/core/time-map';
import {
  allKept,
  choose,
  drag,
  draftChecksums,
  expect,
  kept,
  numberedClip,
  openBench,
  planes,
  projectOfClip,
  renderFile,
  shownAt,
  test,
} from './fixtures.js';
import { layMusic } from './flashes.js';
import { slowPan } from './slow-pan.js';
import type { RunningServer } from '../apps/server/test/running-server.js';

const HARD = { widthFrames: 0, ease: 'soft' as const };
/** Twenty frames at 100 %, from a source frame on. */
const from = (s: number): TimeMap => ({
  vertices: [
    { t: 0, s },
    { t: 20, s: s + 100 },
  ],
  bends: [HARD, HARD],
});

/** A reel of clips of twenty frames that begin at those source frames. */
async function reelOf(server: RunningServer, clip: string, ...begins: readonly number[]): Promise<string> {
  const { id, footage } = await projectOfClip(server, clip);
  const { version, document } = (await server.get(`/api/projects/${id}`)).body;
  const items = begins.map((s, i) => ({ ...numberedClip(footage, `part-${i + 1}`), map: from(s) }));
  const changed = { ...document, reel: { ...document.reel, items } };
  const answer = await server.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'setup' });
  expect(answer.status).toBe(200);
  return id;
}

test('one key dissolves a clip into the next; the file has both pictures in their shares, and the cut stays', async ({
  page,
  server,
  folder,
  clip,
}) => {
  const id = await reelOf(server, clip, 0, 100);
  await openBench(page, server, id);
  await page.keyboard.press('Shift+D');
  const panel = page.getByRole('region', { name: 'Accents' });
  await expect(panel.getByRole('button', { name: 'dissolve at cuts', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await panel.getByRole('textbox', { name: 'Frames', exact: true }).fill('10');
  await page.keyboard.press('Enter');
  await allKept(page);
  expect((await kept(server, id)).reel.accents[0]).toMatchObject({
    look: { kind: 'dissolve', frames: 10 },
    on: { kind: 'cuts', clipIds: ['part-2'] },
  });
  const file = await renderFile(page, join(folder, 'dissolved.mkv'));
  const [made, own] = [planes(file), planes(clip)];
  const bytes = (320 * 192 * 3) / 2;
  expect(made.length).toBe(40 * bytes);
  for (let k = 0; k < 40; k++) {
    // Made here of what another program reads from the original.
    const share = Math.min(1, Math.max(0, (k - 15 + 0.5) / 10));
    const [goes, comes] = [Math.min(239, 5 * k), Math.max(0, 100 + 5 * (k - 20))];
    let worst = 0;
    for (let i = 0; i < bytes; i += 7) {
      const expected = own[goes * bytes + i]! * (1 - share) + own[comes * bytes + i]! * share;
      worst = Math.max(worst, Math.abs(made[k * bytes + i]! - expected));
    }
    expect(worst, `frame ${k}`).toBeLessThanOrEqual(k < 15 || k >= 25 ? 0 : 1.01);
  }
});

test('where there is no more source it says so; other kinds take its place; several cuts at once; undo', async ({
  page,
  server,
  clip,
}) => {
  // The second clip begins with its source's first frame; the third ends with the last.
  const id = await reelOf(server, clip, 60, 0, 140);
  await openBench(page, server, id);
  await page.keyboard.press('Control+a');
  await page.keyboard.press('/');
  await page.getByPlaceholder('What do you want to do?').fill('dissolves at every');
  await page.keyboard.press('Enter');
  await expect(page.getByText('2 cuts dissolved; one undo takes all off.')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Shift+A');
  const panel = page.getByRole('region', { name: 'Accents' });
  await expect(panel.getByText(/Shorter than 12 frames: 6 frames at 00:00:00:20\./)).toBeVisible();
  await expect(page.getByRole('group', { name: 'Reel' }).locator('[data-accent=dissolve]')).toHaveCount(2);

  // One cut is left out, then all give way to a dip, with its colour.
  await panel.getByRole('button', { name: 'Leave out 00:00:00:20' }).click();
  await allKept(page);
  expect((await kept(server, id)).reel.accents[0]!.on).toEqual({ kind: 'cuts', clipIds: ['part-3'] });
  await panel.getByRole('group', { name: 'Transitions, at every cut' }).getByRole('button', { name: 'dip' }).click();
  await allKept(page);
  expect((await kept(server, id)).reel.accents.map(({ look }) => look.kind)).toEqual(['dip']);
  await panel.getByRole('group', { name: 'Transitions, at every cut' }).getByRole('button', { name: 'turn' }).click();
  await panel.getByRole('textbox', { name: 'By', exact: true }).fill('-45°');
  await page.keyboard.press('Enter');
  await allKept(page);
  expect((await kept(server, id)).reel.accents[0]!.look).toMatchObject({ kind: 'turn', degrees: -45 });
  await page.keyboard.press('Escape');
  for (let i = 0; i < 5; i++) await page.keyboard.press('Control+z');
  await allKept(page);
  expect((await kept(server, id)).reel.accents).toEqual([]);
});

test('what goes on lies over the reel’s range or the clip, and is moved by its times', async ({
  page,
  server,
  clip,
}) => {
  const id = await reelOf(server, clip, 0, 100);
  await openBench(page, server, id);
  await page.keyboard.press('PageDown');
  await page.keyboard.press('Shift+A');
  const panel = page.getByRole('region', { name: 'Accents' });
  await panel.getByRole('button', { name: 'shake' }).click();
  const bar = page.getByRole('group', { name: 'Reel' }).locator('[data-accent=shake]');
  await expect(bar).toBeVisible();
  await allKept(page);
  expect((await kept(server, id)).reel.accents).toMatchObject([
    { look: { kind: 'shake' }, on: { kind: 'range', from: 20, to: 40 } },
  ]);
  await panel.getByRole('textbox', { name: 'From' }).fill('00:00:00:05');
  await page.keyboard.press('Enter');
  await panel.getByRole('textbox', { name: 'Comes and goes, frames' }).fill('8');
  await page.keyboard.press('Enter');
  await allKept(page);
  expect((await kept(server, id)).reel.accents[0]).toMatchObject({ look: { frames: 8 }, on: { from: 5, to: 40 } });

  // The next lies where the reel's range is.
  await page.keyboard.press('Escape');
  await page.keyboard.press('Home');
  await page.keyboard.press('Shift+I');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Shift+O');
  await page.keyboard.press('Shift+A');
  await panel.getByRole('button', { name: 'approach' }).click();
  await allKept(page);
  expect((await kept(server, id)).reel.accents[1]!.on).toEqual({ kind: 'range', from: 20, to: 31 });
  await panel.getByRole('button', { name: /^Remove .approach.$/ }).click();
  await bar.click();
  await expect(panel.getByRole('button', { name: 'shake', exact: true }).first()).toHaveAttribute(
    'aria-pressed',
    'true',
  );

  // Its end is pulled, and its amount swells.
  const before = (await kept(server, id)).reel.accents[0]!.on as { from: number; to: number };
  await drag(page, bar.locator('[data-end=to]'), -60, 0);
  await choose(page, 'Its amount', 'rises and falls');
  await choose(page, 'How it changes', 'Silk');
  await allKept(page);
  const pulled = (await kept(server, id)).reel.accents[0]!;
  expect(pulled).toMatchObject({ on: { from: before.from }, amount: { kind: 'eased', way: 'swells', ease: 'silk' } });
  expect((pulled.on as { to: number }).to).toBeLessThan(before.to);
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
  await allKept(page);
  expect((await kept(server, id)).reel.accents[0]!.on).toEqual(before);
});

test('a transition is pulled longer and shorter at its ends; a whip lies as the pictures move; a sway is as loud as the music', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await slowPan(page, server, folder, { method: 'step' }, 'noise', 2);
  await page.keyboard.press('Shift+A');
  const panel = page.getByRole('region', { name: 'Accents' });
  await panel.getByRole('button', { name: 'whip', exact: true }).click();
  // The camera pans level.
  await panel.getByLabel('Along').fill('30°');
  await page.keyboard.press('Enter');
  await panel.getByRole('button', { name: 'As the pictures move: 0°' }).click();
  const bar = page.getByRole('group', { name: 'Reel' }).locator('[data-accent=whip]');
  await drag(page, bar.locator('[data-end=to]'), 60, 0);
  await allKept(page);
  const { look } = (await kept(server, id)).reel.accents[0]!;
  expect(look).toMatchObject({ kind: 'whip', degrees: 0 });
  const { frames, before } = look as { frames: number; before: number };
  expect(frames).toBeGreaterThan(14);
  expect(frames * before).toBeCloseTo(4, 9);

  await layMusic(page, folder);
  await page.keyboard.press('Shift+A');
  await panel.getByRole('button', { name: 'sway', exact: true }).click();
  await choose(page, 'Its amount', 'is as loud as “clicks”');
  // The waveform is fetched for it first.
  await expect(page.getByRole('combobox', { name: 'Its amount' })).toContainText('as loud as');
  await allKept(page);
  const project = await kept(server, id);
  const sway = project.reel.accents[1]!;
  expect(sway.amount).toMatchObject({ kind: 'loudness', perSecond: 12 });
  const { levels } = sway.amount as { levels: readonly number[] };
  // A click every 0.6 s, and silence between.
  expect(Math.max(...levels)).toBe(1);
  expect(levels.filter((level) => level < 0.1).length).toBeGreaterThan(levels.length / 4);
});

test('a title is seen as it is rendered, word by word, over clips and over black', async ({
  page,
  server,
  clip,
  folder,
}) => {
  const id = await reelOf(server, clip, 0, 100);
  await openBench(page, server, id);
  await page.getByTestId('move-part-2').click({ position: { x: 20, y: 8 } });
  await page.getByRole('tab', { name: 'Place' }).click();
  await page.getByRole('button', { name: 'A second of black before it' }).click();
  await allKept(page);
  const plain = await draftChecksums(server, id, folder);
  // Its range: from the first clip into the black.
  await page.getByTestId('move-part-1').click({ position: { x: 20, y: 8 } });
  await page.keyboard.press('Home');
  await page.keyboard.press('Shift+I');
  await page.getByRole('group', { name: 'Reel' }).getByText('gap · 24 f').click();
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Shift+O');
  await page.keyboard.press('Shift+A');
  const panel = page.getByRole('region', { name: 'Accents' });
  await panel.getByRole('button', { name: 'title', exact: true }).click();
  await panel.getByLabel('Text').fill('On cue ☃');
  await page.keyboard.press('Enter');
  await expect(panel.getByText('Its font has no “☃”; the rest is shown.')).toBeVisible();
  await choose(page, 'Words come', 'one after another');
  await panel.getByLabel('Comes and goes, frames').fill('2');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('safe-areas')).toBeVisible();
  await allKept(page);
  const { look, on } = (await kept(server, id)).reel.accents[0]!;
  expect(look).toMatchObject({ kind: 'title', text: 'On cue ☃', words: 'one after another', frames: 2 });
  expect(on).toMatchObject({ kind: 'range', from: 0 });
  const titled = await draftChecksums(server, id, folder);
  const end = (on as { to: number }).to;
  expect(end).toBeGreaterThan(20);
  titled.forEach((checksum, frame) =>
    frame < end ? expect(checksum).not.toBe(plain[frame]) : expect(checksum).toBe(plain[frame]),
  );
  await page.getByTestId('move-part-1').click({ position: { x: 20, y: 8 } });
  await page.keyboard.press('Home');
  for (let frame = 0; frame < 12; frame++) {
    await expect.poll(async () => (await shownAt(page, frame)).fingerprint).toBe(titled[frame]);
    await page.keyboard.press('ArrowRight');
  }
  // In the gap its letters are on black.
  await page.getByRole('group', { name: 'Reel' }).getByText('gap · 24 f').click();
  await expect(page.locator('[data-testid=picture] canvas[data-gap]')).toBeVisible();
  const brightest = () =>
    page.evaluate(() => {
      const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=picture] canvas[data-gap]')!;
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      return data.reduce((most, value, i) => (i % 4 === 3 ? most : Math.max(most, value)), 0);
    });
  await expect.poll(brightest).toBeGreaterThan(200);
});
