import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import type { Clip, Project } from '@idle-bend/core/model';
import { placeItems, placeOf } from '@idle-bend/core/reel';
import { resolveClip } from '@idle-bend/core/resolve';
import { positionAt } from '@idle-bend/core/time-map';
import type { Page } from '@playwright/test';
import { readNumbers } from '../packages/media/test/numbered-clip.js';
import {
  allKept,
  choose,
  backToBench,
  drag,
  expect,
  kept,
  openBench,
  picture,
  projectOfClip,
  renderFile,
  test,
} from './fixtures.js';
import type { RunningServer } from '../apps/server/test/running-server.js';

const type = async (page: Page, label: string, text: string) => {
  await page.getByLabel(label, { exact: true }).fill(text);
  await page.getByLabel(label, { exact: true }).press('Enter');
};
const takeUp = (page: Page, clip: string) => page.getByTestId(`move-${clip}`).click({ position: { x: 20, y: 8 } });

async function settled(page: Page, server: RunningServer, id: string): Promise<Project> {
  await allKept(page);
  return kept(server, id);
}
const lengths = (project: Project) => placeItems(project).map(({ frames }) => frames);

/** The source frames a reel of clips and groups under Step shows. */
const shownNumbers = (project: Project) =>
  placeItems(project).flatMap(({ item, frames }) => {
    const show = resolveClip(project, item as Clip);
    return Array.from({ length: frames }, (_, k) => {
      const sample = show(k)?.sample;
      return sample?.kind === 'source' ? sample.frame : -1;
    });
  });

test('clips are bound, bent as one, edited inside, rendered as they are shown, and taken apart', async ({
  page,
  server,
  clip,
  folder,
}) => {
  const { id } = await projectOfClip(server, clip, ['a', 'b', 'c']);
  await openBench(page, server, id);
  await takeUp(page, 'a');
  await page.getByTestId('move-b').click({ position: { x: 20, y: 8 }, modifiers: ['Control'] });
  await page.getByRole('button', { name: /^Group/ }).click();
  expect(lengths(await settled(page, server, id))).toEqual([96, 48]);
  const [group] = (await kept(server, id)).reel.items;
  await expect(page.getByTestId('group-marks')).toBeVisible();

  // Slowed as one, its frames are those of the clips inside, at half their speed; the tail that has no frame after it goes.
  await type(page, 'Speed over all', '50');
  expect(lengths(await settled(page, server, id))).toEqual([191, 48]);
  await page.keyboard.press('Home');
  for (let i = 0; i < 11; i++) await page.keyboard.press('Shift+ArrowRight');
  await expect(picture(page).getByText('b · real · 0035')).toBeVisible();
  await expect(picture(page)).toHaveAttribute('data-position', '55');

  // Inside, the first clip gets shorter; outside, the group with it.
  await page.keyboard.press('Enter');
  await expect(page.getByRole('navigation', { name: 'Open groups' })).toContainText('group of 2');
  await expect(page.locator('[data-clip]')).toHaveCount(2);
  await expect(picture(page).getByText('real · 0035')).toBeVisible();
  await takeUp(page, 'a');
  await page.getByRole('tab', { name: 'Place' }).click();
  await type(page, 'Length, cut at its end', '24');
  await page.keyboard.press('Shift+Enter');
  await expect(page.getByRole('navigation', { name: 'Open groups' })).toBeHidden();
  const shorter = await settled(page, server, id);
  expect(lengths(shorter)).toEqual([143, 48]);

  // A second group around the first; what is rendered is what is shown.
  await page.getByTestId('move-c').click({ position: { x: 20, y: 8 }, modifiers: ['Control'] });
  await page.keyboard.press('Control+b');
  await page.getByRole('tab', { name: 'Speed' }).click();
  await page.getByRole('button', { name: 'Reverse' }).click();
  const nested = await settled(page, server, id);
  expect(lengths(nested)).toEqual([191]);
  const wanted = shownNumbers(nested);
  expect(wanted.slice(0, 3)).toEqual([235, 230, 225]);
  expect(readNumbers(await renderFile(page, join(folder, 'groups.mkv')))).toEqual(wanted);

  // Taken apart twice the clips are on the reel again; undo goes back into the group.
  await backToBench(page);
  await page.getByRole('button', { name: 'Ungroup' }).click();
  await page.locator(`[data-testid=move-${group!.id}]`).click({ position: { x: 20, y: 8 } });
  await page.keyboard.press('Control+Shift+b');
  const apart = await settled(page, server, id);
  expect(apart.reel.items.map((item) => item.id)).toEqual(['a', 'b', 'c']);
  expect(lengths(apart)).toEqual([24, 48, 48]);
  expect(apart.sources).toHaveLength(1);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  expect(await settled(page, server, id)).toEqual(nested);
  await page.keyboard.press('Enter');
  await expect(page.locator('[data-clip]')).toHaveCount(2);
  // An undo that takes the group away takes one out of it.
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('navigation', { name: 'Open groups' })).toBeHidden();
  expect(lengths(await settled(page, server, id))).toEqual([143, 48]);
});

/** The picture as it is seen, or a file's first one, as 24 × 24 levels of grey. */
const greysSeen = (page: Page) =>
  page.locator('[data-testid=picture-itself] canvas').evaluate((canvas: HTMLCanvasElement) => {
    const small = new OffscreenCanvas(24, 24);
    const context = small.getContext('2d')!;
    context.imageSmoothingQuality = 'high';
    context.drawImage(canvas, 0, 0, 24, 24);
    const { data } = context.getImageData(0, 0, 24, 24);
    return {
      shape: canvas.width / canvas.height,
      greys: Array.from({ length: 576 }, (_, i) => (data[4 * i]! + data[4 * i + 1]! + data[4 * i + 2]!) / 3),
    };
  });
function greysOf(file: string): number[] {
  const { stdout } = spawnSync('ffmpeg', [
    '-v',
    'error',
    '-i',
    file,
    '-frames:v',
    '1',
    '-vf',
    'scale=24:24:flags=area,format=rgb24',
    '-f',
    'rawvideo',
    'pipe:1',
  ]);
  return Array.from({ length: 576 }, (_, i) => (stdout[3 * i]! + stdout[3 * i + 1]! + stdout[3 * i + 2]!) / 3);
}

test('a clip is framed in a reel of another shape by hand and by number, and rendered as it is seen', async ({
  page,
  server,
  clip,
  folder,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await page.getByRole('button', { name: /24 fps/ }).click();
  await page.getByRole('button', { name: 'Square 1:1' }).click();
  await page.getByRole('button', { name: 'Close', exact: true }).click();
  await expect.poll(async () => (await greysSeen(page)).shape).toBeCloseTo(1, 2);
  await page.getByRole('tab', { name: 'Picture' }).click();
  await page.getByRole('radio', { name: 'Fill' }).click();
  await drag(page, page.getByTestId('picture-itself'), 30, -12, 'Alt');
  await page.getByTestId('picture-itself').hover();
  await page.mouse.wheel(0, -100);
  await page.mouse.wheel(0, -100);
  await expect(page.getByLabel('Scale')).not.toHaveValue('100 %');
  await page.waitForTimeout(600);
  const framed = (await settled(page, server, id)).reel.items[0] as Clip;
  expect(framed.framing!.fit).toBe('fill');
  expect(framed.framing!.scale).toBeGreaterThan(1.2);
  expect(framed.framing!.x).toBeGreaterThan(0.05);
  expect(framed.framing!.y).toBeLessThan(-0.02);
  await type(page, 'Down', '10 %');
  await type(page, 'Scale', '9000');
  await expect(page.getByRole('alert')).toContainText('Must lie in 5 to 800 %');
  await page.getByLabel('Scale').press('Escape');
  expect(((await settled(page, server, id)).reel.items[0] as Clip).framing!.y).toBeCloseTo(0.1, 6);
  // The wheel's turns were one gesture.
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  expect(((await settled(page, server, id)).reel.items[0] as Clip).framing!.scale).toBe(1);
  await page.keyboard.press('Control+Shift+z');
  await allKept(page);
  await page.waitForTimeout(300);
  const { greys } = await greysSeen(page);
  const rendered = greysOf(await renderFile(page, join(folder, 'framed.mkv')));
  const apart = greys.map((grey, i) => Math.abs(grey - rendered[i]!)).toSorted((a, b) => a - b);
  expect(apart.reduce((a, b) => a + b, 0) / apart.length).toBeLessThan(4);
  expect(new Set(rendered.map(Math.round)).size).toBeGreaterThan(8);
});

test('the reel has a range: set by keys, dragged, played round, and rendered alone', async ({
  page,
  server,
  clip,
  folder,
}) => {
  const { id } = await projectOfClip(server, clip, ['a', 'b']);
  await openBench(page, server, id);
  await page.keyboard.press('Home');
  for (let i = 0; i < 4; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Shift+i');
  for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Shift+o');
  // The clip ends at frame 47: arrows stay in it.
  expect((await settled(page, server, id)).reel.range).toEqual({ from: 40, to: 48 });
  const perFrame = (await page.locator('[data-clip=a] rect').first().boundingBox())!.width / 48;
  await drag(page, page.getByTestId('reel-range-to'), 10 * perFrame, 0, 'Alt');
  expect((await settled(page, server, id)).reel.range).toEqual({ from: 40, to: 58 });

  await page.keyboard.press('Shift+g');
  const head = page.getByTestId('reel-playhead');
  const seen = new Set<number>();
  await expect
    .poll(
      async () => {
        seen.add(Number(await head.getAttribute('data-frame')));
        return [...seen].some((frame) => frame > 49) && [...seen].some((frame) => frame < 48) && seen.size > 6;
      },
      { intervals: [30], timeout: 20_000 },
    )
    .toBe(true);
  expect(Math.min(...seen)).toBeGreaterThanOrEqual(40);
  expect(Math.max(...seen)).toBeLessThan(58);
  await page.keyboard.press('k');

  await page.getByRole('button', { name: 'Render…' }).click();
  await expect(page.getByRole('radio', { name: 'Its range, 18 frames' })).toBeChecked();
  const file = await renderFile(page, join(folder, 'range.mkv'));
  expect(readNumbers(file)).toEqual(Array.from({ length: 18 }, (_, i) => ((40 + i) % 48) * 5));
});

test('a moment is tied from a list; the cut gives; a slot says what fills it', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip, ['a', 'b']);
  await openBench(page, server, id);
  // A cue in the second clip, and a moment six frames after it.
  await takeUp(page, 'b');
  await page.keyboard.press('Home');
  for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('c');
  for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('m');
  await page.getByRole('radio', { name: 'Cut', exact: true }).click();
  await choose(page, 'Land it on', / · cue 1$/);
  await expect(page.getByText('shows exactly on “cue 1”')).toBeVisible();
  const landed = await settled(page, server, id);
  // What comes before is six frames shorter, and no speed changed.
  expect(lengths(landed)).toEqual([42, 48]);
  const b = placeOf(landed, 'b')!;
  expect(positionAt((b.item as Clip).map, 68 - b.start)).toBeCloseTo(130, 6);

  await takeUp(page, 'a');
  await page.getByRole('tab', { name: 'Place' }).click();
  await expect(page.getByTestId('to-fill')).toContainText('The slot needs 42 frames');
  // 240 frames, every third of them: 80; every sixth: 40, too few.
  await page.getByTestId('to-fill').getByRole('button', { name: '80 at 60 %' }).click();
  const filled = placeOf(await settled(page, server, id), 'a')!;
  expect(filled.frames).toBe(42);
  expect(positionAt((filled.item as Clip).map, 20)).toBeCloseTo(60, 6);
});

test('how pictures move is seen on the cards, along the reel and at a cut', async ({ page, server }) => {
  await page.goto(`${server.url}/projects/marble-parade/bench`);
  await page.getByTestId('move-clip-whip-out').click({ position: { x: 20, y: 8 } });
  await page.getByRole('tab', { name: 'Place' }).click();
  // Both whips go the same way, the second faster.
  await expect(
    page.getByText(/^At the cut each picture moves left, \d+° apart, the second \d\.\d times as fast\.$/),
  ).toBeVisible({ timeout: 200_000 });
  await expect(page.locator('[data-clip=clip-whip-out] [data-motion=shift]')).toHaveCount(1);
  // Turned round, it begins with its whip and rests before the other.
  await page.getByRole('tab', { name: 'Speed' }).click();
  await page.getByRole('button', { name: 'Reverse' }).click();
  await page.getByRole('tab', { name: 'Place' }).click();
  await expect(page.getByText(/^At the cut the first picture stands still, the second moves left\.$/)).toBeVisible();
  await page.keyboard.press('Control+z');
  await allKept(page);
  await page.getByRole('link', { name: 'Footage' }).click();
  await expect(
    page.getByRole('img', { name: /^The picture stands still, frames 0 to \d+; moves left/ }).first(),
  ).toBeVisible();
});
