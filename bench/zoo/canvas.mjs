// What a browser puts on the bench's canvas: one reel of all sources, stepped through by keys, its pixels read back.
import { chromium } from '@playwright/test';
import { formatOf } from './draw.mjs';
import { readPicture, rgbOf } from './look.mjs';
import { converted, reelOf } from './render.mjs';

const BT709 = { matrix: 'bt709', primaries: 'bt709', transfer: 'bt709', range: 'limited' };
const SIZE = [320, 180];
/** Frames of each clip; the key that moves by so many goes from clip to clip. */
const STEP = 10;
/** The source frame each clip begins at. */
const FIRST = 3;
const MOST_COLOUR = 2;
const SHOWN_WITHIN_MS = 60_000;

/** Sources that fill the reel's picture and last long enough. */
const fits = ({ size, filters = [], frames, times }) => size.join() === SIZE.join() && !filters.some((f) => f.startsWith('setsar')) && frames >= 30 && !times;

/** The canvas as planes of green, blue and red. */
async function canvasOf(page) {
  const { width, height, data } = await page.locator('[data-testid=picture-itself] canvas').evaluate((canvas) => {
    const copy = new OffscreenCanvas(canvas.width, canvas.height);
    const context = copy.getContext('2d');
    context.drawImage(canvas, 0, 0);
    return { width: canvas.width, height: canvas.height, data: Array.from(context.getImageData(0, 0, canvas.width, canvas.height).data) };
  });
  const count = width * height;
  const planes = Buffer.alloc(3 * count);
  for (let i = 0; i < count; i++) [planes[i], planes[count + i], planes[2 * count + i]] = [data[4 * i + 1], data[4 * i + 2], data[4 * i]];
  return readPicture(planes, formatOf('gbrp'), width, height);
}

/** Rows of the table. `call` asks the server; `footage` is what it has, by the sources' names. */
export async function canvasRows({ url, projectId, call, sources, footageOf, isHigh }) {
  const shown = Object.entries(sources).filter(([, { source }]) => fits(source));
  if (shown.length === 0) return [];
  const reel = { rate: [25, 1], size: SIZE, colour: BT709 };
  const clips = shown.map(([name, { source, read }]) => ({ source: { ...source, name: footageOf(name).id }, read, frames: STEP, from: FIRST }));
  const { version } = await call(`/api/projects/${projectId}`);
  const body = JSON.stringify({ version, document: reelOf(reel, clips), by: 'zoo' });
  const answer = await call(`/api/projects/${projectId}/document`, { method: 'PUT', headers: { 'Content-Type': 'application/json' }, body });
  if (answer.version === undefined) throw new Error(`the reel was refused: ${answer.message}`);
  const browser = await chromium.launch({
    executablePath: process.env.IDLE_BEND_CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking', '--no-first-run', '--disable-component-update', '--disable-sync'],
  });
  const rows = [];
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${url}/projects/${projectId}/bench`);
    await page.locator('[data-testid=picture][data-fingerprint]').waitFor();
    for (const [i, [name, { source, read }]] of shown.entries()) {
      if (i > 0) await page.keyboard.press('Shift+ArrowRight');
      const end = Date.now() + SHOWN_WITHIN_MS;
      let seen = await canvasOf(page);
      while (seen.number !== read.numbers[FIRST] && Date.now() < end) {
        await page.waitForTimeout(100);
        seen = await canvasOf(page);
      }
      const problems = [];
      if (seen.number !== read.numbers[FIRST]) problems.push(`shows ${seen.number}, not ${read.numbers[FIRST]}`);
      else if (!isHigh(source)) {
        const wanted = converted(read.patches, source.colour, BT709);
        const off = seen.patches.map((codes, p) => Math.max(...rgbOf(codes, { pix_fmt: 'gbrp' }).map((v, c) => Math.abs(v - wanted[p][c]))) * 255);
        if (!(Math.max(...off) <= MOST_COLOUR)) problems.push(`colour off by ${off.map((d) => d.toFixed(1)).join(' ')} of 255`);
      }
      rows.push([`canvas ${name}`, problems]);
    }
  } finally {
    await browser.close();
  }
  return rows;
}
