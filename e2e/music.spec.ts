import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import type { Project } from '@idle-bend/core/model';
import { placeItems } from '@idle-bend/core/reel';
import { positionAt } from '@idle-bend/core/time-map';
import type { Page } from '@playwright/test';
import { leftChannel } from '../packages/media/test/drum-file.js';
import { allKept, choose, drag, expect, kept, picture, renderFile, test, type Clip } from './fixtures.js';
import { realFrames, reachPhases } from '@idle-bend/core/clean';
import { BEATS, FLASH, layMusic, threeFlashes } from './flashes.js';
import type { RunningServer } from '../apps/server/test/running-server.js';

const reel = (page: Page) => page.getByRole('group', { name: 'Reel' });
const soundOf = async (server: RunningServer, id: string) => (await kept(server, id)).reel.sounds[0]!;

test('music dropped in, its beat put right, moments of three clips landed on it, played and rendered: flash and click are one', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await threeFlashes(page, server, folder);
  await layMusic(page, folder);
  await allKept(page);
  const heard = (await soundOf(server, id)).beats!;
  // Halved and doubled again, shifted by half and back; the clicks are beats.
  await page.getByRole('button', { name: '÷ 2', exact: true }).click();
  await allKept(page);
  const half = (await soundOf(server, id)).beats!;
  expect(half.times.length).toBeLessThan(heard.times.length * 0.6);
  await page.getByRole('button', { name: '× 2', exact: true }).click();
  await page.getByRole('button', { name: '½ later' }).click();
  await allKept(page);
  expect((await soundOf(server, id)).beats!.times[0]!).toBeGreaterThan(heard.times[0]! + 0.1);
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
  await page.getByLabel('Beats a minute').fill('100');
  await page.getByLabel('Beats a minute').press('Enter');
  await page.getByLabel('First bar at, s').fill('0.4');
  await page.getByLabel('First bar at, s').press('Enter');
  await allKept(page);
  const { times } = (await soundOf(server, id)).beats!;
  for (const beat of BEATS) expect(Math.min(...times.map((t) => Math.abs(t - beat)))).toBeLessThan(1e-6);

  // The moment is marked once, where the flash is; in each of the clips it lands on the beat nearest to it.
  for (let n = 0; n < 3; n++) {
    await page.keyboard.press('Home');
    for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
    for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowRight');
    if (n === 0) {
      await page.keyboard.press('m');
      await page.getByLabel('Source frame').fill(String(FLASH));
      await page.getByLabel('Source frame').press('Enter');
    }
    await page.keyboard.press('t');
    await expect(page.getByText(/shows exactly on “bar \d, beat \d”/)).toBeVisible();
    await page.keyboard.press('PageDown');
  }
  await allKept(page);
  const landed = await kept(server, id);
  const targets = placeItems(landed).map(({ item, start }) => {
    const clip = item as Clip;
    const cue = landed.reel.cues.find((c) => c.id === clip.ties[0]!.cueId)!;
    expect(positionAt(clip.map, Math.round(cue.frame) - start)).toBeCloseTo(FLASH, 6);
    expect(cue.beat!.soundId).toBe(landed.reel.sounds[0]!.id);
    return cue.frame;
  });
  expect(new Set(targets).size).toBe(3);

  // It plays through all three, to the end.
  await page.keyboard.press('PageUp');
  await page.keyboard.press('PageUp');
  await page.keyboard.press('Home');
  await page.keyboard.press('Space');
  await playedToTheEnd(page, landed);
  meetsTheMusic(await renderFile(page, join(folder, 'landed.mkv')), targets.map(Math.round));
});

/** The playhead comes to the last frame of the reel. */
async function playedToTheEnd(page: Page, project: Project): Promise<void> {
  const { start, frames } = placeItems(project).at(-1)!;
  await expect(page.getByTestId('reel-playhead')).toHaveAttribute('data-frame', String(start + frames - 1), {
    timeout: 30_000,
  });
}

/** A file is bright on those frames and no others, and each has a click within half a frame. */
function meetsTheMusic(file: string, frames: readonly number[]): void {
  const clicks = clickSeconds(file);
  expect(litFrames(file)).toEqual(frames);
  for (const frame of frames)
    expect(Math.min(...clicks.map((second) => Math.abs(second - frame / 24)))).toBeLessThan(0.5 / 24);
}

/** Frames of a file that are bright. */
function litFrames(file: string): number[] {
  const { stdout } = spawnSync('ffmpeg', [
    '-v',
    'error',
    '-i',
    file,
    '-vf',
    'scale=1:1:flags=area,format=gray',
    '-f',
    'rawvideo',
    'pipe:1',
  ]);
  return [...stdout].flatMap((value, k) => (value > 160 ? [k] : []));
}

/** Seconds at which a file gets loud at once. */
function clickSeconds(file: string): number[] {
  const samples = leftChannel(file);
  const clicks: number[] = [];
  for (let i = 0; i < samples.length; i++)
    if (Math.abs(samples[i]!) > 0.05 && (clicks.length === 0 || i / 48000 - clicks.at(-1)! > 0.3))
      clicks.push(i / 48000);
  return clicks;
}

test('one clip landed, the other way seen, all laid on the music in one press, played and rendered: speeds stay, flash and click are one, one undo', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await threeFlashes(page, server, folder);
  await layMusic(page, folder);
  await page.getByTestId('move-a').click({ position: { x: 40, y: 8 } });
  await page.keyboard.press('Home');
  for (let i = 0; i < 25; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('m');
  await page.getByLabel('Source frame').fill(String(FLASH));
  await page.getByLabel('Source frame').press('Enter');
  // Landed alone it keeps its speed, and what changing speeds would cost is drawn beside it.
  await page.keyboard.press('t');
  await expect(page.getByText(/Every speed stays/).first()).toBeVisible();
  await expect(page.getByTestId('other-landing')).toContainText(/T · Change speeds: \d+ of \d+ real/);
  // On the reel is a picture of the very frame that lands: the white one, which the footage's strip steps over.
  const landedAt = (await page.locator('[data-moment]').first().boundingBox())!;
  const white = async () =>
    page.evaluate(
      (column) => {
        const canvas = document.querySelector<HTMLCanvasElement>('main canvas[aria-hidden]')!;
        const { data } = canvas.getContext('2d')!.getImageData(column, 40, 1, 34);
        return Array.from({ length: 34 }, (_, y) => Math.min(...data.subarray(4 * y, 4 * y + 3)) > 240).filter(Boolean)
          .length;
      },
      Math.round(landedAt.x + 10 - (await reel(page).boundingBox())!.x),
    );
  await expect.poll(white).toBeGreaterThan(20);
  await allKept(page);
  const before = await kept(server, id);
  await page.keyboard.press('e');
  const rows = page.getByRole('list', { name: 'The plan' }).getByRole('listitem');
  await expect(rows).toHaveCount(3);
  await page.getByRole('radio', { name: '4 beats' }).click();
  await expect(rows.first()).toContainText('4 beats');
  await page.getByRole('button', { name: 'b: a beat less' }).click();
  await expect(rows.nth(1)).toContainText('3 beats');
  await page.getByLabel('No slower than').fill('20');
  await page.getByLabel('No slower than').press('Enter');
  await page.getByRole('button', { name: 'Lay these 3 clips' }).click();
  await allKept(page);
  const laid = await kept(server, id);
  const { times } = laid.reel.sounds[0]!.beats!;
  const beats = placeItems(laid)
    .slice(1)
    .map(({ start }) => times.findIndex((t) => Math.round(t * 24) === start));
  expect(beats[0]).toBeGreaterThanOrEqual(3);
  expect(beats[1]! - beats[0]!).toBe(3);
  const targets = placeItems(laid).map(({ item, start }) => {
    const clip = item as Clip;
    expect(clip.ties).toHaveLength(1);
    const cue = Math.round(laid.reel.cues.find(({ id }) => id === clip.ties[0]!.cueId)!.frame);
    expect(positionAt(clip.map, cue - start)).toBeCloseTo(FLASH, 6);
    expect(
      reachPhases(clip.map).filter(({ clean }) => !clean),
      JSON.stringify(clip.map),
    ).toEqual([]);
    return cue;
  });
  const shares = (laid.reel.items as Clip[]).map(({ map }) => realFrames(map));
  const sum = (what: 'real' | 'of') => shares.reduce((all, share) => all + share[what], 0);
  test.info().annotations.push({ type: 'real frames of the laid reel', description: `${sum('real')} of ${sum('of')}` });
  // It plays to the end; in the file every flash is on its beat's frame, and its click within half a frame of it.
  await page.getByTestId('move-a').click({ position: { x: 40, y: 8 } });
  await page.keyboard.press('Home');
  await page.keyboard.press('Space');
  await playedToTheEnd(page, laid);
  meetsTheMusic(await renderFile(page, join(folder, 'laid.mkv')), targets);
  await page.getByRole('link', { name: 'Bench' }).click();
  await page.getByTestId('move-a').click({ position: { x: 40, y: 8 } });
  // From the list of actions, the report; everything has landed.
  await page.keyboard.press('/');
  await page.getByPlaceholder('What do you want to do?').fill('All landings');
  await page.keyboard.press('Enter');
  await expect(page.getByText('3 of 3 landed')).toBeVisible();
  // Bent by hand, one misses; the report says so first, and one key lands all again.
  await page.getByRole('list', { name: 'All landings' }).getByRole('button').first().click();
  await expect(page.getByText(/shows exactly on/)).toBeVisible();
  await page.keyboard.press('Control+z');
  await allKept(page);
  expect((await kept(server, id)).reel).toEqual(before.reel);
});

test('clips nobody marked: the possible hit is shown and walked to, and laid on the music they land by it', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await threeFlashes(page, server, folder);
  await layMusic(page, folder);
  await page.getByTestId('move-a').click({ position: { x: 40, y: 8 } });
  await expect(page.getByTestId('found-moments').locator('path').first()).toBeVisible();
  await page.keyboard.press('Shift+M');
  await expect(page.getByText(`flash at source frame ${FLASH}. M marks it`)).toBeVisible();
  await page.keyboard.press('e');
  await expect(page.getByLabel(/Mark the likeliest hit of the film without a moment/)).toBeChecked();
  await page.getByRole('radio', { name: '4 beats' }).click();
  await page.getByRole('button', { name: 'Lay these 3 clips' }).click();
  const laid = async () => (await kept(server, id)).reel.items as Clip[];
  await expect.poll(async () => (await laid()).map(({ ties }) => ties.length)).toEqual([1, 1, 1]);
  const { sources } = await kept(server, id);
  expect(sources[0]!.moments.map(({ frame }) => frame)).toEqual([FLASH]);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await kept(server, id)).sources[0]!.moments).toEqual([]);
});

test('the reel by hand: a thread drawn to a beat, cuts pinned, edges trimmed and stretched, gaps, the sound dragged', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await threeFlashes(page, server, folder);
  await layMusic(page, folder);
  const placed = async () => {
    await allKept(page);
    return placeItems(await kept(server, id)).map(({ item, start, frames }) => [item.id, start, frames] as const);
  };
  const undo = () => page.keyboard.press('Control+z');

  // An edge trims; with Shift it stretches, so that the last frame still shows what it showed.
  await page.getByTestId('move-a').click({ position: { x: 60, y: 8 } });
  await drag(page, page.getByTestId('trim-end-a'), -60, 0, 'Alt');
  const trimmed = (await placed())[0]![2];
  expect(trimmed).toBeLessThan(44);
  await undo();
  expect((await placed())[0]![2]).toBe(48);
  await drag(page, page.getByTestId('trim-end-a'), -60, 0, 'Shift');
  const stretched = await kept(server, id).then(async () => (await placed(), kept(server, id)));
  const clip = stretched.reel.items[0] as Clip;
  const frames = placeItems(stretched)[0]!.frames;
  expect(frames).toBeLessThan(46);
  expect(positionAt(clip.map, frames - 1)).toBeGreaterThan(114);
  await undo();

  // Its name moves it past the next one.
  const box = (await page.getByTestId('move-b').boundingBox())!;
  await drag(page, page.getByTestId('move-a'), box.width * 1.2, 0);
  expect((await placed()).map(([name]) => name)).toEqual(['b', 'a', 'c']);
  await undo();

  // A cut pinned to a beat stays there when what comes before gets shorter.
  await page.getByTestId('move-b').click({ position: { x: 60, y: 8 } });
  await page.keyboard.press('d');
  const [, start] = (await placed())[1]!;
  await page.getByTestId('move-a').click({ position: { x: 60, y: 8 } });
  await drag(page, page.getByTestId('trim-end-a'), -80, 0, 'Shift');
  expect((await placed())[1]![1]).toBe(start);
  await undo();
  await undo();

  // A gap shows black and is gone through; its length is typed.
  await page.getByTestId('move-c').click({ position: { x: 60, y: 8 } });
  await page.getByRole('tab', { name: 'Place' }).click();
  await page.getByRole('button', { name: 'A second of black before it' }).click();
  expect((await placed()).map(([, , length]) => length)).toEqual([48, 48, 24, 48]);
  await reel(page).getByText('gap · 24 f').click();
  await expect(page.getByText('black: no clip here')).toBeVisible();
  await page.getByLabel('Length, frames').fill('10');
  await page.getByLabel('Length, frames').press('Enter');
  expect((await placed())[2]![2]).toBe(10);

  // A thread is drawn from the moment to a beat.
  await page.getByTestId('move-a').click({ position: { x: 60, y: 8 } });
  await page.keyboard.press('Home');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('m');
  const dot = page.locator('[data-moment]').first().locator('circle').first();
  const lane = (await page.locator('[data-testid^=beats-]').boundingBox())!;
  const at = (await dot.boundingBox())!;
  await page.mouse.move(at.x + at.width / 2, at.y + at.height / 2);
  await page.mouse.down();
  await page.mouse.move(at.x + 20, at.y + 20, { steps: 4 });
  await page.mouse.move(at.x + at.width / 2 + 8, lane.y + 8, { steps: 6 });
  await page.mouse.up();
  await allKept(page);
  const tied = await kept(server, id);
  const cue = tied.reel.cues.find((c) => c.id === (tied.reel.items[0] as Clip).ties[0]?.cueId);
  expect(cue?.beat).toBeTruthy();
  expect(positionAt((tied.reel.items[0] as Clip).map, Math.round(cue!.frame))).toBeCloseTo(
    tied.sources[0]!.moments[0]!.frame,
    6,
  );

  // The sound is dragged later, and the cue on its beat with it.
  await drag(page, page.locator('[data-testid^=sound-]'), 70, 0, 'Alt');
  await allKept(page);
  const later = await kept(server, id);
  expect(later.reel.sounds[0]!.startSeconds).toBeGreaterThan(0.2);
  expect(later.reel.cues.find((c) => c.id === cue!.id)!.frame).toBeGreaterThan(cue!.frame + 4);
  await expect(
    reel(page)
      .getByText(/^−\d+ f$/)
      .first(),
  ).toBeVisible();
  await expect(picture(page)).toBeVisible();
});

test('cues go out to files and come in again; another rate of the reel is told clip by clip before it is taken', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await threeFlashes(page, server, folder);
  for (const frames of [1, 2]) {
    await page.keyboard.press('Home');
    for (let i = 0; i < frames; i++) await page.keyboard.press('Shift+ArrowRight');
    await page.keyboard.press('c');
  }
  await page.keyboard.press('/');
  await page.getByPlaceholder('What do you want to do?').fill('The reel: its rate');
  await page.keyboard.press('Enter');
  const files: string[] = [];
  for (const [text, ending] of [
    ['CSV', 'csv'],
    ['WebVTT', 'vtt'],
    ['MIDI', 'mid'],
  ] as const) {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: `Save as ${text}` }).click(),
    ]);
    const file = join(folder, `cues.${ending}`);
    await download.saveAs(file);
    files.push(file);
  }
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByText('Cues: none yet')).toBeVisible();
  for (const file of files) {
    await page.getByLabel('File of cues').setInputFiles(file);
    await expect(page.getByText('Cues: 2')).toBeVisible();
    await allKept(page);
    const { cues } = (await kept(server, id)).reel;
    expect(cues.map(({ name }) => name)).toEqual(['cue 1', 'cue 2']);
    cues.forEach(({ frame }, i) => expect(Math.abs(frame - 10 * (i + 1))).toBeLessThan(0.05));
    await page.keyboard.press('Control+z');
    await expect(page.getByText('Cues: none yet')).toBeVisible();
  }
  await page
    .getByLabel('File of cues')
    .setInputFiles({ name: 'cues.csv', mimeType: 'text/csv', buffer: Buffer.from('seconds,name\nsoon,bell\n') });
  await expect(page.getByText('cues.csv: line 2, "soon" is not a time.')).toBeVisible();

  await choose(page, 'Rate, fps', '30');
  await expect(page.getByRole('table', { name: 'What 30 fps does' }).getByRole('row').nth(1)).toContainText('48 → 60');
  expect((await kept(server, id)).reel.rate).toEqual({ num: 24, den: 1 });
  await page.getByRole('button', { name: 'Make it 30 fps' }).click();
  await page.getByRole('button', { name: 'Upright 9:16' }).click();
  await allKept(page);
  const changed = await kept(server, id);
  expect(changed.reel).toMatchObject({ rate: { num: 30, den: 1 }, width: 192, height: 342 });
  expect(placeItems(changed).map(({ frames }) => frames)).toEqual([60, 60, 60]);
});

test('beats are put right by hand: one dragged, the bar begun elsewhere, the tempo tapped; what a clip shows is slipped', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await threeFlashes(page, server, folder);
  await layMusic(page, folder);
  await page.getByLabel('Beats a minute').fill('100');
  await page.getByLabel('Beats a minute').press('Enter');
  await page.getByLabel('First bar at, s').fill('0.4');
  await page.getByLabel('First bar at, s').press('Enter');
  await allKept(page);
  const before = (await soundOf(server, id)).beats!;

  // A beat is pulled later on the line it stands on: the ones beside it follow, the further the less.
  const line = page.locator('[data-testid^=beats-]');
  const box = (await line.boundingBox())!;
  const pulled = 4;
  const at = box.x + (before.times[pulled]! / (await soundOf(server, id)).toSeconds) * box.width;
  await page.mouse.move(at, box.y + 6);
  await page.mouse.down();
  await page.mouse.move(at + 6, box.y + 6, { steps: 3 });
  await page.mouse.move(at + 14, box.y + 6, { steps: 3 });
  await page.mouse.up();
  await allKept(page);
  const after = (await soundOf(server, id)).beats!;
  const moved = after.times.map((time, i) => time - before.times[i]!);
  expect(moved[pulled]).toBeGreaterThan(0.05);
  expect(moved[pulled - 1]).toBeGreaterThan(0);
  expect(moved[pulled - 1]).toBeLessThan(moved[pulled]!);
  expect(moved.at(-1)).toBeLessThan(moved[pulled]! / 2);
  await page.keyboard.press('Control+z');

  // The bar begins at the beat the playhead is nearest to, one after where it began.
  const begin = before.bar.first + 1;
  // The press on the beat went there, into the second clip.
  await page.keyboard.press('PageUp');
  await page.keyboard.press('Home');
  const frame = Math.round(before.times[begin]! * 24);
  for (let i = 0; i < frame; i++) await page.keyboard.press('ArrowRight');
  await page.getByRole('button', { name: 'Bar begins here' }).click();
  await allKept(page);
  const { bar } = (await soundOf(server, id)).beats!;
  expect(bar.first % bar.beats).toBe(begin % bar.beats);

  // Tapped at the playhead, twelve frames apart: 120 beats a minute.
  await page.keyboard.press('Home');
  for (let tap = 0; tap < 4; tap++) {
    await page.keyboard.press('n');
    for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowRight');
  }
  await page.getByRole('button', { name: 'Beat as tapped' }).click();
  await allKept(page);
  const tapped = (await soundOf(server, id)).beats!.times;
  expect(tapped[3]! - tapped[2]!).toBeCloseTo(0.5, 2);

  // With Alt the middle of a clip slips what it shows; its place and its speed stay.
  await page.getByTestId('trim-end-b').waitFor();
  const clip = (await reel(page).locator('[data-clip=b]').boundingBox())!;
  await page.keyboard.down('Alt');
  await page.mouse.move(clip.x + clip.width / 2, clip.y + 45);
  await page.mouse.down();
  await page.mouse.move(clip.x + clip.width / 2 + 20, clip.y + 45, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.up('Alt');
  await allKept(page);
  // All of the film is in the clip already: there is nowhere to slip to.
  expect(((await kept(server, id)).reel.items[1] as Clip).map.vertices[0]!.s).toBe(0);
  await drag(page, page.getByTestId('trim-end-b'), -80, 0, 'Alt');
  await page.keyboard.down('Alt');
  await page.mouse.move(clip.x + 30, clip.y + 45);
  await page.mouse.down();
  await page.mouse.move(clip.x + 10, clip.y + 45, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.up('Alt');
  await allKept(page);
  expect(((await kept(server, id)).reel.items[1] as Clip).map.vertices[0]!.s).toBeGreaterThan(1);
});

test('where beats could be half a beat later it is said; one key takes the others and plays them with ticks, and gives them back', async ({
  page,
  server,
  folder,
}) => {
  // What was heard, made unsure: a sound that is so by itself would be another one with every change of the analysis.
  await page.route('**/heard?**', async (route) => {
    const response = await route.fetch();
    const heard = await response.json();
    const unsure = heard.sections.map((section: object) => ({
      ...section,
      later: 0.45,
      confidence: { tempo: 1, phase: 0.55, bar: 1 },
    }));
    await route.fulfill({ response, json: { ...heard, sections: unsure } });
  });
  const { id } = await threeFlashes(page, server, folder);
  await layMusic(page, folder);
  await allKept(page);
  const heard = (await soundOf(server, id)).beats!;
  const panel = page.getByRole('region', { name: 'How sure the beats are' });
  await expect(panel.getByText('sure, 55 % over all')).toBeVisible();
  await expect(panel.locator('.recharts-line')).toHaveCount(2);
  await expect(page.getByText('Could be half a beat later.')).toBeVisible();
  await page.getByRole('button', { name: /Hear the other/ }).click();
  await expect(page.getByLabel('Ticks')).toBeChecked();
  await expect.poll(async () => (await soundOf(server, id)).beats!.times[0]).not.toBe(heard.times[0]);
  const others = (await soundOf(server, id)).beats!;
  const gap = heard.times[1]! - heard.times[0]!;
  expect(others.times.length).toBe(heard.times.length);
  expect(others.times[0]! - heard.times[0]!).toBeCloseTo(gap / 2, 6);
  await page.keyboard.press('k');
  await page.keyboard.press('Shift+N');
  await expect.poll(async () => (await soundOf(server, id)).beats!.times).toEqual(heard.times);
});
