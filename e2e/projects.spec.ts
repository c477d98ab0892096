/** Projects as wholes, on the list: renamed, duplicated, put into the bin and back, deleted. */
import { allKept, choose, expect, kept, openBench, projectOfClip, test } from './fixtures.js';

test('a project is renamed, duplicated, put into the bin, taken back, and deleted for good', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await server.send('PATCH', `/api/projects/${id}`, { name: 'Bell tower' });
  await page.goto(`${server.url}/`);
  const list = page.getByRole('list', { name: 'Projects' });
  const named = (name: string) => list.getByRole('link', { name, exact: true });
  await page.getByRole('button', { name: 'Rename Bell tower' }).click();
  await page.getByLabel('Name of the project').fill('Bell, short');
  await page.getByLabel('Name of the project').press('Enter');
  await expect(named('Bell, short')).toBeVisible();

  await page.getByRole('button', { name: 'Duplicate Bell, short', exact: true }).click();
  await expect(named('Bell, short 2')).toBeVisible();
  await named('Bell, short 2').click();
  await expect(page.getByTestId('picture')).toHaveAttribute('data-fingerprint', /./, { timeout: 60_000 });
  await page.goto(`${server.url}/`);

  await page.getByRole('button', { name: 'Put Bell, short into the bin', exact: true }).click();
  await expect(named('Bell, short')).toHaveCount(0);
  await page.getByRole('button', { name: 'Put back' }).first().click();
  await expect(named('Bell, short')).toBeVisible();
  await named('Bell, short').click();
  await expect(page.getByTestId('picture')).toHaveAttribute('data-fingerprint', /./, { timeout: 60_000 });
  await page.goto(`${server.url}/`);

  await page.getByRole('button', { name: 'Put Bell, short 2 into the bin' }).click();
  const bin = page.getByRole('region', { name: 'Bin' });
  await expect(bin.getByText(/MB · goes in 24 hours/)).toBeVisible();
  await bin.getByRole('button', { name: 'Delete now…' }).click();
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(bin).toBeVisible();
  await bin.getByRole('button', { name: 'Delete now…' }).click();
  await page.getByRole('button', { name: 'Delete', exact: true }).click();
  await expect(bin).toBeHidden();
  await expect(named('Bell, short')).toBeVisible();

  const disk = page.getByRole('region', { name: 'Data folder' });
  await expect(disk.getByRole('listitem', { name: 'Films and sounds' })).toContainText('MB');
  await disk.getByRole('button', { name: 'Delete earlier states…' }).click();
  await page.getByRole('button', { name: 'Delete', exact: true }).click();
  await expect(page.getByText('It is gone.')).toBeVisible();
});

test('footage removed by mistake is put back from the notice, or from the bin', async ({ page, server, clip }) => {
  const { id } = await server.newProject('Parade');
  await server.upload(id, clip);
  await page.goto(`${server.url}/projects/${id}/footage`);
  const remove = async () => {
    await page.getByRole('button', { name: /^Remove / }).click();
    await expect(page.getByText('It goes into the bin for a day.')).toBeVisible();
  };
  const card = page.getByRole('button', { name: 'Bend this clip' });
  await expect(card).toBeVisible();
  await remove();
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(card).toBeVisible();
  await remove();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(card).toHaveCount(0);
  await page.getByRole('button', { name: 'Put back' }).click();
  await expect(card).toBeVisible();
  await remove();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(card).toHaveCount(0);
  await page.goto(`${server.url}/`);
  const bin = page.getByRole('region', { name: 'Bin' });
  await expect(bin.getByText('footage of Parade')).toBeVisible();
  await bin.getByRole('button', { name: 'Put back' }).click();
  await expect(bin).toBeHidden();
  await page.goto(`${server.url}/projects/${id}/footage`);
  await card.click();
  await expect(page.getByTestId('picture')).toHaveAttribute('data-fingerprint', /./, { timeout: 60_000 });
});

test('undo where the bench cannot be seen says what it did', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await page.keyboard.press('c');
  await allKept(page);
  await page.getByRole('link', { name: 'Footage' }).click();
  // Until it is there the bench is in sight.
  await expect(page.getByRole('heading', { name: 'Footage' })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('Undone: “cue 1” is gone.')).toBeVisible();
  await page.keyboard.press('Control+Shift+z');
  await expect(page.getByText('Done again: “cue 1” is there.')).toBeVisible();
  await allKept(page);
  expect((await kept(server, id)).reel.cues).toHaveLength(1);
});

test('projects are put in order by name, by size and by when they were changed', async ({ page, server, clip }) => {
  const { id: heavy } = await projectOfClip(server, clip);
  await server.send('PATCH', `/api/projects/${heavy}`, { name: 'Order, second' });
  for (const name of ['Order, third', 'Order, first']) await server.newProject(name);
  await page.goto(`${server.url}/`);
  const list = page.getByRole('list', { name: 'Projects' });
  const order = async () =>
    (await list.getByRole('link').evaluateAll((links) => links.map((link) => link.getAttribute('aria-label')!))).filter(
      (name) => name.startsWith('Order, '),
    );
  await expect.poll(order).toEqual(['Order, first', 'Order, third', 'Order, second']);
  await choose(page, 'Order', 'name');
  await expect.poll(order).toEqual(['Order, first', 'Order, second', 'Order, third']);
  await expect(list.getByRole('listitem').filter({ hasText: 'Order, second' })).toContainText(/\d MB/);
  await choose(page, 'Order', 'size');
  await expect.poll(async () => (await order())[0]).toBe('Order, second');
});
