import { allKept, clipOf, expect, kept, openBench, projectOfClip, speedsOf, test } from './fixtures.js';

/** Jobs done by keys alone, from the first picture on. */
test('what is typed for a speed faster than its field comes is not lost, nor is Enter', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await page.route('**/assets/*.js', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 400));
    await route.continue();
  });
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('i');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('o');
  await page.keyboard.type('40');
  await page.keyboard.press('Enter');
  await expect.poll(async () => speedsOf(clipOf(await kept(server, id)))).toEqual([100, 40, 100]);
});

test('a part is slowed by its ends and its speed, and one undo takes that off', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('i');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('o');
  await page.keyboard.type('40');
  await expect(page.getByRole('textbox', { name: 'Speed of the range' })).toHaveValue('40');
  await page.keyboard.press('Enter');
  await allKept(page);
  const slowed = clipOf(await kept(server, id));
  expect(speedsOf(slowed)).toEqual([100, 40, 100]);
  const { map } = slowed;
  // The same source frames, in two and a half times as long.
  expect(map.vertices.map(({ s }) => s)).toEqual([0, 50, 105, 240]);
  expect(map.vertices[2]!.t - map.vertices[1]!.t).toBeCloseTo(27.5, 6);
  // The keys are the bench's again.
  await page.keyboard.press('Control+z');
  await allKept(page);
  expect(clipOf(await kept(server, id)).map.vertices).toHaveLength(2);
});

test('a hit is marked, a cue is set, and the one lands on the other', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('m');
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('c');
  // Its in point slips, for the clip has one speed: its ends are not in the way.
  await page.keyboard.press('t');
  await expect(page.getByRole('group', { name: 'Reel' }).getByText('0', { exact: true })).toBeVisible();
  await allKept(page);
  const document = await kept(server, id);
  expect(document.reel.cues).toHaveLength(1);
  expect(clipOf(document).ties).toHaveLength(1);
});

test('the picked clips are dissolved from the list of actions, and the guide is read and left', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip, ['one', 'two']);
  await openBench(page, server, id);
  await page.keyboard.press('?');
  await expect(page.getByRole('searchbox', { name: 'Search the guide' })).toBeFocused();
  await page.keyboard.type('dissolve');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Dissolve, dip, zoom, turn, slide' })).toBeFocused();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+a');
  await page.keyboard.press('/');
  await page.getByPlaceholder('What do you want to do?').fill('dissolves at');
  await page.keyboard.press('Enter');
  await expect(page.getByText('1 cut dissolved; one undo takes all off.')).toBeVisible();
  await allKept(page);
  expect((await kept(server, id)).reel.accents).toMatchObject([
    { look: { kind: 'dissolve' }, on: { clipIds: ['two'] } },
  ]);
});

test('an action that has nothing to act on says what it wants, and changes nothing', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip, ['one', 'two']);
  await openBench(page, server, id);
  const before = await kept(server, id);
  for (const [action, says] of [
    ['Widen the bend', 'Select a bend on the chart first.'],
    ['Bend after', 'This clip has no bend; B sets one.'],
    ['Reverse the range', 'Pick a range on the chart first (I, O).'],
    ['Ramp joins at every', 'No cut lies between picked clips; pick neighbours.'],
    ['Remove what is', 'Select what is to go; Shift Del takes clips off.'],
  ] as const) {
    await page.keyboard.press('/');
    await page.getByPlaceholder('What do you want to do?').fill(action);
    await page.keyboard.press('Enter');
    await expect(page.getByText(says)).toBeVisible();
  }
  await allKept(page);
  expect(await kept(server, id)).toEqual(before);
});
