import { allKept, drag, expect, kept, openBench, projectOfClip, test } from './fixtures.js';

test('the guide opens with one key and from panels, is searched, and leaves the bench usable beside it', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await page.keyboard.press('?');
  const guide = page.getByRole('complementary', { name: 'Guide' });
  await expect(guide.getByRole('list', { name: 'Recipes' }).getByRole('listitem')).toHaveCount(22);
  await expect(guide.getByRole('searchbox')).toBeFocused();
  await page.keyboard.type('beats half');
  await expect(guide.getByRole('list', { name: 'Recipes' }).getByRole('listitem')).toHaveCount(1);
  await page.keyboard.press('Enter');
  await expect(guide.getByRole('heading', { name: 'Put a whole reel on the music' })).toBeFocused();
  await expect(guide.getByRole('listitem').first()).toContainText('Take the music in');
  const shown = guide.getByRole('img', { name: 'Clips laid on the music' });
  await expect.poll(() => shown.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBeGreaterThan(1000);

  // What a recipe says is done while it is read.
  await page.keyboard.press('i');
  await page.getByRole('region', { name: 'Range' }).getByRole('button', { name: 'How to do this' }).click();
  await expect(guide.getByRole('heading', { name: 'Slow a part of a clip' })).toBeVisible();
  await guide.getByRole('button', { name: 'smooth slow motion' }).click();
  await expect(guide.getByRole('heading', { name: 'Slow motion that looks smooth' })).toBeFocused();
  await guide.getByRole('button', { name: 'All recipes' }).click();
  await expect(guide.getByRole('searchbox')).toBeFocused();
  await page.keyboard.type('no such thing');
  await expect(guide).toContainText('No matches.');
  await page.keyboard.press('Escape');
  await expect(guide).toBeHidden();

  // From every place of the project.
  await page.getByRole('link', { name: 'Footage' }).click();
  await page.getByRole('button', { name: 'Guide', exact: true }).click();
  await expect(guide).toBeVisible();
});

test('a newcomer to the demo has three things to do, which are ticked and do not come back', async ({
  page,
  server,
}) => {
  await openBench(page, server, 'marble-parade');
  const steps = page.getByRole('complementary', { name: 'First steps' });
  await expect(steps.getByRole('img', { name: 'to do' })).toHaveCount(3);
  const before = await kept(server, 'marble-parade');
  await page.getByRole('group', { name: 'Reel' }).getByText('−6 f').click();
  await page.keyboard.press('t');
  await expect(steps.getByRole('img', { name: 'done', exact: true })).toHaveCount(1);
  await page.keyboard.press(' ');
  await expect(steps.getByRole('img', { name: 'done', exact: true })).toHaveCount(2);
  await page.keyboard.press(' ');
  await drag(page, page.getByRole('button', { name: /^Reach 2/ }), 0, 25);
  await expect(steps).toContainText('That is all it takes.');
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
  await allKept(page);
  expect((await kept(server, 'marble-parade')).reel.items).toEqual(before.reel.items);
  await openBench(page, server, 'marble-parade');
  await expect(steps).toBeHidden();
});
