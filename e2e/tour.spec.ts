import { ACCENT_KINDS, LOOKS } from '@idle-bend/core/look';
import { BEND_SHAPES, CLIP_SHAPES } from '@idle-bend/core/shape';
import { reachSlope } from '@idle-bend/core/time-map';
import {
  allKept,
  choose,
  clipOf,
  drag,
  draftChecksums,
  expect,
  kept,
  openBench,
  picture,
  projectOfClip,
  test,
  type Clip,
} from './fixtures.js';
import { slowPan } from './slow-pan.js';
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
    await expect(panel.getByRole('button', { name: /^Remove “.*”$/ })).toBeVisible();
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

test('a point is dragged freely, or keeps the speed before it or after it', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('b');
  await page.getByRole('textbox', { name: 'Source frame' }).fill('60');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  const slopes = async () => {
    await allKept(page);
    const { map } = clipOf(await kept(server, id));
    return [0, 1].map((reach) => reachSlope(map, reach));
  };
  const before = await slopes();
  const point = page.getByRole('button', { name: /^Bend 1 at frame/ });
  for (const [key, keeps] of [
    [undefined, undefined],
    ['Shift', 0],
    ['Control', 1],
  ] as const) {
    await drag(page, point, 45, -12, key);
    const after = await slopes();
    for (const reach of [0, 1])
      if (reach === keeps) expect([key, reach, after[reach]]).toEqual([key, reach, expect.closeTo(before[reach]!, 6)]);
      else expect(Math.abs(after[reach]! - before[reach]!)).toBeGreaterThan(0.05);
    await page.keyboard.press('Control+z');
    expect(await slopes()).toEqual(before);
  }
});

test('beats three for two and back; what misses most is first in the list, and one key lands all of it', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await threeFlashes(page, server, folder, 120);
  await layMusic(page, folder);
  const beats = async () => (await allKept(page), (await kept(server, id)).reel.sounds[0]!.beats!.times);
  const heard = await beats();
  await page.getByRole('button', { name: '× 3⁄2' }).click();
  const more = await beats();
  const gap = (times: readonly number[]) => (times.at(-1)! - times[0]!) / (times.length - 1);
  expect(gap(more)).toBeCloseTo((gap(heard) * 2) / 3, 2);
  await page.getByRole('button', { name: '× 2⁄3' }).click();
  expect(gap(await beats())).toBeCloseTo(gap(heard), 2);

  await page.keyboard.press('Escape');
  await page.getByTestId('move-a').click({ position: { x: 40, y: 8 } });
  await expect(page.getByTestId('found-moments').locator('path').first()).toBeVisible();
  await page.keyboard.press('e');
  await page.getByRole('button', { name: 'Lay these 3 clips' }).click();
  await expect(page.getByTestId('move-b')).toBeVisible();
  await page.getByTestId('move-b').click({ position: { x: 40, y: 8 } });
  await page.getByRole('tab', { name: 'Place' }).click();
  for (const [name, frames] of [
    ['b', '9'],
    ['c', '4'],
  ] as const) {
    await page.getByTestId(`move-${name}`).click({ position: { x: 40, y: 8 } });
    await page.getByLabel('Slip, source frames').fill(frames);
    await page.keyboard.press('Enter');
  }
  await page.keyboard.press('/');
  await page.getByPlaceholder('What do you want to do?').fill('All landings');
  await page.keyboard.press('Enter');
  const list = page.getByRole('list', { name: 'All landings' }).getByRole('listitem');
  await expect(list.nth(0)).toContainText('in b');
  await expect(list.nth(1)).toContainText('in c');
  await expect(list.nth(2)).toContainText('landed');
  await page.keyboard.press('Shift+T');
  await expect(page.getByText('3 of 3 landed')).toBeVisible();
});

test('a ramp join is matched by the picture, keeps content, and takes another shape; a patch of the picture is held', async ({
  page,
  server,
  folder,
}) => {
  const { id } = await slowPan(page, server, folder, { method: 'step' }, 'noise', 2);
  await page.keyboard.press('Shift+J');
  const panel = page.getByRole('region', { name: 'Ramp join' });
  await expect(panel).toBeVisible();
  const joinNow = async () => (await allKept(page), (await kept(server, id)).reel.joins[0]!);
  expect(await joinNow()).toMatchObject({ matched: null, keeps: 'slot', ease: 'soft' });
  await panel.getByLabel('Speeds at the cut').getByRole('radio', { name: 'by motion' }).click();
  expect((await joinNow()).matched).not.toBeNull();
  await panel.getByLabel('Speeds at the cut').getByRole('radio', { name: 'equal' }).click();
  expect((await joinNow()).matched).toBeNull();
  const lengths = async () => (await kept(server, id)).reel.items.map((item) => (item as Clip).map.vertices.at(-1)!.t);
  const before = await lengths();
  await panel.getByLabel('Keeps', { exact: true }).getByRole('radio', { name: 'content' }).click();
  expect((await joinNow()).keeps).toBe('content');
  (await lengths()).forEach((frames, i) => expect(frames).toBeLessThan(before[i]!));
  await choose(page, 'Shape', 'Silk');
  expect((await joinNow()).ease).toBe('silk');
  await panel.getByRole('button', { name: 'Remove', exact: true }).click();

  await page.getByRole('tab', { name: 'Picture' }).click();
  await page.getByRole('button', { name: 'A patch…' }).click();
  await picture(page).click({ position: { x: 160, y: 110 } });
  await expect(page.getByText(/^The patch/)).toBeVisible();
  await allKept(page);
  const { steady } = clipOf(await kept(server, id));
  expect(steady).not.toBeNull();
});

test('a push goes the way that is chosen, over its own frames', async ({ page, server, clip, folder }) => {
  const { id } = await projectOfClip(server, clip, ['first', 'second']);
  await openBench(page, server, id);
  const plain = await draftChecksums(server, id, folder);
  await page.keyboard.press('Shift+A');
  const panel = page.getByRole('region', { name: 'Accents' });
  await panel.getByRole('button', { name: 'push', exact: true }).click();
  const drafted = async () => {
    await allKept(page);
    return draftChecksums(server, id, folder);
  };
  const left = await drafted();
  const { frames } = LOOKS.push.initial;
  expect(left.flatMap((checksum, k) => (checksum === plain[k] ? [] : [k]))).toEqual(
    Array.from({ length: frames }, (_, i) => 48 - frames / 2 + i),
  );
  await panel.getByLabel('Towards', { exact: true }).getByRole('radio', { name: 'up' }).click();
  const up = await drafted();
  expect((await kept(server, id)).reel.accents[0]!.look).toMatchObject({ kind: 'push', way: 'up' });
  expect(up[48]).not.toBe(left[48]);
  expect(up[0]).toBe(plain[0]);
});
