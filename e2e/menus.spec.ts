import { bendWindow } from '@idle-bend/core/time-map';
import { allKept, clipOf, expect, kept, openBench, playhead, projectOfClip, test } from './fixtures.js';

test('a right press, or a button, lists what can be done there; keys choose, and go on to the bench', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip, ['rail', 'return']);
  await openBench(page, server, id);
  const reel = page.getByRole('group', { name: 'Reel' });
  const second = reel.locator('[data-clip=return]');
  await second.click({ button: 'right' });
  const menu = page.getByRole('menu', { name: 'Menu of the clip' });
  const reverse = menu.getByRole('menuitem', { name: /^Reverse the clip/ });
  await expect(reverse).toBeVisible();
  // What was pressed is what it is about.
  await expect.poll(() => playhead(page)).toBeGreaterThanOrEqual(48);
  // The item that is typed is chosen a moment later.
  await expect(async () => {
    await page.keyboard.type('Rev');
    await expect(reverse).toBeFocused({ timeout: 2000 });
  }).toPass();
  await page.keyboard.press('Enter');
  await expect(menu).toBeHidden();
  await allKept(page);
  const [first, last] = (await kept(server, id)).reel.items;
  expect(first).toMatchObject({ name: 'rail', map: { vertices: [{ s: 0 }, { s: 240 }] } });
  expect(last).toMatchObject({ name: 'return', map: { vertices: [{ s: 235 }, { s: -5 }] } });

  // Closed with Escape nothing is done, and the bench has the keys again.
  await page.getByRole('button', { name: 'Menu of the clip' }).click();
  await page.keyboard.press('Escape');
  await expect(menu).toBeHidden();
  await page.keyboard.press('Home');
  await expect.poll(() => playhead(page)).toBe(48);

  // On the chart it is about the frame under the pointer.
  const chart = page.getByRole('group', { name: 'Chart of return: timeline across, source up' });
  const box = (await chart.boundingBox())!;
  await chart.click({ button: 'right', position: { x: box.width * 0.6, y: 60 } });
  await expect.poll(() => playhead(page)).toBeGreaterThan(68);
  const at = (await playhead(page)) - 48;
  await page.getByRole('menuitem', { name: /^Bend here/ }).click();
  await allKept(page);
  const bent = (await kept(server, id)).reel.items[1]!;
  const map = bent.kind === 'clip' ? bent.map : undefined;
  expect(map?.vertices[1]?.t).toBe(at);
  expect(bendWindow(map!, 1).from).toBeLessThan(at);

  // A cue, with its own menu; and the reel where nothing else is.
  await page.keyboard.press('c');
  await allKept(page);
  expect((await kept(server, id)).reel.cues).toHaveLength(1);
  await reel.locator('[data-cue] circle').click({ button: 'right' });
  await page
    .getByRole('menu', { name: 'Menu of the cue' })
    .getByRole('menuitem', { name: /^Remove/ })
    .click();
  await allKept(page);
  expect((await kept(server, id)).reel.cues).toHaveLength(0);
  await reel.click({ button: 'right', position: { x: 300, y: 10 } });
  await page.getByRole('menuitem', { name: 'A cue at every cut' }).click();
  await allKept(page);
  expect((await kept(server, id)).reel.cues.map(({ frame }) => frame)).toContain(48);
});

test('clips on the reel show what they begin and end with, and which of them are retimed', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  const reel = page.getByRole('group', { name: 'Reel' });
  const { x: left, width } = (await reel.getByTestId(/^move-/).boundingBox())!;
  /** How many colours are on the reel's canvas where a clip's pictures lie, in a column of pixels. */
  const colours = (at: number) =>
    page.evaluate((column) => {
      const canvas = document.querySelector<HTMLCanvasElement>('main canvas[aria-hidden]')!;
      const context = canvas.getContext('2d')!;
      const seen = new Set<string>();
      for (let y = 44; y < 70; y++) seen.add(context.getImageData(column, y, 1, 1).data.join(' '));
      return seen.size;
    }, Math.round(at));
  // Pictures of the numbered clip have bars of light and dark; between the first and the last there is only the speed line.
  await expect.poll(() => colours(left + 20)).toBeGreaterThan(6);
  await expect.poll(() => colours(left + width - 20)).toBeGreaterThan(6);
  expect(await colours(left + width / 2)).toBeLessThan(7);

  await expect(reel.getByTestId('retimed')).toHaveCount(0);
  await page.getByRole('textbox', { name: 'Speed over all' }).fill('50');
  await page.keyboard.press('Enter');
  await expect(reel.getByTestId('retimed')).toHaveCount(1);
  expect(clipOf(await kept(server, id)).map.vertices).toHaveLength(2);
});
