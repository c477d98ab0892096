import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { H264, makeNumberedClip } from '../packages/media/test/numbered-clip.js';
import { placeItems } from '@idle-bend/core/reel';
import { positionAt, reverseMap } from '@idle-bend/core/time-map';
import type { RunningServer } from '../apps/server/test/running-server.js';
import {
  allKept,
  clipOf,
  evenClip,
  expect,
  kept,
  openBench,
  picture,
  projectOfClip,
  projectOfFilm,
  speedsOf,
  test,
  type Clip,
} from './fixtures.js';
import { FLASH, layMusic, threeFlashes } from './flashes.js';
import { gesturesOf, Hands } from './hands.js';
import { panned, slowPan } from './slow-pan.js';

/** An editor's jobs from end to end, by hand, with as many gestures as `docs/jobs.md` says they take. */
const settled = async (page: Page, server: RunningServer, id: string) => (await allKept(page), kept(server, id));
const counted = (hands: Hands) => expect(hands.gestures).toBe(gesturesOf(test.info().title));

test('Slow a part without cutting', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const hands = new Hands(page);
  await hands.pick(10, 20, 48);
  await hands.write('40');
  expect(speedsOf(clipOf(await settled(page, server, id)))).toEqual([100, 40, 100]);
  counted(hands);
});

test('Two parts in a row, one slow and one fast', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const hands = new Hands(page);
  await hands.pick(5, 13, 48);
  await hands.write('40');
  await expect.poll(async () => placeItems(await settled(page, server, id))[0]!.frames).toBeGreaterThan(55);
  await hands.pick(40, 52, 60);
  await hands.write('300');
  expect(speedsOf(clipOf(await settled(page, server, id)))).toEqual([100, 40, 100, 300, 100]);
  counted(hands);
});

test('Fast, slow, and back', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const hands = new Hands(page);
  await hands.tab('Shapes');
  await hands.button('Hover');
  await hands.button(/^Reach 2, /);
  await hands.type('Speed', '25');
  const speeds = speedsOf(clipOf(await settled(page, server, id)));
  expect(speeds[1]).toBe(25);
  expect(Math.min(speeds[0]!, speeds[2]!)).toBeGreaterThan(100);
  counted(hands);
});

test('The same shape on several, another on one, and all in a group', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip, ['a', 'b', 'c']);
  await openBench(page, server, id);
  const hands = new Hands(page);
  await hands.key('Control+a');
  await hands.button('Surge');
  await hands.press(page.getByTestId('move-c'), { position: { x: 20, y: 8 } });
  await hands.button('Hover');
  await hands.key('Control+a');
  await hands.key('Control+b');
  const { reel, sources } = await settled(page, server, id);
  expect(reel.items).toHaveLength(1);
  const inside = sources.find(({ content }) => content)!.content!.items as Clip[];
  const [a, b, c] = inside.map((each) => speedsOf(each));
  expect(a).toEqual(b);
  expect(c).not.toEqual(a);
  counted(hands);
});

test('Race into the next clip, another that fits, with blur', async ({ page, server, folder }) => {
  // The second goes the other way.
  const { id } = await projectOfFilm(server, {
    file: panned(folder, 'noise'),
    name: 'pan',
    clips: (footage) => {
      const pan = evenClip(footage, 'c', 'pan', { t: 160, s: 40 });
      return [pan, { ...evenClip(footage, 'back', 'pan back', { t: 160, s: 40 }), map: reverseMap(pan.map) }];
    },
    until: 'motion',
  });
  await openBench(page, server, id);
  const hands = new Hands(page);
  await hands.key('Shift+J');
  await hands.radio('Motion blur of the ramps', 'smear');
  const fitting = page.getByRole('list', { name: 'Stretches that move the same way' }).getByRole('button');
  const before = await settled(page, server, id);
  await hands.press(fitting.filter({ hasText: 'second' }).first());
  const { reel } = await settled(page, server, id);
  expect(reel.joins).toMatchObject([{ blur: { kind: 'smear' } }]);
  expect(speedsOf(before.reel.items[1] as Clip, 1)[0]).toBeLessThan(0);
  expect(speedsOf(reel.items[1] as Clip, 1)[0]).toBeGreaterThan(0);
  counted(hands);
});

test('Read as another rate, then a part at 2000 %', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const hands = new Hands(page);
  await hands.tab('Place');
  await hands.button('Conform to 24 fps');
  await expect.poll(async () => placeItems(await settled(page, server, id))[0]!.frames).toBe(240);
  await hands.pick(60, 200, 240);
  await hands.write('2000');
  const project = await settled(page, server, id);
  expect(project.sources[0]!.readAs).toEqual({ num: 24, den: 1 });
  expect(speedsOf(clipOf(project), 1)).toEqual([100, 2000, 100]);
  counted(hands);
});

test('Upright, there and back, held steady, blurred', async ({ page, server, folder }) => {
  const { id } = await slowPan(page, server, folder, { method: 'step' });
  const hands = new Hands(page);
  await hands.button(/^24 fps/);
  await hands.press(
    page.getByRole('group', { name: 'Shape of the picture' }).getByRole('button', { name: /^Upright/ }),
  );
  await hands.pick(40, 80, 160);
  await hands.button('Bounce');
  await hands.key('Escape');
  await hands.tab('Picture');
  await hands.radio('Motion blur', 'shutter');
  await hands.radio('Held steady', 'even move');
  const project = await settled(page, server, id);
  const { width, height } = project.reel;
  expect(height).toBeGreaterThan(width);
  expect(clipOf(project)).toMatchObject({ blur: { kind: 'shutter' }, steady: { keeps: 'move' } });
  expect(speedsOf(clipOf(project), 1)).toEqual([25, 25, -25, 25, 25]);
  counted(hands);
});

test('A ladder of speeds in Flow, a rough spot mended', async ({ page, server, folder }) => {
  const { id } = await slowPan(page, server, folder, { method: 'step' });
  const hands = new Hands(page);
  await hands.tab('Holds');
  await hands.button(/^3 steps from here/);
  await hands.key('Alt+3');
  await hands.button(/^One rough spot: Flow is likely/);
  await hands.button('Mix there');
  await expect(page.getByText('No rough spots')).toBeVisible();
  const { map, mends, method } = clipOf(await settled(page, server, id));
  expect([method, mends.length]).toEqual(['flow', 1]);
  // The last step is as slow as what follows.
  expect(map.vertices).toHaveLength(4);
  counted(hands);
});

test('Freeze with ramps, and at the end', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const hands = new Hands(page);
  await hands.goTo(20, 48);
  await hands.key('Shift+H');
  await hands.key('End');
  await hands.key('Shift+H');
  const held = clipOf(await settled(page, server, id));
  expect(speedsOf(held).filter((speed) => speed === 0)).toHaveLength(2);
  expect(held.map.bends.filter(({ widthFrames }) => widthFrames > 0).length).toBeGreaterThanOrEqual(2);
  counted(hands);
});

test('Animation on twos, a part at 10 %, into 35 frames', async ({ page, server, folder }) => {
  const { id } = await server.newProject();
  const twos = await makeNumberedClip({
    file: join(folder, 'drawn on twos.mp4'),
    frames: 48,
    rate: '24',
    options: H264,
    numberOf: (n) => n >> 1,
  });
  await server.prepared(id, (await server.upload(id, twos)).id);
  await page.goto(`${server.url}/projects/${id}/footage`);
  const hands = new Hands(page);
  await hands.choose('Repeats of drawn on twos.mp4', 'Skipped, closed up');
  await hands.button('Bend this clip');
  await expect(picture(page)).toHaveAttribute('data-fingerprint', /./);
  await hands.pick(8, 10, 24);
  await hands.write('10');
  await hands.type('Length, frames', '35f');
  const slow = clipOf(await settled(page, server, id));
  expect(slow.map.vertices[2]!.t - slow.map.vertices[1]!.t).toBeCloseTo(35, 6);
  counted(hands);
});

test('Music: its beats put right, three hits laid, a whoosh, flashes and punches', async ({ page, server, folder }) => {
  const spare = 240;
  const { id } = await threeFlashes(page, server, folder, spare);
  await layMusic(page, folder);
  const hands = new Hands(page);
  const beats = async () => (await settled(page, server, id)).reel.sounds[0]!.beats!.times.length;
  const heard = await beats();
  await hands.button('÷ 2');
  expect(await beats()).toBeLessThan(heard);
  await hands.press(page.getByTestId('move-a'), { position: { x: 40, y: 8 } });
  await expect(page.getByTestId('found-moments').locator('path').first()).toBeVisible();
  await hands.key('e');
  await hands.button('Lay these 3 clips');
  await hands.key('Shift+A');
  await hands.button('flash');
  await hands.button('punch');
  await hands.key('Shift+J');
  await hands.press(page.getByLabel('Whoosh'));
  await hands.key('Shift+T');
  const laid = await settled(page, server, id);
  for (const { item, start } of placeItems(laid)) {
    const [tie] = (item as Clip).ties;
    const cue = laid.reel.cues.find((each) => each.id === tie!.cueId)!;
    expect(positionAt((item as Clip).map, Math.round(cue.frame) - start)).toBeCloseTo(FLASH + spare, 6);
  }
  expect(laid.reel.accents).toMatchObject([{ look: { kind: 'flash' } }, { look: { kind: 'punch' } }]);
  expect(laid.reel.joins).toMatchObject([{ whoosh: { tone: 0.5 } }]);
  counted(hands);
});

test('Compare two curves and take one', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const hands = new Hands(page);
  await hands.key('v');
  await hands.button('Reach 1, 100 %');
  await hands.type('Speed', '50');
  await hands.key('x');
  await expect(page.getByTestId('compare')).toBeVisible();
  await hands.key('Escape');
  await hands.tab('Compare');
  await hands.button('Use');
  expect(speedsOf(clipOf(await settled(page, server, id)))).toEqual([100]);
  counted(hands);
});

test('Backward, fitted, its pitch kept, and plain again', async ({ page, server, clip, folder }) => {
  const file = join(folder, 'humming.mp4');
  const hum = ['-f', 'lavfi', '-i', 'sine=440:d=2:r=48000', '-c:v', 'copy', '-c:a', 'aac', '-shortest', file];
  expect(spawnSync('ffmpeg', ['-v', 'error', '-y', '-i', clip, ...hum]).status).toBe(0);
  const { id } = await projectOfClip(server, file);
  await openBench(page, server, id);
  const hands = new Hands(page);
  await hands.key('r');
  await hands.type('Length, frames', '72');
  await hands.tab('Sound');
  await hands.press(page.getByRole('radio', { name: 'keeps pitch' }));
  const turned = clipOf(await settled(page, server, id));
  expect(turned.sound.mode).toBe('keep');
  expect(positionAt(turned.map, 0)).toBeGreaterThan(positionAt(turned.map, 71));
  await hands.button('Menu of the clip');
  await hands.press(page.getByRole('menuitem', { name: /^Back to plain/ }));
  expect(speedsOf(clipOf(await settled(page, server, id)))).toEqual([100]);
  counted(hands);
});

test('Type where bends sit and how wide they are', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  await new Hands(page).pick(10, 20, 48);
  await page.keyboard.type('40');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  const hands = new Hands(page);
  await hands.type('Bend 1 sits at', '12');
  await hands.type('Width of bend 2', '8');
  const { map } = clipOf(await settled(page, server, id));
  expect(map.vertices[1]!.t).toBe(12);
  expect(map.bends[2]!.widthFrames).toBe(8);
  counted(hands);
});

test('Hand the reel over', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip, ['first', 'second']);
  await openBench(page, server, id);
  const hands = new Hands(page);
  await hands.press(page.getByRole('link', { name: 'Renders' }));
  const [file] = await Promise.all([page.waitForEvent('download'), hands.button('OpenTimelineIO')]);
  expect(file.suggestedFilename()).toMatch(/\.otio$/);
  counted(hands);
});

test('The picture large, and back', async ({ page, server, clip }) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const width = async () => (await picture(page).boundingBox())!.width;
  const before = await width();
  const hands = new Hands(page);
  await hands.key('Shift+F');
  await expect.poll(width).toBeGreaterThan(1000);
  await hands.key('Shift+F');
  await expect.poll(width).toBe(before);
  counted(hands);
});
