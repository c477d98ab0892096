import { join } from 'node:path';
import type { Footage } from '@idle-bend/core/api';
import { addCue, addMoment, addSound, updateClip, withMap } from '@idle-bend/core/edit';
import { addVertex } from '@idle-bend/core/time-map';
import type { Locator, Page } from '@playwright/test';
import { beatsAt, type Strike } from '../packages/core/src/beats/test-drums.js';
import { makeDrumFile } from '../packages/media/test/drum-file.js';
import { expect, openBench, projectOfClip, test } from './fixtures.js';

const BEATS = beatsAt(100, 0.4, 8);

/** How often each part of the bench has been drawn. */
const drawn = (page: Page) =>
  page.evaluate(() =>
    Object.fromEntries((globalThis as unknown as { idleBendDrawn: Map<string, number> }).idleBendDrawn),
  );

/** The parts that were drawn again while something was dragged from its middle, before it was let go and taken back. */
async function drawnByDragging(page: Page, target: Locator, dx: number, dy: number): Promise<string[]> {
  const { x, y, width, height } = (await target.boundingBox())!;
  await page.mouse.move(x + width / 2, y + height / 2);
  await page.mouse.down();
  await page.mouse.move(x + width / 2 + 4, y + height / 2);
  // What a press selects is drawn by now.
  await page.waitForTimeout(500);
  const begun = await drawn(page);
  for (let i = 1; i <= 8; i++) await page.mouse.move(x + width / 2 + 4 + (dx * i) / 8, y + height / 2 + (dy * i) / 8);
  await page.waitForTimeout(500);
  const after = await drawn(page);
  await page.keyboard.press('Escape');
  await page.mouse.up();
  return Object.keys(after).filter((name) => after[name]! > (begun[name] ?? 0));
}

test('a drag draws what it touches again, and nothing else', async ({ page, server, folder, clip }) => {
  const { id, footage } = await projectOfClip(server, clip, ['a', 'b', 'c']);
  const strikes = BEATS.map((time): Strike => ({ time, drum: 'snare' }));
  const { id: clicks } = await server.upload(id, makeDrumFile(join(folder, 'lane.wav'), strikes, 8));
  const media = async () => (await server.footage(id)) as Footage[];
  await server.until(media, (all) => all.find((each) => each.id === clicks)?.sound === 'ready');
  const { version, document } = (await server.get(`/api/projects/${id}`)).body;
  const beats = { times: BEATS, bar: { beats: 4, first: 0 } };
  const marked = addCue(addMoment(document, footage, { id: 'hit', frame: 100, name: 'flash' }), {
    id: 'q',
    frame: 300,
    name: 'q',
  });
  const laid = addSound(marked, {
    ...{
      id: 'clicks',
      footageId: clicks,
      name: 'clicks',
      startSeconds: 0,
      fromSeconds: 0,
      toSeconds: 8,
      gainDb: 0,
      fadeInSeconds: 0,
      fadeOutSeconds: 0,
      beats,
    },
  });
  const bent = updateClip(laid, laid.reel.items[0]!.id, (c) =>
    withMap(c, addVertex(c.map, 20, { widthFrames: 8, ease: 'soft' }).map),
  );
  await server.send('PUT', `/api/projects/${id}/document`, { version, document: bent, by: 'setup' });
  // What is looked into in the background would be drawn when it is there.
  await page.route('**/events', (route) => route.abort());
  await openBench(page, server, id);
  await expect(page.getByTestId('sound-clicks')).toBeVisible();
  const [first, second, third] = bent.reel.items.map((item) => item.id);

  const byBend = await drawnByDragging(page, page.getByRole('button', { name: /^Bend 1/ }), 24, -16);
  expect(byBend).toEqual(
    expect.arrayContaining(['curve', 'speed', 'in-betweens', `clip ${first}`, `threads ${first}`]),
  );
  for (const name of [`clip ${second}`, `clip ${third}`, `threads ${second}`, 'sound clicks', 'cues', 'joins', 'ruler'])
    expect(byBend).not.toContain(name);
  for (const name of ['filmstrip', 'time lines', 'moment lines', 'chart title', 'transport', 'reel range', 'accents'])
    expect(byBend).not.toContain(name);

  const byMusic = await drawnByDragging(page, page.getByTestId('sound-clicks'), -40, 0);
  expect(byMusic).toContain('sound clicks');
  const ofPicture = /^(clip|speed|bends|in-betweens|filmstrip|moment lines|chart title|transport|readouts|joins|ruler)/;
  expect(byMusic.filter((name) => ofPicture.test(name))).toEqual([]);
});
