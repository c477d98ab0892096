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
    // Controls are large enough to be hit.
    const small = await page.locator('main button:visible, header button:visible').evaluateAll((buttons) =>
      buttons.flatMap((button) => {
        const box = button.getBoundingClientRect();
        const inside = box.right > 0 && box.bottom > 0 && box.top < innerHeight && box.left < innerWidth;
        return inside && Math.min(box.width, box.height) < 24 ? [button.textContent || button.ariaLabel || '?'] : [];
      }),
    );
    expect(small, name).toEqual([]);
  }
});
