// What a browser puts on the bench's canvas: one reel of all sources, stepped through by keys, its pixels read back.
import { chromium } from '@playwright/test';
import { formatOf } from './draw.mjs';
import { readPicture, rgbOf } from './look.mjs';
import { converted, reelOf } from './render.mjs';

const BT709 = { matrix: 'bt709', primaries: 'bt709', transfer: 'bt709', range: 'limited' };
const SIZE = [320, 180];
/** Frames of each clip. */
const FRAMES = 10;
/** The source frame a clip begins at: another one than its neighbour's, so that a picture that is not there yet is not taken for it. */
const firstOf = (i) => 3 + (i % 12);
const MAX_COLOUR = 2;
const SHOWN_WITHIN_MS = 60_000;

/** Sources that fill the reel's picture and last long enough. */
const fits = ({ size, filters = [], frames, times }) =>
  size.join() === SIZE.join() && !filters.some((f) => f.startsWith('setsar')) && frames >= 30 && !times;

/** The primaries and curve of a file: what its tags leave unsaid follows from what they say, else from what it is: RGB is sRGB, small pictures are BT.601. */
function spaceOf({ color_space, color_primaries, color_transfer, pix_fmt }) {
  const isRgb = /^(gbr|rgb|bgr)/.test(pix_fmt);
  const usual = color_space && color_space !== 'gbr' ? color_space : 'smpte170m';
  return isRgb
    ? { primaries: color_primaries ?? 'bt709', transfer: color_transfer ?? 'iec61966-2-1' }
    : { primaries: color_primaries ?? usual, transfer: color_transfer ?? 'bt709' };
}

/** The canvas as planes of green, blue and red. */
async function canvasOf(page) {
  const { width, height, data } = await page.locator('[data-testid=picture-itself] canvas').evaluate((canvas) => {
    const copy = new OffscreenCanvas(canvas.width, canvas.height);
    const context = copy.getContext('2d');
    context.drawImage(canvas, 0, 0);
    return {
      width: canvas.width,
      height: canvas.height,
      data: Array.from(context.getImageData(0, 0, canvas.width, canvas.height).data),
    };
  });
  const count = width * height;
  const planes = Buffer.alloc(3 * count);
  for (let i = 0; i < count; i++)
    [planes[i], planes[count + i], planes[2 * count + i]] = [data[4 * i + 1], data[4 * i + 2], data[4 * i]];
  return readPicture(planes, formatOf('gbrp'), width, height);
}

/** Rows of the table. `call` asks the server; `footage` is what it has, by the sources' names. */
export async function canvasRows({ url, projectId, call, sources, footageOf, isHigh }) {
  const shown = Object.entries(sources).filter(([, { source }]) => fits(source));
  if (shown.length === 0) return [];
  const reel = { rate: [25, 1], size: SIZE, colour: BT709 };
  const clips = shown.map(([name, { source, read }], i) => ({
    source: { ...source, name: footageOf(name).id },
    read,
    frames: FRAMES,
    from: firstOf(i),
  }));
  const { version } = await call(`/api/projects/${projectId}`);
  const body = JSON.stringify({ version, document: reelOf(reel, clips), by: 'zoo' });
  const answer = await call(`/api/projects/${projectId}/document`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json' },
    body,
  });
  if (answer.version === undefined) throw new Error(`the reel was refused: ${answer.message}`);
  const browser = await chromium.launch({
    executablePath: process.env.IDLE_BEND_CHROMIUM ?? '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-background-networking',
      '--no-first-run',
      '--disable-component-update',
      '--disable-sync',
    ],
  });
  const rows = [];
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${url}/projects/${projectId}/bench`);
    await page.locator('[data-testid=picture][data-fingerprint]').waitFor();
    for (const [i, [name, { source, read }]] of shown.entries()) {
      if (i > 0) await page.keyboard.press('PageDown');
      const number = read.numbers[firstOf(i)];
      const end = Date.now() + SHOWN_WITHIN_MS;
      let seen = await canvasOf(page);
      while (seen.number !== number && Date.now() < end) {
        await page.waitForTimeout(100);
        seen = await canvasOf(page);
      }
      const problems = [];
      if (seen.number !== number) problems.push(`shows ${seen.number}, not ${number}`);
      else if (!isHigh(source)) {
        const wanted = converted(read.patches, spaceOf(read.video), BT709);
        const off = seen.patches.map(
          (codes, p) => Math.max(...rgbOf(codes, { pix_fmt: 'gbrp' }).map((v, c) => Math.abs(v - wanted[p][c]))) * 255,
        );
        if (!(Math.max(...off) <= MAX_COLOUR))
          problems.push(`colour off by ${off.map((d) => d.toFixed(1)).join(' ')} of 255`);
      }
      rows.push([`canvas ${name}`, problems]);
    }
  } finally {
    await browser.close();
  }
  return rows;
}
