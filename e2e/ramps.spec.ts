import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { setClipBlur, setSteady } from '@idle-bend/core/edit';
import type { Blur, Project } from '@idle-bend/core/model';
import { parseMotion } from '@idle-bend/core/motion';
import { resolveClip } from '@idle-bend/core/resolve';
import { steadyWhole } from '@idle-bend/core/steady';
import type { Page } from '@playwright/test';
import { readNumbers } from '../packages/media/test/numbered-clip.js';
import {
  allKept,
  clipOf,
  draftChecksums,
  expect,
  kept,
  evenClip,
  openBench,
  playhead,
  projectOfClip,
  projectOfFilm,
  renderFile,
  shownAt,
  test,
} from './fixtures.js';

const undo = (page: Page) => page.keyboard.press('Control+z');
/** By the list of actions. */
const act = async (page: Page, name: string) => {
  await page.keyboard.press('/');
  await page.getByPlaceholder('What do you want to do?').fill(name);
  await page.keyboard.press('Enter');
};
const type = async (page: Page, label: string, text: string) => {
  const field = page.getByLabel(label, { exact: true });
  await field.fill(text);
  await field.press('Enter');
};

test('a ramp join made by hand: one key makes it, the render’s speed goes on across the cut, and it comes off cleanly', async ({
  page,
  server,
  folder,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip, ['first', 'second']);
  await openBench(page, server, id);
  const before = await kept(server, id);
  await page.keyboard.press('Shift+J');
  const panel = page.getByRole('region', { name: 'Ramp join' });
  await expect(panel.getByText('first → second')).toBeVisible();
  // The picture is at the cut, where the join is seen.
  expect(await playhead(page)).toBe(47);
  await type(page, 'Peak', '200 %');
  await type(page, 'In, frames', '18');
  await type(page, 'Out, frames', '18');
  await type(page, 'At the peak, frames', '12');
  await panel.getByRole('radio', { name: 'none' }).click();
  await allKept(page);
  const joined = await kept(server, id);
  expect(joined.reel.joins).toHaveLength(1);
  expect(joined.reel.joins[0]).toMatchObject({
    before: 'first',
    after: 'second',
    into: 18,
    outOf: 18,
    hold: 12,
    peak: 2,
    blur: { kind: 'none' },
  });
  await expect(page.getByRole('button', { name: 'Ramp join' })).toBeVisible();

  const numbers = readNumbers(await renderFile(page, join(folder, 'joined.mkv')));
  expect(numbers).toHaveLength(96);
  // 200 % of 120 fps on a reel of 24 are ten source frames a frame, on both sides of the cut.
  const speeds = [numbers[47]! - numbers[36]!, numbers[59]! - numbers[48]!].map((way) => way / 11);
  for (const speed of speeds) expect(Math.abs(speed / 10 - 1)).toBeLessThan(0.01);
  expect(Math.abs(speeds[0]! / speeds[1]! - 1)).toBeLessThan(0.01);
  // Away from it the clips go on as slowly as they have to for that.
  expect(numbers[10]! - numbers[0]!).toBeLessThan(45);

  await openBench(page, server, id);
  await page.getByRole('button', { name: 'Ramp join' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await allKept(page);
  expect((await kept(server, id)).reel).toEqual(before.reel);
  await undo(page);
  await expect(page.getByRole('button', { name: 'Ramp join' })).toBeVisible();
});

test('whatever breaks a ramp join takes it off on both sides, and says so; one undo brings it back', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip, ['first', 'second']);
  await openBench(page, server, id);
  const before = await kept(server, id);
  await page.keyboard.press('Shift+J');
  await expect(page.getByRole('button', { name: 'Ramp join' })).toBeVisible();
  await allKept(page);
  const joined = await kept(server, id);
  expect(joined.reel.joins).toHaveLength(1);
  const ways: Record<string, () => Promise<void>> = {
    taken: () => page.keyboard.press('Shift+Delete'),
    split: () => page.keyboard.press('s'),
    plain: () => act(page, 'Back to plain'),
    moved: () => page.keyboard.press('Alt+ArrowRight'),
  };
  for (const [way, breakIt] of Object.entries(ways)) {
    await openBench(page, server, id);
    await page.keyboard.press('End');
    await page.keyboard.press('ArrowLeft');
    await breakIt();
    await expect(
      page.getByText('The ramp join from “first” to “second” came off, on both sides of the cut.'),
    ).toBeVisible();
    await allKept(page);
    const broken = await kept(server, id);
    expect(broken.reel.joins).toEqual([]);
    const second = broken.reel.items.find((item) => item.id === 'second');
    expect([way, second]).toEqual([way, before.reel.items[1]]);
    await undo(page);
    await allKept(page);
    expect(await kept(server, id)).toEqual(joined);
  }
});

test('joins at every cut of the picked clips, one undo; a whoosh to a join’s measure', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip, ['one', 'two', 'three']);
  await openBench(page, server, id);
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Ramp join', exact: true }).click();
  await expect(page.getByText('2 cuts joined; one undo takes all off.')).toBeVisible();
  await allKept(page);
  expect((await kept(server, id)).reel.joins.map(({ before, after }) => [before, after])).toEqual([
    ['one', 'two'],
    ['two', 'three'],
  ]);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Ramp join' }).first().click();
  await page.getByLabel('Whoosh').check();
  await type(page, 'Strength', '-20 dB');
  await allKept(page);
  expect((await kept(server, id)).reel.joins.find(({ before }) => before === 'one')!.whoosh).toEqual({
    gainDb: -20,
    tone: 0.5,
  });
  for (let i = 0; i < 3; i++) await undo(page);
  await expect(page.getByRole('button', { name: 'Ramp join' })).toHaveCount(0);
});

/** The whip of the demo, sped up, alone on a reel; its bench open. */
async function whip(page: Page, server: Parameters<typeof projectOfClip>[0], change: (project: Project) => Project) {
  const { id, footage } = await projectOfFilm(server, {
    file: join(process.cwd(), 'demo/footage/whip-out.mp4'),
    name: 'whip',
    width: 1280,
    height: 720,
    clips: (footage) => [evenClip(footage, 'c', 'c', { t: 8, s: 64 })],
    change,
    until: 'motion',
  });
  await openBench(page, server, id);
  return { id, footage };
}

test('blurred or held steady, a frame of the bench is that of a draft', async ({ page, server, folder }) => {
  const shutter: Blur = { kind: 'shutter', angle: 180, always: false };
  const { id, footage } = await whip(page, server, (project) => setClipBlur(project, 'c', shutter));
  const shownKind = async () => {
    const document = await kept(server, id);
    return resolveClip(document, clipOf(document))(4)!.sample.kind;
  };
  const isAsDraft = async () => {
    const [wanted] = (await draftChecksums(server, id, folder)).slice(4);
    await expect.poll(async () => (await shownAt(page, 4)).fingerprint, { timeout: 30_000 }).toBe(wanted);
  };
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight');
  expect(await shownKind()).toBe('shutter');
  await isAsDraft();
  await expect(page.getByText(/blurred over \d\.\d/)).toBeVisible();

  await page.getByRole('tab', { name: 'Picture' }).click();
  const blur = page.getByLabel('Motion blur', { exact: true });
  await blur.getByRole('radio', { name: 'smear' }).click();
  await allKept(page);
  expect(await shownKind()).toBe('smear');
  await isAsDraft();

  await blur.getByRole('radio', { name: 'none' }).click();
  await page.getByLabel('Held steady', { exact: true }).getByRole('radio', { name: 'even move' }).click();
  await expect(page.getByText(/The picture is held from source frame 0 to/)).toBeVisible();
  await allKept(page);
  expect(await shownKind()).toBe('source');
  await isAsDraft();
  // It is what the known motion makes of it.
  const motion = parseMotion((await server.get(`/api/footage/${footage}/motion`)).body);
  const document = await kept(server, id);
  const { steady } = clipOf(document);
  expect(setSteady(document, 'c', steadyWhole(motion, steady!.from, steady!.to, 'move', 16 / 9))).toEqual(document);
});

/** Mean luma of every frame of a file. */
function lumaOf(file: string): number[] {
  const { stdout, status } = spawnSync('ffmpeg', [
    '-v',
    'error',
    '-i',
    file,
    '-vf',
    'format=gray,scale=1:1:flags=area',
    '-f',
    'rawvideo',
    'pipe:1',
  ]);
  expect(status).toBe(0);
  return [...stdout];
}

test('accents on the cues: seen and rendered alike, one left out, and a guard against too many flashes', async ({
  page,
  server,
  folder,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip, ['c']);
  await openBench(page, server, id);
  for (const frame of [6, 12, 18, 24]) {
    while ((await playhead(page)) < frame) await page.keyboard.press('ArrowRight');
    await page.keyboard.press('c');
  }
  await page.keyboard.press('Shift+A');
  await page.getByRole('button', { name: 'flash', exact: true }).click();
  const marks = page.getByRole('list', { name: 'Accents' }).getByRole('listitem');
  await expect(marks).toHaveCount(4);
  await expect(page.locator('[data-accent=flash]')).toHaveCount(4);
  await expect(page.getByText(/4 flashes of the whole picture within a second/)).toBeVisible();
  await page.getByRole('button', { name: 'Leave out 00:00:00:18' }).click();
  await expect(marks).toHaveCount(3);
  await expect(page.getByText(/flashes of the whole picture/)).toHaveCount(0);
  // A press on one goes there, and the picture is white.
  await marks.first().getByRole('button').first().click();
  expect(await playhead(page)).toBe(6);
  const brightness = () =>
    page.evaluate(async () => {
      const shown = await createImageBitmap(document.querySelector<HTMLCanvasElement>('[data-testid=picture] canvas')!);
      const small = new OffscreenCanvas(1, 1);
      const context = small.getContext('2d')!;
      context.drawImage(shown, 0, 0, 1, 1);
      return context.getImageData(0, 0, 1, 1).data[0]!;
    });
  await expect.poll(brightness).toBeGreaterThan(250);
  await page.keyboard.press('ArrowLeft');
  await expect.poll(brightness).toBeLessThan(200);
  await allKept(page);
  const luma = lumaOf(await renderFile(page, join(folder, 'accents.mkv')));
  for (const frame of [6, 12, 24]) expect(luma[frame]!).toBeGreaterThan(230);
  for (const frame of [5, 11, 18, 23]) expect(luma[frame]!).toBeLessThan(160);
  // It falls off over its three frames.
  expect(luma[7]!).toBeLessThan(luma[6]!);
  expect(luma[8]!).toBeLessThan(luma[7]!);
  expect(luma[8]!).toBeGreaterThan(luma[10]! + 10);
});

test('a clip’s own sound: its way, its loudness, a reach of its own; the reel’s ceiling', async ({
  page,
  server,
  folder,
  clip,
}) => {
  const file = join(folder, 'sounding.mp4');
  const { status } = spawnSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-i',
    clip,
    '-f',
    'lavfi',
    '-i',
    'sine=880:d=2:r=48000',
    '-c:v',
    'copy',
    '-c:a',
    'aac',
    '-shortest',
    file,
  ]);
  expect(status).toBe(0);
  const { id, footage } = await projectOfClip(server, file, ['c']);
  await server.until(
    async () => (await server.footage(id)).find((f) => f.id === footage),
    (f) => f?.sound === 'ready',
  );
  await openBench(page, server, id);
  await page.getByRole('tab', { name: 'Sound' }).click();
  await page.getByRole('radio', { name: 'keeps pitch' }).click();
  await type(page, 'Loudness', '-6 dB');
  await type(page, 'Fade out, s', '0.5');
  await allKept(page);
  expect(clipOf(await kept(server, id)).sound).toEqual({
    mode: 'keep',
    freeze: 'silence',
    gainDb: -6,
    fadeInSeconds: 0,
    fadeOutSeconds: 0.5,
    reaches: [],
  });
  await type(page, 'Loudness', 'loud');
  await expect(page.getByRole('alert')).toHaveText('"loud" is not a number of decibels.');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^Reach 1/ }).click();
  await page.getByLabel('Sound of this reach', { exact: true }).getByRole('radio', { name: 'muted' }).click();
  await allKept(page);
  expect(clipOf(await kept(server, id)).sound.reaches).toEqual([{ reach: 0, mode: 'mute' }]);
  // It plays; what is muted is not heard, and nothing goes wrong.
  await page.keyboard.press('Home');
  await page.keyboard.press('Space');
  await expect.poll(() => playhead(page)).toBeGreaterThan(5);
  await page.keyboard.press('k');
  await page.keyboard.press('/');
  await page.getByPlaceholder('What do you want to do?').fill('The reel: its rate');
  await page.keyboard.press('Enter');
  await page.getByLabel('Hold the mix’s true peaks down').check();
  await allKept(page);
  expect((await kept(server, id)).reel.ceiling).toBe(-1);
});
