import type { Project } from '@idle-bend/core/model';
import { positionAt } from '@idle-bend/core/time-map';
import { allKept, clipOf, drag, expect, kept, openBench, projectOfClip, shownAt, test, type Clip } from './fixtures.js';

const mapOf = (project: Project) => clipOf(project).map;

test('speed by number, keeping content or slot; freeze, reverse, undo all of it, redo', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const before = await kept(server, id);
  await page.getByRole('button', { name: 'Reach 1, 100 %' }).click();
  await page.getByLabel('Speed', { exact: true }).fill('20');
  await page.keyboard.press('Enter');
  await expect(page.getByText('1 of 1 frames')).toHaveCount(0);
  await expect(page.getByText('At 20 %: every frame real.')).toBeVisible();
  await allKept(page);
  expect(mapOf(await kept(server, id)).vertices[1]).toEqual({ t: 240, s: 240 });

  await page.getByRole('radio', { name: 'Slot' }).click();
  await page.getByLabel('Speed', { exact: true }).fill('0.1x');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/At 10 %: 1 of 2 frames real/)).toBeVisible();
  await allKept(page);
  expect(mapOf(await kept(server, id)).vertices[1]).toEqual({ t: 240, s: 120 });

  // 12 source frames a second of 120 are 10 %; 120 timeline frames for what takes 240 are 20 %.
  for (const [typed, told] of [
    ['12 fps', 'Reach 1, 10 %'],
    ['120f', 'Reach 1, 20 %'],
    ['10s', 'Reach 1, 20 %'],
    ['0.1x', 'Reach 1, 10 %'],
  ] as const) {
    await page.getByLabel('Speed', { exact: true }).fill(typed);
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: told })).toBeVisible();
  }
  await page.getByLabel('Speed', { exact: true }).fill('sideways');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert').filter({ hasText: 'not a speed' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByLabel('Speed', { exact: true }).fill('20000');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert').filter({ hasText: 'outside 0.1 % to 10,000 %' })).toBeVisible();
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: 'Reverse' }).click();
  await expect(page.getByRole('button', { name: 'Reach 1, −10 %' })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Freeze' }).click();
  await expect(page.getByText('Still: one source frame throughout.')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('group', { name: /^Chart/ }).click({ position: { x: 300, y: 60 } });
  await page.getByRole('button', { name: 'Reverse' }).click();
  await allKept(page);
  expect(positionAt(mapOf(await kept(server, id)), 239)).toBe(0);

  const undo = page.getByRole('button', { name: 'Undo' });
  while (await undo.isEnabled()) await undo.click();
  await allKept(page);
  expect(await kept(server, id)).toEqual(before);
  await page.keyboard.press('Control+Shift+z');
  await allKept(page);
  expect(mapOf(await kept(server, id)).vertices[1]).toEqual({ t: 240, s: 240 });
});

test('a drag is one undo, is caught by cues and moments, and Escape puts everything back', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('c');
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('m');
  await expect(page.getByText('“moment 1” shows 4 frames after “cue 1”.')).toBeVisible();
  await page.getByLabel('Name').fill('marble turns');
  await page.keyboard.press('Enter');
  await page.keyboard.press('b');
  await page.getByLabel('Width, frames').fill('0');
  await page.keyboard.press('Enter');
  await allKept(page);

  // The vertex sits at frame 24 on the moment; brought near frame 20 the cue catches it.
  const vertex = page.getByRole('button', { name: 'Bend 1 at frame 24' });
  const chart = (await page.getByRole('group', { name: /^Chart/ }).boundingBox())!;
  const perFrame = (chart.width - 118) / 48;
  await drag(page, vertex, -4 * perFrame + 5, 4);
  await allKept(page);
  expect(mapOf(await kept(server, id)).vertices[1]).toEqual({ t: 20, s: 120 });
  await page.getByRole('group', { name: 'Reel' }).getByText('0', { exact: true }).click();
  await expect(page.getByText('“marble turns” shows exactly on “cue 1”.')).toBeVisible();
  await page.keyboard.press('Control+z');
  await allKept(page);
  expect(mapOf(await kept(server, id)).vertices[1]).toEqual({ t: 24, s: 120 });

  const box = (await page.getByRole('button', { name: 'Bend 1 at frame 24' }).boundingBox())!;
  await page.mouse.move(box.x + 6, box.y + 6);
  await page.mouse.down();
  await page.mouse.move(box.x + 80, box.y - 60, { steps: 5 });
  await expect(page.getByText(/Caught by cues/)).toBeVisible();
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await expect(page.getByRole('button', { name: 'Bend 1 at frame 24' })).toBeVisible();
});

test('a drag goes on, and ends, though playing brings another clip to the bench meanwhile', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip, ['a', 'b']);
  await openBench(page, server, id);
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('b');
  await allKept(page);
  const before = await kept(server, id);
  for (let i = 0; i < 2; i++) await page.keyboard.press('-');
  const reach = (await page.getByRole('button', { name: /^Reach 2/ }).boundingBox())!;
  await page.mouse.move(reach.x + reach.width / 2, reach.y + reach.height / 2);
  await page.keyboard.press('Space');
  await page.mouse.down();
  await page.mouse.move(reach.x + reach.width / 2, reach.y - 10, { steps: 3 });
  await expect(page.getByRole('group', { name: /^Chart of b/ })).toBeVisible();
  await page.mouse.move(reach.x + reach.width / 2, reach.y - 40, { steps: 3 });
  await page.mouse.up();
  await page.keyboard.press('Space');
  await allKept(page);
  const after = await kept(server, id);
  const [a, b] = after.reel.items as Clip[];
  expect(b).toEqual(before.reel.items[1]);
  const speeds = [0, 1].map(
    (i) => (a!.map.vertices[i + 1]!.s - a!.map.vertices[i]!.s) / (a!.map.vertices[i + 1]!.t - a!.map.vertices[i]!.t),
  );
  expect(speeds[0]).toBeCloseTo(5, 6);
  expect(speeds[1]!).toBeGreaterThan(6);
  await page.keyboard.press('Control+z');
  await allKept(page);
  expect(await kept(server, id)).toEqual(before);
});

test('widening a bend moves nothing outside it; own shapes; keys; the list of actions', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  for (let i = 0; i < 24; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('b');
  await drag(page, page.getByRole('button', { name: 'Bend 1 at frame 24' }), 0, 60);
  const before = mapOf(await kept(server, id));
  await drag(page, page.getByRole('slider', { name: 'Width of bend 1, start' }), -50, 0);
  await allKept(page);
  const { widthFrames } = mapOf(await kept(server, id)).bends[1]!;
  await page.getByRole('slider', { name: 'Width of bend 1, end' }).focus();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowLeft');
  await allKept(page);
  expect(mapOf(await kept(server, id)).bends[1]!.widthFrames).toBe(widthFrames + 1);
  await page.getByRole('button', { name: 'Own' }).click();
  await drag(page, page.getByRole('slider', { name: 'Handle of the start' }), 60, -30);
  await page.keyboard.press('[');
  await page.keyboard.press('Control+ArrowRight');
  await allKept(page);
  const after = mapOf(await kept(server, id));
  expect(after.vertices[1]!.t).toBe(25);
  expect(Array.isArray(after.bends[1]!.ease)).toBe(true);
  expect(after.bends[1]!.widthFrames).toBeGreaterThan(before.bends[1]!.widthFrames);
  expect(after.vertices[2]).toEqual({ t: 48, s: 240 });

  await page.keyboard.press('/');
  await page.getByPlaceholder('What do you want to do?').fill('hold this');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Delete');
  await allKept(page);
  await expect(page.getByRole('region', { name: 'Clip', exact: true })).toBeVisible();
});

test('a picked range: its speed in one gesture, its length, backward, there and back; picked by keys or by dragging', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const points = async () => {
    await allKept(page);
    return mapOf(await kept(server, id)).vertices.map((v) => [v.t, v.s]);
  };
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('i');
  for (let i = 0; i < 9; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('o');
  await expect(page.getByText('frames 10 to 19 · source 50.0 to 100.0')).toBeVisible();
  await page.getByLabel('Speed of the range').fill('20');
  await page.keyboard.press('Enter');
  await expect(page.getByText('frames 10 to 59')).toBeVisible();
  expect(await points()).toEqual([
    [0, 0],
    [10, 50],
    [60, 100],
    [88, 240],
  ]);

  await page.getByLabel('Length, frames').fill('1s 1f');
  await page.keyboard.press('Enter');
  expect(await points()).toEqual([
    [0, 0],
    [10, 50],
    [35, 100],
    [63, 240],
  ]);
  await page.getByRole('button', { name: 'Reverse' }).click();
  expect(await points()).toEqual([
    [0, 0],
    [10, 50],
    [35, 0],
    [63, 140],
  ]);
  await page.keyboard.press('Control+z');
  await page.getByRole('button', { name: 'Bounce' }).click();
  expect(await points()).toEqual([
    [0, 0],
    [10, 50],
    [35, 100],
    [60, 50],
    [85, 100],
    [113, 240],
  ]);
  await page.keyboard.press('Escape');
  await expect(page.getByText(/^frames \d+ to/)).toHaveCount(0);

  const chart = (await page.getByRole('group', { name: /^Chart/ }).boundingBox())!;
  await page.keyboard.down('Shift');
  await page.mouse.move(chart.x + 400, chart.y + 40);
  await page.mouse.down();
  await page.mouse.move(chart.x + 520, chart.y + 40, { steps: 5 });
  await page.mouse.up();
  await page.keyboard.up('Shift');
  await expect(page.getByText(/^frames 4\d to 6\d · source/)).toBeVisible();
});

test('advice says what will be seen, mends it in one press, and can be dismissed', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  for (let i = 0; i < 24; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('b');
  await page.getByLabel('Width, frames').fill('0');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Reach 1, 100 %' }).click();
  await page.getByLabel('Speed', { exact: true }).fill('30');
  await page.keyboard.press('Enter');
  await page.getByRole('group', { name: /^Chart/ }).click({ position: { x: 600, y: 60 } });
  const advice = page.getByRole('list', { name: 'Advice' });
  const chart = page.getByRole('group', { name: /^Chart/ });
  await expect(chart.getByRole('button', { name: /^Advice: / })).toHaveCount(2);
  await chart.getByRole('button', { name: /^Advice: Speed jumps/ }).click();
  await shownAt(page, 80);
  await page.getByRole('button', { name: 'and 1 more' }).click();
  await expect(advice.getByText('Speed jumps from 30 % to 100 % at frame 80: it will look choppy.')).toBeVisible();
  await expect(advice.getByText(/At 30 % frames are skipped unevenly under Step/)).toBeVisible();
  await advice.getByRole('button', { name: 'Smooth over 12 frames' }).click();
  await expect(advice.getByText(/Speed jumps/)).toHaveCount(0);
  await allKept(page);
  expect(mapOf(await kept(server, id)).bends[1]).toEqual({ widthFrames: 12, ease: 'soft' });
  await advice.getByRole('button', { name: 'Dismiss this advice' }).click();
  await expect(advice).toHaveCount(0);
});

test('a length or a slip that cannot be says why, and leaves the clip as it is', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const before = await kept(server, id);
  await page.getByRole('tab', { name: 'Place' }).click();
  const length = page.getByLabel('Length, cut at its end');
  const problem = page.getByRole('alert');
  await length.fill('00:01:00:00');
  await length.press('Enter');
  await expect(problem).toHaveText(/^Its source ends after \d+ frames at this speed\.$/);
  await length.fill('soon');
  await length.press('Enter');
  await expect(problem).toHaveText('"soon" is not a length; write 35f, 1.46 s, 1s 11f or 00:00:01:11.');
  await length.press('Escape');
  const slip = page.getByLabel('Slip, source frames');
  await slip.fill('9');
  await slip.press('Enter');
  await expect(problem).toHaveText(/last frame of its source already|source frames? (is|are) left after/);
  await slip.press('Escape');
  await expect(problem).toHaveCount(0);
  expect(await kept(server, id)).toEqual(before);
  await length.fill('1.5 s');
  await length.press('Enter');
  await expect(length).toHaveValue('36');
});

test('the hint line can be pressed', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.getByRole('button', { name: 'B bend', exact: true }).click();
  await allKept(page);
  expect(clipOf(await kept(server, id)).map.vertices).toHaveLength(3);
  await page.getByRole('button', { name: '/ all actions' }).click();
  await expect(page.getByPlaceholder('What do you want to do?')).toBeVisible();
});

test('the picture is made larger by hand or by keys, stays so, and goes over the whole window by one', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const picture = page.getByTestId('picture');
  const width = async () => (await picture.boundingBox())!.width;
  const divider = page.getByRole('separator', { name: 'Width of the picture' });
  expect(Math.round(await width())).toBe(430);
  const { x, y, height } = (await divider.boundingBox())!;
  await page.mouse.move(x + 2, y + height / 2);
  await page.mouse.down();
  await page.mouse.move(400, y + height / 2, { steps: 4 });
  await page.mouse.up();
  expect(await width()).toBeGreaterThanOrEqual(860);
  // The curve is bent beside it.
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('b');
  await allKept(page);
  expect(clipOf(await kept(server, id)).map.vertices).toHaveLength(3);
  await openBench(page, server, id);
  expect(await width()).toBeGreaterThanOrEqual(860);

  await page.keyboard.press('Shift+F');
  await expect.poll(width).toBe(1280);
  await expect(page.getByRole('group', { name: 'Reel' })).toHaveCount(0);
  await page.keyboard.press('End');
  await page.keyboard.press('Shift+ArrowLeft');
  await page.keyboard.press('b');
  await allKept(page);
  expect(clipOf(await kept(server, id)).map.vertices).toHaveLength(4);
  await page.getByRole('button', { name: 'Large picture' }).click();
  await expect(page.getByRole('group', { name: 'Reel' })).toBeVisible();

  await divider.dblclick();
  expect(Math.round(await width())).toBe(430);
  await divider.focus();
  const before = await page.getByTestId('picture').getAttribute('data-position');
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowLeft');
  expect(Math.round(await width())).toBe(490);
  await expect(picture).toHaveAttribute('data-position', before!);
});
