// Edits drawn at random on the demo's bench, and what the page's heap does the while.
import { chromium } from '@playwright/test';

const ARGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-background-networking',
  '--no-first-run',
  '--disable-component-update',
  '--disable-sync',
];

/** Keys of the bench that edit, move or look; those that leave it or open a file are not among them. */
const KEYS = [
  'b',
  'm',
  'c',
  't',
  'h',
  'r',
  's',
  'x',
  'v',
  'd',
  'n',
  'z',
  'Shift+Z',
  'a',
  '[',
  ']',
  'i',
  'o',
  'Shift+I',
  'Shift+O',
  'p',
  '-',
  '=',
  '1',
  '2',
  '3',
  'q',
  'w',
  'Home',
  'End',
  'ArrowLeft',
  'ArrowRight',
  'Shift+ArrowRight',
  'PageDown',
  'PageUp',
  'ArrowUp',
  'ArrowDown',
  'Control+ArrowUp',
  'Control+ArrowDown',
  'Control+z',
  'Control+z',
  'Control+Shift+z',
  'Escape',
  'Space',
  'k',
];

const PROJECT = 'marble-parade';

/**
 * Edits for `seconds`, taking the heap's size after a collection at ten moments. Before each the reel is put back as it was at first, by
 * another client, so that the same document is held every time: edits at random make more of a reel than they take away. The first fifth
 * warms up and does not count; `grows` is the slope through the rest by least squares, megabytes a tenth of the time. Throws on an error
 * nobody caught.
 */
export async function soakBrowser(url, seconds, say = () => undefined, seed = 20261126) {
  const browser = await chromium.launch({
    executablePath: process.env.IDLE_BEND_CHROMIUM ?? '/usr/bin/chromium',
    args: ARGS,
  });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const errors = [];
    page.on('pageerror', (error) => errors.push(error.stack));
    await page.goto(`${url}/projects/${PROJECT}/bench`);
    await page.locator('[data-testid=picture][data-fingerprint]').waitFor({ timeout: 60_000 });
    const first = await project(url);
    // The rate, size and length of the reel.
    const about = await page
      .getByRole('banner')
      .getByText(/ fps · /)
      .innerText();
    const session = await page.context().newCDPSession(page);
    await session.send('HeapProfiler.enable');
    // A linear congruence (Numerical Recipes, 7.1): the same edits in every run.
    let state = seed;
    const draw = (n) => Math.floor(((state = (state * 1664525 + 1013904223) % 2 ** 32) / 2 ** 32) * n);
    const start = Date.now();
    const heaps = [];
    let edits = 0;
    while (heaps.length < 10) {
      if (Date.now() - start >= ((heaps.length + 1) * seconds * 1000) / 10) {
        const { reel } = (await project(url)).document;
        await putBack(page, url, first.document, about);
        await session.send('HeapProfiler.collectGarbage');
        const { usedSize } = await session.send('Runtime.getHeapUsage');
        heaps.push(usedSize / 2 ** 20);
        say(
          `${Math.round((Date.now() - start) / 1000)} s: ${edits} edits, ${reel.items.length} items and ${reel.cues.length} cues put back, heap ${heaps.at(-1).toFixed(1)} MB`,
        );
        if (errors.length > 0) throw new Error(errors[0]);
      }
      if (draw(6) === 0) {
        // Somewhere on the chart is taken hold of and moved.
        const [x, y] = [200 + draw(650), 420 + draw(250)];
        await page.mouse.move(x, y);
        await page.mouse.down();
        await page.mouse.move(x + draw(121) - 60, y + draw(81) - 40, { steps: 4 });
        await page.mouse.up();
      } else await page.keyboard.press(KEYS[draw(KEYS.length)]);
      edits++;
      await page.waitForTimeout(15);
    }
    return { edits, heaps, grows: slope(heaps.slice(2)) };
  } finally {
    await browser.close();
  }
}

const project = async (url) => (await fetch(`${url}/api/projects/${PROJECT}`)).json();

async function putBack(page, url, document, about) {
  await page.keyboard.press('Escape');
  await page.keyboard.press('k');
  for (;;) {
    await page.getByText('Saved').waitFor({ timeout: 60_000 });
    const { version } = await project(url);
    const body = JSON.stringify({ version, document, by: 'soak' });
    const { status } = await fetch(`${url}/api/projects/${PROJECT}/document`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/json' },
      body,
    });
    if (status === 409) continue;
    if (status !== 200) throw new Error(`the reel could not be put back (${status})`);
    await page.getByRole('banner').getByText(about, { exact: true }).waitFor({ timeout: 60_000 });
    // What is drawn again for it is drawn.
    return page.waitForTimeout(500);
  }
}

function slope(values) {
  const mean = (all) => all.reduce((sum, v) => sum + v, 0) / all.length;
  const [x, y] = [mean(values.map((_, i) => i)), mean(values)];
  return values.reduce((sum, v, i) => sum + (i - x) * (v - y), 0) / values.reduce((sum, _, i) => sum + (i - x) ** 2, 0);
}
