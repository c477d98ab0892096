import type { Page } from '@playwright/test';
import { expect, openBench, projectOfClip, test } from './fixtures.js';

const SIZES = [
  ['1024 × 700', 1024, 700],
  ['1280 × 800', 1280, 800],
  ['1920 × 1080', 1920, 1080],
  ['1280 × 800 at 150 %', 853, 533],
] as const;

test('nothing of the bar is cut off, and the picture, the chart and the panel are in sight, in four sizes', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip);
  await openBench(page, server, id);
  for (const [name, width, height] of SIZES) {
    await page.setViewportSize({ width, height });
    const inSight = [
      page.getByRole('button', { name: 'Render…' }),
      page.getByRole('button', { name: 'Guide', exact: true }),
      page.getByTestId('picture'),
      page.getByRole('group', { name: /^Chart of rail/ }),
      page.getByRole('button', { name: 'Play', exact: true }),
      page.getByRole('textbox', { name: 'Speed over all' }),
      page.getByRole('button', { name: '/ all actions' }),
    ];
    for (const part of inSight) {
      const box = (await part.boundingBox())!;
      expect([box.x >= 0, box.y >= 0], `${name}: ${String(part)}`).toEqual([true, true]);
      expect(box.x + box.width, `${name}: ${String(part)}`).toBeLessThanOrEqual(width + 0.5);
      expect(box.y + box.height, `${name}: ${String(part)}`).toBeLessThanOrEqual(height + 0.5);
    }
    expect(await tooSmall(page), name).toEqual([]);
  }
});

test('in every panel controls are large enough to be hit, and none is wider than its panel', async ({
  page,
  server,
  clip,
}) => {
  const { id } = await projectOfClip(server, clip, ['first', 'second']);
  await openBench(page, server, id);
  const panel = page.getByRole('complementary', { name: 'Picture and selection' });
  const check = async (what: string) => {
    for (const [size, width, height] of SIZES) {
      await page.setViewportSize({ width, height });
      const sizes = await panel.evaluate((element) => [element.scrollWidth, element.clientWidth]);
      expect(sizes[0], `${what}, ${size}`).toBeLessThanOrEqual(sizes[1]!);
      expect(await tooSmall(page), `${what}, ${size}`).toEqual([]);
    }
  };
  for (const tab of await page.getByRole('tab').allTextContents()) {
    await page.getByRole('tab', { name: tab }).click();
    await check(tab);
  }
  for (const [keys, what] of [
    [['b'], 'a bend'],
    [['Escape', 'i', 'o'], 'a range'],
    [['Escape', 'Control+a'], 'many clips'],
    [['Escape', 'Shift+J'], 'a ramp join'],
    [['Escape', 'Shift+A'], 'accents'],
  ] as const) {
    for (const key of keys) await page.keyboard.press(key);
    await check(what);
  }
  await page.getByRole('button', { name: 'shake', exact: true }).click();
  await check('a shake');
});

/** Buttons in sight that are smaller than 24 pixels one way; those within a sentence are as tall as its line. */
const tooSmall = (page: Page) =>
  // A check is pressed four pixels around it, too.
  page.locator(':is(main, header) button:not([role=checkbox]):visible').evaluateAll((buttons) =>
    buttons.flatMap((button) => {
      const box = button.getBoundingClientRect();
      const inside = box.right > 0 && box.bottom > 0 && box.top < innerHeight && box.left < innerWidth;
      const isWord = button.closest('p, li') !== null && getComputedStyle(button).display.startsWith('inline');
      return inside && !isWord && Math.min(box.width, box.height) < 24
        ? [button.textContent || button.ariaLabel || '?']
        : [];
    }),
  );
