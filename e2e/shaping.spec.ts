import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { reachPhases } from '@idle-bend/core/clean';
import { placeItems } from '@idle-bend/core/reel';
import { BEND_SHAPES } from '@idle-bend/core/shape';
import { positionAt, reachSlope } from '@idle-bend/core/time-map';
import { readNumbers } from '../packages/media/test/numbered-clip.js';
import {
  allKept,
  choose,
  backToBench,
  clipOf,
  clipsOf,
  expect,
  expectedNumbers,
  kept,
  openBench,
  picture,
  projectOfClip,
  shownAt,
  test,
  type Clip,
} from './fixtures.js';

const speedsOf = ({ map }: Clip) =>
  map.vertices.slice(1).map((_, i) => Math.round((reachSlope(map, i) / 5) * 1000) / 10);

test('split, join, reorder, back to plain; several clips of one source; the file has every frame in its place', async ({
  page,
  server,
  clip,
  folder,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const before = await kept(server, id);
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('s');
  await allKept(page);
  const split = await kept(server, id);
  expect(clipsOf(split).map((c) => c.map.vertices.map((v) => [v.t, v.s]))).toEqual([
    [
      [0, 0],
      [20, 100],
    ],
    [
      [0, 0 + 100],
      [28, 240],
    ],
  ]);
  expect(expectedNumbers(split)).toEqual(expectedNumbers(before));

  // The second part is on the bench: it runs backward, and moves to the front.
  await page.keyboard.press('r');
  await page.keyboard.press('Alt+ArrowLeft');
  await allKept(page);
  const moved = await kept(server, id);
  const numbers = expectedNumbers(moved);
  expect(numbers[0]).toBe(235);
  expect(numbers.slice(28)).toEqual(expectedNumbers(before).slice(0, 20));
  await page.getByRole('button', { name: 'Render…' }).click();
  await page.getByRole('radio', { name: 'MKV · FFV1' }).click();
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  const link = page.getByRole('link', { name: 'Download' });
  await expect(link).toBeVisible({ timeout: 90_000 });
  const [download] = await Promise.all([page.waitForEvent('download'), link.click()]);
  await download.saveAs(join(folder, 'moved.mkv'));
  expect(readNumbers(join(folder, 'moved.mkv'))).toEqual(numbers);

  await backToBench(page);
  await page.getByRole('button', { name: 'Plain', exact: true }).click();
  await page.keyboard.press('Alt+ArrowRight');
  await page.keyboard.press('PageUp');
  await page.keyboard.press('Shift+S');
  await allKept(page);
  expect(clipsOf(await kept(server, id)).map((c) => c.map)).toEqual(clipsOf(before).map((c) => c.map));
  await page.keyboard.press('Shift+S');
  await expect(page.getByText('No clip comes right after this one.')).toBeVisible();
});

test('shapes for a clip and for a bend; one’s own are kept, named, taken out to a file and in again', async ({
  page,
  server,
  clip,
  folder,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await page.getByRole('tab', { name: 'Shapes' }).click();
  await page.getByRole('button', { name: 'Hover' }).hover();
  await expect(page.getByText('One moment in the middle')).toBeVisible();
  await page.getByRole('button', { name: 'Hover' }).click();
  await allKept(page);
  const hovered = clipOf(await kept(server, id));
  // Speeds near the shape's own (147.1, 29.4, 147.1) at which every frame a speed can have real is real.
  expect(reachPhases(hovered.map).every(({ clean }) => clean)).toBe(true);
  const speeds = speedsOf(hovered);
  [147.1, 29.4, 147.1].forEach((speed, i) => expect(Math.abs(Math.log2(speeds[i]! / speed))).toBeLessThan(0.35));
  expect(positionAt(hovered.map, 0)).toBe(0);
  expect(Math.abs(positionAt(hovered.map, 47) - (240 - 1.471 * 5))).toBeLessThan(0.51);

  await page.getByRole('button', { name: /^Bend 1 at/ }).click();
  for (const name of ['Brink', 'Settle', 'Crest']) await page.getByRole('button', { name, exact: true }).click();
  await allKept(page);
  expect(clipOf(await kept(server, id)).map.bends[1]!.ease).toEqual(BEND_SHAPES.find((s) => s.id === 'crest')!.ease);

  const mine = page.getByRole('region', { name: 'My shapes' });
  await mine.getByRole('button', { name: 'Save this one' }).click();
  await mine.getByLabel('Name').fill('bell swing');
  await page.keyboard.press('Enter');
  await expect(mine.getByRole('button', { name: 'bell swing', exact: true })).toBeVisible();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    mine.getByRole('button', { name: 'Export all my shapes' }).click(),
  ]);
  const file = join(folder, 'shapes.json');
  await download.saveAs(file);
  await mine.getByRole('button', { name: 'Delete bell swing' }).click();
  await expect(mine.getByRole('button', { name: 'bell swing', exact: true })).toHaveCount(0);
  writeFileSync(file, readFileSync(file, 'utf8').replace('bell swing', 'bell swing again'));
  await mine.getByLabel('Shapes file').setInputFiles(file);
  await page.getByRole('button', { name: 'Soft', exact: true }).click();
  await mine.getByRole('button', { name: 'bell swing again', exact: true }).click();
  await allKept(page);
  expect(clipOf(await kept(server, id)).map.bends[1]!.ease).toEqual(BEND_SHAPES.find((s) => s.id === 'crest')!.ease);
  await mine.getByRole('button', { name: 'Delete bell swing again' }).click();
});

test('steps, holds with ramps, a brief hurry, matching bends, a turn that is reached, and a length that fits', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const clipNow = async () => (await allKept(page), clipOf(await kept(server, id)));
  await page.getByRole('tab', { name: 'Holds' }).click();
  await page.getByLabel('Frames each').fill('6');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: '3 steps from here, 18 frames' }).click();
  expect(speedsOf(await clipNow())).toEqual([75, 50, 25, 100]);
  await page.keyboard.press('Control+z');

  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.getByLabel('Hold, still frames').fill('10');
  await page.keyboard.press('Enter');
  await page.getByLabel('Ramps in and out').fill('8');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Hold here' }).click();
  const held = await clipNow();
  expect(speedsOf(held)).toEqual([100, 0, 100]);
  expect(held.map.bends.map((b) => b.widthFrames)).toEqual([0, 8, 8, 0]);
  // Under Step the slow ends of both ramps show that frame too, and count.
  const still = Array.from({ length: 60 }, (_, k) => Math.floor(positionAt(held.map, k) + 1e-6)).filter(
    (s) => s === 100,
  );
  expect(still).toHaveLength(10);
  await page.keyboard.press('Control+z');
  // What was typed is still there after undo and another tab.
  await page.getByRole('tab', { name: 'Speed' }).click();
  await page.getByRole('tab', { name: 'Holds' }).click();
  await expect(page.getByLabel('Hold, still frames')).toHaveValue('10');
  await expect(page.getByLabel('Ramps in and out')).toHaveValue('8');

  // A range of frames 20 to 30, four times as fast, keeping its place in time.
  await page.keyboard.press('i');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('o');
  await page.getByRole('radio', { name: 'Slot' }).click();
  await page.getByLabel('Times its own speed').fill('0.2x');
  await page.keyboard.press('Enter');
  expect(speedsOf(await clipNow())).toEqual([100, 20, 100]);
  await page.getByRole('button', { name: 'Reach 2, 20 %' }).click();
  await page.getByLabel('Bends at both ends, frames').fill('5');
  await page.keyboard.press('Enter');
  expect((await clipNow()).map.bends.map((b) => b.widthFrames)).toEqual([0, 5, 5, 0]);
  await page.getByRole('button', { name: 'Reverse' }).click();
  await page.getByRole('button', { name: /^Bend 1 at/ }).click();
  await expect(page.getByText(/Turns at source 9\d\.\d\d, short of 100/)).toBeVisible();
  await page.getByRole('button', { name: 'Reach 100' }).click();
  await expect(page.getByText('Turns exactly at source')).toBeVisible();

  await page.getByRole('group', { name: /^Chart/ }).click({ position: { x: 130, y: 60 } });
  await page.getByRole('tab', { name: 'Speed' }).click();
  await page.keyboard.press('Home');
  for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('c');
  await page.getByRole('group', { name: /^Chart/ }).click({ position: { x: 130, y: 60 } });
  await choose(page, 'Fit to the span', 'the clip’s start to cue 1: 30 frames');
  await clipNow();
  expect(placeItems(await kept(server, id))[0]!.frames).toBe(30);
  await expect(page.getByTestId('needed')).toContainText('30 frames at 100 % need 150 source frames');
});

test('versions and comparing, in step by time and by source moment', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await page.keyboard.press('v');
  await page.getByRole('button', { name: 'Reach 1, 100 %' }).click();
  await page.getByLabel('Speed', { exact: true }).fill('50');
  await page.keyboard.press('Enter');
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  const alone = await shownAt(page, 20);
  await page.keyboard.press('x');
  const other = page.getByTestId('compare');
  // At frame 20 the curve at 50 % shows source frame 50, the version kept before shows 100; where it shows 50 too is frame 10.
  await expect(other).toHaveAttribute('data-other', '100');
  expect((await shownAt(page, 20)).fingerprint).toBe(alone.fingerprint);
  await page.keyboard.press('Shift+Y');
  await expect(other).toHaveAttribute('data-other', '50');
  await page.keyboard.press('y');
  await expect(page.getByText('in turn with version 1 · 50.00')).toBeVisible();
  await page.keyboard.press('y');
  await expect(page.getByText('difference, four times as strong')).toBeVisible();
  await page.keyboard.press('y');
  await page.getByRole('group', { name: /^Chart/ }).click({ position: { x: 300, y: 60 } });
  await page.getByRole('tab', { name: 'Compare' }).click();
  await expect(page.getByRole('radio', { name: 'Side' })).toBeChecked();
  const wide = await page.evaluate(
    () => document.querySelector<HTMLCanvasElement>('[data-testid=picture] canvas')!.width,
  );
  expect(wide).toBeGreaterThan(0);
  await page.getByRole('button', { name: 'Use', exact: true }).click();
  await allKept(page);
  expect(clipOf(await kept(server, id)).map.vertices.at(-1)).toEqual({ t: 48, s: 240 });
  await page.keyboard.press('x');
  await expect(other).toHaveCount(0);
});

test('one thing for many clips at once, seen before and undone as one; undo reaches past a reload', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('s');
  await page.keyboard.press('PageUp');
  await allKept(page);
  const before = await kept(server, id);
  // Ctrl and a press on the other clip picks it, and once more lets it go.
  const reel = page.getByRole('group', { name: 'Reel' });
  const width = (await reel.boundingBox())!.width;
  const pressSecond = () => reel.click({ position: { x: width * 0.7, y: 70 }, modifiers: ['Control'] });
  await pressSecond();
  await expect(page.getByRole('heading', { name: '2 clips' })).toBeVisible();
  await pressSecond();
  await expect(page.getByRole('heading', { name: 'Clip', exact: true })).toBeVisible();
  await page.keyboard.press('Control+a');
  const surge = page.getByRole('button', { name: 'Surge' });
  await surge.hover();
  const outcomes = page.getByRole('list', { name: 'What would come of it' }).getByRole('listitem');
  await expect(outcomes).toHaveCount(2);
  await expect(outcomes.first()).toContainText('20 frames');
  await surge.click();
  await allKept(page);
  expect(clipsOf(await kept(server, id)).map((c) => c.map.vertices.length)).toEqual([4, 4]);
  await choose(page, 'Put on all of them', '24 fps');
  await page.getByRole('button', { name: 'Apply' }).click();
  await allKept(page);
  expect((await kept(server, id)).sources[0]!.readAs).toEqual({ num: 24, den: 1 });

  await page.reload();
  await expect(picture(page)).toHaveAttribute('data-fingerprint', /./);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await allKept(page);
  expect(await kept(server, id)).toEqual(before);
  await page.keyboard.press('Control+Shift+z');
  await allKept(page);
  expect(clipsOf(await kept(server, id))[1]!.map.vertices).toHaveLength(4);
});

test('locks, limits and what gives decide how a moment lands', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const clipNow = async () => (await allKept(page), clipOf(await kept(server, id)));
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('b');
  await page.keyboard.press('m');
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('c');
  await page.getByRole('group', { name: 'Reel' }).getByText('−5 f').click();

  // No speed changes: the clip would start five frames' worth earlier in the source, which it does not have, so that is only offered.
  await page.getByRole('radio', { name: 'In point' }).click();
  await page.getByRole('button', { name: /Land it/ }).click();
  await expect(page.getByText(/cannot land within the source: 5 frames of the clip would have none/)).toBeVisible();
  await page.getByRole('button', { name: 'Take the nearest' }).click();
  await expect(page.getByText('“moment 1” shows exactly on “cue 1”.')).toBeVisible();
  expect((await clipNow()).map.vertices.map((v) => v.s)).toEqual([-25, 75, 215]);
  for (let i = 0; i < 2; i++) await page.keyboard.press('Control+z');

  await page.getByRole('button', { name: /^Reach 1/ }).click();
  await page.getByRole('button', { name: 'Lock its speed' }).click();
  await page.getByRole('group', { name: 'Reel' }).getByText('−5 f').click();
  await page.getByRole('radio', { name: 'Speeds' }).click();
  await page.getByLabel('No slower than').fill('70');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: /Land it/ }).click();
  await expect(page.getByText(/cannot land .* misses by/)).toBeVisible();
  await page.getByRole('button', { name: /^Reach 1/ }).click();
  await page.getByRole('button', { name: 'Locked' }).click();

  await page.getByRole('group', { name: 'Reel' }).getByText('−5 f').click();
  // Limits that are too narrow: the nearest that is possible, and back.
  await page.getByLabel('No slower than').fill('90');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Land again' }).click();
  await expect(page.getByText(/misses by 3 frames/)).toBeVisible();
  await page.getByRole('button', { name: 'Take the nearest' }).click();
  // A notice that is pressed leaves the keys where they are.
  await expect(page.getByRole('button', { name: 'Land again' })).toBeFocused();
  await expect(page.getByText('“moment 1” shows 3 frames before “cue 1”.')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByText('“moment 1” shows 5 frames before “cue 1”.')).toBeVisible();
  await page.getByLabel('No slower than').fill('70');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Land again' }).click();
  await expect(page.getByText('“moment 1” shows exactly on “cue 1”.')).toBeVisible();
  const landed = await clipNow();
  expect(Math.abs(positionAt(landed.map, 25) - 100)).toBeLessThanOrEqual(1e-6);
  expect(Math.min(...speedsOf(landed))).toBeGreaterThanOrEqual(70);
});

test('rulers by choice, speed under the pointer, a slower clock, playing from the pointer and across a cut', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const chart = page.getByRole('group', { name: /^Chart/ });
  const box = (await chart.boundingBox())!;
  await page.mouse.move(box.x + 104 + (box.width - 118) / 2, box.y + 120);
  await expect(page.getByTestId('pointer-readout')).toHaveText('00:00:01:00 · 120.00 · 100 %');
  await page.keyboard.press('u');
  await expect(page.getByTestId('pointer-readout')).toHaveText('24 · 120.00 · 100 %');
  await page.keyboard.press('u');
  await expect(page.getByTestId('pointer-readout')).toHaveText('1 s · 120.00 · 100 %');
  for (let i = 0; i < 3; i++) await page.keyboard.press('-');
  await expect(page.getByRole('button', { name: /Pace: 0.125/ })).toBeVisible();
  await page.keyboard.press('p');
  await expect(page.getByRole('button', { name: 'Stop' })).toBeVisible();
  await page.keyboard.press('k');
  await expect.poll(async () => Number(await picture(page).getAttribute('data-frame'))).toBeGreaterThanOrEqual(24);

  for (let i = 0; i < 3; i++) await page.keyboard.press('=');
  await page.keyboard.press('Home');
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('s');
  await page.keyboard.press('PageUp');
  await page.keyboard.press('Space');
  // Over the cut, into the second clip, to the reel's end.
  await expect(page.getByRole('button', { name: 'Play' })).toBeVisible();
  await shownAt(page, 27);
});

test('digits typed on a selected speed go into its field, a double click edits it; neither bends nor changes the method', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const map = async () => {
    await allKept(page);
    return clipOf(await kept(server, id));
  };
  const before = await map();
  const speed = page.getByRole('textbox', { name: 'Speed', exact: true });
  const pill = page.getByRole('button', { name: 'Reach 1, 100 %' });
  await pill.click();
  await page.keyboard.type('40');
  await expect(speed).toHaveValue('40');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Reach 1, 40 %' })).toBeVisible();
  const slowed = await map();
  expect(slowed.method).toBe(before.method);
  expect(slowed.map.vertices).toHaveLength(before.map.vertices.length);
  await page.getByRole('button', { name: 'Reach 1, 40 %' }).dblclick();
  await expect(speed).toBeFocused();
  await page.keyboard.type('60');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Reach 1, 60 %' })).toBeVisible();
  expect((await map()).map.vertices).toHaveLength(before.map.vertices.length);
  // From the keyboard alone: Enter on the speed reaches its field.
  await page.getByRole('button', { name: 'Reach 1, 60 %' }).focus();
  await page.keyboard.press('Enter');
  await expect(speed).toBeFocused();
});
