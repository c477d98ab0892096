import { ACCENT_KINDS, LOOKS } from '@idle-bend/core/look';
import { BEND_SHAPES, CLIP_SHAPES } from '@idle-bend/core/shape';
import { reachSlope } from '@idle-bend/core/time-map';
import { allKept, clipOf, drag, expect, kept, openBench, picture, projectOfClip, test } from './fixtures.js';
import { layMusic, threeFlashes } from './flashes.js';

/** What the tour names, each thing tried by hand at least once; what has a test of its own is not here. */
test('every shape goes on a clip and on a bend, and one undo takes each off', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const mapNow = async () => (await allKept(page), clipOf(await kept(server, id)).map);
  const plain = await mapNow();
  await page.getByRole('tab', { name: 'Shapes' }).click();
  const shapes = page.getByRole('group', { name: 'Shapes for the clip' });
  await expect(shapes.getByRole('button')).toHaveCount(CLIP_SHAPES.length);
  for (const { name } of CLIP_SHAPES) {
    await shapes.getByRole('button', { name, exact: true }).click();
    const shaped = await mapNow();
    expect(shaped.vertices.length, name).toBeGreaterThan(2);
    expect(Math.ceil(shaped.vertices.at(-1)!.t - 1e-6), name).toBe(48);
    await page.keyboard.press('Control+z');
    expect(await mapNow(), name).toEqual(plain);
  }
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('b');
  await page.getByRole('textbox', { name: 'Source frame' }).fill('60');
  await page.keyboard.press('Enter');
  await mapNow();
  const forBends = page.getByRole('group', { name: 'Shape', exact: true });
  for (const { name, ease } of BEND_SHAPES) {
    await forBends.getByRole('button', { name, exact: true }).click();
    expect((await mapNow()).bends[1]!.ease, name).toEqual(ease);
  }
});

test('speeds below 0, H, and the keys for in-betweens', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const clipNow = async () => (await allKept(page), clipOf(await kept(server, id)));
  await page.getByRole('button', { name: 'Reach 1, 100 %' }).click();
  await page.keyboard.type('-50');
  await expect(page.getByRole('textbox', { name: 'Speed', exact: true })).toHaveValue('-50');
  await page.keyboard.press('Enter');
  expect(Math.round(reachSlope((await clipNow()).map, 0) * 20)).toBe(-50);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Escape');
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('h');
  const { map } = await clipNow();
  expect(map.vertices.slice(1).map((_, i) => reachSlope(map, i))).toEqual([5, 0, 5]);
  for (const [key, method] of [
    ['Alt+3', 'flow'],
    ['Alt+2', 'mix'],
    ['Alt+1', 'step'],
  ] as const) {
    await page.keyboard.press(key);
    expect((await clipNow()).method).toBe(method);
  }
});

test('the reel is zoomed by keys and by the wheel, and a clip is moved by its name', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip, ['a', 'b', 'c']);
  await openBench(page, server, id);
  const width = async () => (await page.locator('[data-clip=a] rect').first().boundingBox())!.width;
  const whole = await width();
  await page.keyboard.press('z');
  await expect.poll(width).toBeGreaterThan(1.2 * whole);
  await page.keyboard.press('Shift+Z');
  await expect.poll(async () => Math.abs((await width()) - whole)).toBeLessThan(1);
  const box = (await page.getByRole('group', { name: 'Reel' }).boundingBox())!;
  await page.mouse.move(box.x + 40, box.y + 30);
  await page.keyboard.down('Control');
  await page.mouse.wheel(0, -300);
  await page.keyboard.up('Control');
  await expect.poll(width).toBeGreaterThan(1.2 * whole);
  await page.keyboard.press('a');
  await expect.poll(async () => Math.abs((await width()) - whole)).toBeLessThan(1);
  await drag(page, page.getByTestId('move-a'), 1.2 * whole, 0);
  await allKept(page);
  expect((await kept(server, id)).reel.items.map((item) => item.id)).toEqual(['b', 'a', 'c']);
});

test('the line of a wipe is dragged', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await page.keyboard.press('v');
  await page.getByLabel('Speed over all').fill('50');
  await page.keyboard.press('Enter');
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  const pixels = () =>
    page.evaluate(async () => {
      const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=picture] canvas')!;
      const small = new OffscreenCanvas(32, 18);
      const context = small.getContext('2d')!;
      context.drawImage(await createImageBitmap(canvas), 0, 0, 32, 18);
      return [...context.getImageData(0, 0, 32, 18).data].join(' ');
    });
  await page.keyboard.press('x');
  await expect(page.getByTestId('compare')).toHaveAttribute('data-other', '100');
  const middle = await pixels();
  const box = (await page.getByTestId('compare').boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.9, box.y + box.height / 2, { steps: 4 });
  await page.mouse.up();
  await expect.poll(pixels).not.toBe(middle);
});

test('every accent goes on by one press, on what it is for, and comes off by one undo', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await threeFlashes(page, server, folder);
  await layMusic(page, folder);
  await allKept(page);
  const before = await kept(server, id);
  await page.keyboard.press('Shift+A');
  const panel = page.getByRole('region', { name: 'Accents' });
  for (const kind of ACCENT_KINDS) {
    await panel.getByRole('button', { name: kind, exact: true }).last().click();
    await expect(panel.getByRole('button', { name: /^Take “.*” off$/ })).toBeVisible();
    await allKept(page);
    const [set, ...others] = (await kept(server, id)).reel.accents;
    expect(others).toEqual([]);
    const { sustained, acrossCuts } = LOOKS[kind];
    expect(set, kind).toMatchObject({
      look: { kind },
      on: { kind: sustained ? 'range' : acrossCuts ? 'cuts' : 'music' },
    });
    await page.keyboard.press('Control+z');
    await allKept(page);
    expect(await kept(server, id), kind).toEqual(before);
  }
  // What of the music one falls on.
  await panel.getByRole('button', { name: 'punch', exact: true }).last().click();
  for (const [on, of] of [
    ['beats', 'beats'],
    ['snares', 'mid'],
    ['hats', 'high'],
    ['drums', 'low'],
    ['first beats of bars', 'bars'],
  ] as const) {
    await panel.getByRole('combobox', { name: 'On', exact: true }).click();
    await page.getByRole('option', { name: on, exact: true }).click();
    await allKept(page);
    expect((await kept(server, id)).reel.accents[0]!.on).toMatchObject({ kind: 'music', of });
  }
  await expect(picture(page)).toBeVisible();
});
