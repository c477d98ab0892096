/** Before there is a proxy: the original, decoded by the browser itself. Frame n is frame n, whatever its file is like. */
import { join } from 'node:path';
import { execFileSync } from 'node:child_process';
import type { Page } from '@playwright/test';
import { H264, makeNumberedClip } from '../packages/media/test/numbered-clip.js';
import { RunningServer } from '../apps/server/test/running-server.js';
import { expect, picture, playhead, shownAt, test } from './fixtures.js';
import { numberShown, TALL } from './number-shown.js';

const FRAMES = 480;
/** Key frames are near, so that a machine that has much else to do finds decoding here quick enough, too. */
const KEYS = ['-g', '4'];
/** Places on the reel, as shares of it. */
const PLACES = [0.63, 0.9];
const STEPS = ['ArrowRight', 'ArrowRight', 'ArrowLeft', 'ArrowLeft'];
const DIRECT = 'decoded here';

/** Browsers may not begin at a group that others reach into, but the first: the server does then. */
const OPEN = 'open groups.mp4';
const KINDS: readonly (readonly [name: string, options: readonly string[]])[] = [
  [OPEN, [...H264, ...KEYS, '-bf', '3', '-x264-params', 'open-gop=1']],
  ['fragments.mov', [...H264, ...KEYS, '-bf', '2', '-movflags', '+frag_keyframe+empty_moov']],
  ['blocks.webm', ['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-cpu-used', '8', '-b:v', '2M', ...KEYS]],
];

/** A film whose frames are not evenly apart: every seventh is left out, its time is not. */
function withGaps(from: string, to: string): string {
  const options = ['-vf', "select='mod(n,7)-3'", '-fps_mode', 'vfr', ...H264, ...KEYS];
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', from, ...options, to]);
  return to;
}

/** Looks around, and steps either way; returns where the pictures came from. */
async function lookAround(page: Page, numberOf: (frame: number) => number): Promise<string[]> {
  const said: string[] = [];
  const check = async (k: number) => {
    const { position } = await shownAt(page, k);
    expect(await numberShown(page)).toBe(numberOf(Math.round(position)));
    said.push((await picture(page).innerText()).replaceAll('\n', ' '));
  };
  const reel = (await page.locator('svg[aria-label=Reel]').boundingBox())!;
  for (const share of PLACES) {
    await page.mouse.click(reel.x + 2 + share * reel.width, reel.y + 8);
    let k = await playhead(page, 60);
    await check(k);
    for (const key of STEPS) {
      await page.keyboard.press(key);
      k += key === 'ArrowRight' ? 1 : -1;
      await check(k);
    }
  }
  return said;
}

async function open(page: Page, server: RunningServer, film: string): Promise<void> {
  const { id } = await server.newProject('Marble Parade', '60');
  await server.upload(id, film);
  await page.goto(`${server.url}/projects/${id}/footage`);
  await page.getByRole('listitem').getByRole('button', { name: 'Bend this clip' }).click();
  await shownAt(page, 0);
  await page.getByTestId('picture').click({ position: { x: 5, y: 5 } });
}

test('before its proxy is there a film is decoded here, and frame n is frame n, forward, back and anywhere', async ({
  page,
  folder,
}) => {
  test.setTimeout(300_000);
  const server = await RunningServer.start();
  // So that no pieces of proxies are made but those that are looked at.
  const play = () => server.send('PUT', '/api/playing/elsewhere');
  await play();
  const playing = setInterval(() => void play().catch(() => undefined), 3000);
  const look = async (film: string, numberOf: (frame: number) => number) => {
    const tried = page.waitForResponse(/\/times$/);
    await open(page, server, film);
    await tried;
    const said = await lookAround(page, numberOf);
    return said.some((words) => words.includes(DIRECT));
  };
  try {
    for (const [name, options] of KINDS) {
      const film = { file: join(folder, name), frames: FRAMES, rate: '60', options: [...options] };
      const isDecodedHere = await look(await makeNumberedClip({ ...film, width: 960, height: TALL }), (n) => n);
      expect(isDecodedHere || name === OPEN).toBe(true);
    }
    const gaps = withGaps(join(folder, OPEN), join(folder, 'gaps.mkv'));
    expect(await look(gaps, (n) => (n % 7 === 3 ? n - 1 : n))).toBe(true);
  } finally {
    clearInterval(playing);
    await server.discard();
  }
});
