import type { Clip, Project } from '@idle-bend/core/model';
import { positionAt, reachSlope } from '@idle-bend/core/time-map';
import { allKept, clipOf, drag, expect, kept, openBench, projectOfClip, test } from './fixtures.js';

test('one key lands a moment on its cue, exactly and as one undo; a change by hand shows its drift; and it lands again', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const mapNow = async () => {
    await allKept(page);
    return clipOf(await kept(server, id)).map;
  };
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('m');
  for (let i = 0; i < 7; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('c');
  await page.getByRole('group', { name: 'Reel' }).getByText('−7 f').click();
  await expect(page.getByText('“moment 1” shows 7 frames before “cue 1”.')).toBeVisible();

  await page.keyboard.press('t');
  await expect(page.getByText('“moment 1” shows exactly on “cue 1”.')).toBeVisible();
  const landed = await mapNow();
  expect(Math.abs(positionAt(landed, 27) - 100)).toBeLessThanOrEqual(1e-6);
  expect(landed.vertices.at(-1)!.s).toBeCloseTo(240, 9);
  expect(clipOf(await kept(server, id)).ties).toHaveLength(1);

  await drag(page, page.getByRole('button', { name: 'End of the clip' }), -120, 0);
  await page
    .getByRole('group', { name: 'Reel' })
    .getByText(/[+−]\d+ f|between/)
    .click();
  await page.getByRole('button', { name: 'Land again' }).click();
  await expect(page.getByText('“moment 1” shows exactly on “cue 1”.')).toBeVisible();
  expect(Math.abs(positionAt(await mapNow(), 27) - 100)).toBeLessThanOrEqual(1e-6);

  // A second moment cannot show on the same frame; the clip stays as it is.
  const before = await mapNow();
  await page.keyboard.press('Home');
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('m');
  await page.keyboard.press('t');
  await expect(page.getByText(/cannot show both/)).toBeVisible();
  expect(await mapNow()).toEqual(before);

  const undo = page.getByRole('button', { name: 'Undo' });
  while (await undo.isEnabled()) await undo.click();
  expect((await mapNow()).vertices).toHaveLength(2);
});

test('with the slot kept, a landing leaves the clip’s length alone', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('m');
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('c');
  await page.getByRole('group', { name: 'Reel' }).getByText('+5 f').click();
  await page.getByRole('radio', { name: 'Slot' }).click();
  await page.getByRole('button', { name: /Land it/ }).click();
  await expect(page.getByText('“moment 1” shows exactly on “cue 1”.')).toBeVisible();
  await allKept(page);
  const { map } = clipOf(await kept(server, id));
  expect(map.vertices.at(-1)).toEqual({ t: 48, s: 240 });
  expect(Math.abs(positionAt(map, 25) - 150)).toBeLessThanOrEqual(1e-6);

  // Something hits there: what Flow makes beside that frame is told so.
  const kind = async () => (await allKept(page), (await kept(server, id)).sources[0]!.moments[0]!.kind);
  await page.getByRole('radio', { name: 'Hits' }).click();
  expect(await kind()).toBe('hit');
  await page.getByRole('radio', { name: 'Goes on' }).click();
  expect(await kind()).toBeUndefined();
});

test('a landing keeps clean speeds and real frames; the other way is seen on the chart, and one key takes it', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  const { version, document } = (await server.get<{ version: number; document: Project }>(`/api/projects/${id}`)).body;
  const slow = {
    vertices: [
      { t: 0, s: 0 },
      { t: 15, s: 75 },
      { t: 55, s: 115 },
      { t: 75, s: 215 },
    ],
    bends: [0, 8, 8, 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const })),
  };
  const items = document.reel.items.map((item) => ({ ...item, map: slow }) as Clip);
  const changed = { ...document, reel: { ...document.reel, items } };
  await server.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'setup' });
  await openBench(page, server, id);
  const speeds = async () => {
    await allKept(page);
    const { map } = clipOf(await kept(server, id));
    expect(Math.abs(positionAt(map, 36) - 90)).toBeLessThanOrEqual(1e-6);
    return map.vertices.slice(1).map((_, i) => Number(reachSlope(map, i).toFixed(6)));
  };
  for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('m');
  for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('c');
  await page.getByRole('group', { name: 'Reel' }).getByText('−6 f').click();
  // Both ways are on the chart before either is taken.
  const ghosts = page.getByTestId('landing-ghosts');
  await expect(ghosts).toContainText(/T · Keep speeds: \d+ of 75 real/);
  await expect(ghosts).toContainText(/T T · Change speeds: \d+ of \d+ real/);
  await page.keyboard.press('t');
  await expect(ghosts).toBeHidden();
  await expect(page.getByText(/Every speed stays; where they change moved by up to 1.5 frames/)).toBeVisible();
  expect(await speeds()).toEqual([5, 1, 5]);
  const other = page.getByTestId('other-landing');
  await expect(other).toContainText(/T · Change speeds: \d+ of \d+ real/);
  await page.keyboard.press('t');
  await expect(page.getByText(/The speeds changed/)).toBeVisible();
  await expect(other).toContainText(/T · Keep speeds: \d+ of 75 real/);
  expect(await speeds()).not.toContain(1);
  await page.keyboard.press('t');
  await expect(page.getByText(/Every speed stays/)).toBeVisible();
  expect(await speeds()).toEqual([5, 1, 5]);
  // After another edit there is nothing to choose any more.
  await page.keyboard.press('Control+z');
  await expect(other).toBeHidden();
});
