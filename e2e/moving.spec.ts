import type { Project } from '@idle-bend/core/model';
import { reachSlope } from '@idle-bend/core/time-map';
import { allKept, choose, clipOf, drag, expect, kept, openBench, projectOfClip, test } from './fixtures.js';

const speedsOf = (project: Project) => {
  const { map } = clipOf(project);
  return map.vertices.slice(1).map((_, i) => Math.round((reachSlope(map, i) / 5) * 1000) / 10);
};

test('a bend is dragged by its lens and keeps both speeds, or its source frame, as its panel says', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('b');
  await page.getByRole('textbox', { name: 'Source frame' }).fill('50');
  await page.keyboard.press('Enter');
  await allKept(page);
  const before = await kept(server, id);
  expect(speedsOf(before)).toEqual([50, 135.7]);

  const lens = page.getByRole('slider', { name: 'Place of bend 1' });
  await drag(page, lens, 60, 0);
  await allKept(page);
  const moved = await kept(server, id);
  expect(speedsOf(moved)).toEqual([50, 135.7]);
  const { t, s } = clipOf(moved).map.vertices[1]!;
  expect(t).toBeGreaterThan(20);
  expect(t).toBe(Math.round(t));
  // The content stays: it lasts longer, for more of it is slow.
  expect(clipOf(moved).map.vertices[2]!.s).toBe(240);
  expect(clipOf(moved).map.vertices[2]!.t).toBeGreaterThan(48);
  // A press leaves the keys with the bench; focused, arrows move it.
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowRight');
  await expect(page.getByTestId('picture')).toHaveAttribute('data-frame', '1');
  await lens.focus();
  await page.keyboard.press('ArrowLeft');
  await allKept(page);
  expect(clipOf(await kept(server, id)).map.vertices[1]!.t).toBe(t - 1);

  await page.getByRole('radiogroup', { name: 'Moving keeps' }).getByText('Source frame').click();
  await page.getByRole('textbox', { name: 'Sits at, frame' }).fill(String(t + 4));
  await page.keyboard.press('Enter');
  await allKept(page);
  const kept1 = clipOf(await kept(server, id)).map.vertices[1]!;
  expect([kept1.t, kept1.s]).toEqual([t + 4, expect.closeTo(s - 2.5, 6)]);
});

test('a bend that loses its room says so, and has its width again when there is room', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const bends = async () => clipOf(await kept(server, id)).map.bends.map(({ widthFrames }) => Math.round(widthFrames));
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('b');
  await page.getByRole('textbox', { name: 'Source frame' }).fill('60');
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: 'Width, frames' }).fill('16');
  await page.keyboard.press('Enter');
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('b');
  await expect(page.getByRole('heading', { name: 'Bend 2' })).toBeVisible();
  await allKept(page);
  const [, wide, other] = await bends();
  expect(wide).toBe(16);
  const sits = page.getByRole('textbox', { name: 'Sits at, frame' });
  await page.getByRole('radiogroup', { name: 'Moving keeps' }).getByText('Source frame').click();
  await sits.fill('26');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/bends have less room than their widths/)).toBeVisible();
  await allKept(page);
  expect((await bends())[1]).toBeLessThan(12);
  await page.getByRole('button', { name: 'Bend before' }).click();
  await expect(page.getByText(/Its 16 frames have no room beside its neighbours/)).toBeVisible();
  await page.getByRole('button', { name: 'Bend after' }).click();
  await sits.fill('40');
  await page.keyboard.press('Enter');
  await allKept(page);
  expect(await bends()).toEqual([0, 16, other, 0]);
});

test('a range is pulled at both ends; held, stepped through; its ramps are as wide as is said', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('i');
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('o');
  const panel = page.getByRole('region', { name: 'Range' });
  await expect(panel).toContainText('frames 10 to 20');
  await drag(page, page.getByRole('slider', { name: 'End of the range' }), 80, 0);
  await expect(panel).not.toContainText('frames 10 to 20');
  const end = Number(/frames 10 to (\d+)/.exec(await panel.innerText())![1]);
  expect(end).toBeGreaterThan(22);
  await page.getByRole('slider', { name: 'Start of the range' }).focus();
  for (let i = 0; i < 2; i++) await page.keyboard.press('ArrowRight');
  await expect(panel).toContainText(`frames 12 to ${end}`);

  await panel.getByRole('textbox', { name: 'Ramps at both ends, frames' }).fill('4');
  await page.keyboard.press('Enter');
  await panel.getByRole('button', { name: 'Hold' }).click();
  await allKept(page);
  const held = clipOf(await kept(server, id)).map;
  expect(held.vertices.slice(0, 3).map(({ t }) => t)).toEqual([0, 12, end + 1]);
  expect(speedsOf(await kept(server, id))).toEqual([100, 0, 100]);
  expect(held.bends.map(({ widthFrames }) => widthFrames)).toEqual([0, 4, 4, 0]);
  await page.getByRole('button', { name: 'Undo' }).click();
  await panel.getByRole('button', { name: 'Steps' }).click();
  await allKept(page);
  expect(speedsOf(await kept(server, id)).slice(0, 5)).toEqual([100, 75, 50, 25, 100]);
});

test('speed, framing and sound are put on many clips, and many are taken off, each one undo', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip, ['one', 'two', 'three']);
  await openBench(page, server, id);
  const clips = async () => (await kept(server, id)).reel.items.flatMap((item) => (item.kind === 'clip' ? [item] : []));
  await page.keyboard.press('Control+a');
  const put = async (option: string) => {
    await choose(page, 'Put on all of them', option);
    await page.getByRole('button', { name: 'Apply' }).click();
    await allKept(page);
  };
  await put('muted');
  await put('fills the picture');
  await put('25 %');
  for (const each of await clips()) {
    expect(each).toMatchObject({ sound: { mode: 'mute' }, framing: { fit: 'fill' } });
    expect(each.map.vertices.at(-1)!.t).toBe(4 * 48);
  }
  await page.getByRole('button', { name: 'Undo' }).click();
  await allKept(page);
  for (const each of await clips()) expect(each.map.vertices.at(-1)!.t).toBe(48);

  // The last two go together.
  await page.keyboard.press('Escape');
  await page.keyboard.press('PageDown');
  await page.keyboard.press('Shift+PageDown');
  await page.getByRole('button', { name: 'Remove' }).click();
  await expect(page.getByText('2 clips taken off; one undo brings all back.')).toBeVisible();
  await allKept(page);
  expect((await clips()).map(({ name }) => name)).toEqual(['one']);
  await page.keyboard.press('Control+z');
  await allKept(page);
  expect((await clips()).map(({ name }) => name)).toEqual(['one', 'two', 'three']);
});

test('a shape that would ask for source that is not there says so before it is put on', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await page.getByRole('tab', { name: 'Shapes' }).click();
  const shape = page.getByRole('group', { name: 'Shapes for the clip' }).getByRole('button', { name: 'Touchdown' });
  await shape.hover();
  await expect(page.getByText('Not for:')).toBeVisible();
  await expect(page.getByText(/would have no source/)).toHaveCount(0);
  // Backward the clip ends a frame of the reel before its source begins: slow there, two frames fall short.
  await page.mouse.move(5, 5);
  await page.keyboard.press('r');
  await page.getByRole('tab', { name: 'Shapes' }).click();
  await shape.hover();
  await expect(page.getByText('On this clip 2 frames would have no source: trim or slip it first.')).toBeVisible();
});
