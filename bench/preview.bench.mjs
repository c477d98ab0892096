import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { plainClip } from '@idle-bend/core/reel';
import { rate } from '@idle-bend/core/time';
import { straightMap } from '@idle-bend/core/time-map';
import { chromium } from '@playwright/test';
import { median, times } from './measure.mjs';

export const about = 'from a key or a jump to the picture on the bench, marble-bell’s proxy at 960 × 540';

const BROWSER = {
  executablePath: process.env.IDLE_BEND_CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-background-networking',
    '--no-first-run',
    '--disable-component-update',
    '--disable-sync',
  ],
};

async function startServer(data) {
  const server = spawn(process.execPath, ['apps/server/dist/main.js', '--demo', '--port', '0', '--data', data], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const url = await new Promise((resolve) =>
    server.stdout.on('data', (d) => /http:\S+:\d+/.test(d) && resolve(/http:\S+:\d+/.exec(d)[0])),
  );
  const ready = async () =>
    (await (await fetch(`${url}/api/projects/marble-parade/footage`)).json()).every(
      (f) => f.status === 'ready' && f.sound !== 'waiting' && (!f.facts.picture || f.motion === 'ready'),
    );
  while (!(await ready())) await new Promise((resolve) => setTimeout(resolve, 300));
  return { server, url };
}

/** In the page: milliseconds from a pointer press on the reel, or a key, until the picture says it shows that frame. */
const measureBench = async ({ jumps, again, steps }) => {
  const picture = document.querySelector('[data-testid=picture]');
  const reel = document.querySelector('svg[aria-label=Reel]');
  const { left, top, width } = reel.getBoundingClientRect();
  const next = (before) =>
    new Promise((resolve) => {
      const observer = new MutationObserver(() => {
        if (picture.dataset.frame === before) return;
        observer.disconnect();
        resolve(performance.now());
      });
      observer.observe(picture, { attributes: true });
    });
  const timed = async (act) => {
    await new Promise((resolve) => setTimeout(resolve, 250));
    const shown = next(picture.dataset.frame);
    const start = performance.now();
    act();
    return (await shown) - start;
  };
  const press = (u) =>
    reel.dispatchEvent(
      new PointerEvent('pointerdown', {
        clientX: left + u * width,
        clientY: top + 10,
        button: 0,
        buttons: 1,
        pointerId: 1,
        bubbles: true,
      }),
    );
  SVGElement.prototype.setPointerCapture = () => {};
  const key = (name) =>
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key: name, code: name, bubbles: true }));
  const result = { jumps: [], again: [], steps: [] };
  for (const u of jumps) result.jumps.push(await timed(() => press(u)));
  for (let i = 0; i < again; i++)
    result.again.push(await timed(() => press(jumps[(i * 5) % jumps.length] * (0.9 + (i % 10) / 100))));
  for (let i = 0; i < steps; i++) result.steps.push(await timed(() => key('ArrowRight')));
  return result;
};

/** The same jumps with the browser's own player on the same file. */
const measurePlayer = async ({ jumps, address }) => {
  const video = document.createElement('video');
  video.src = address;
  video.muted = true;
  document.body.append(video);
  await new Promise((resolve) => (video.oncanplay = resolve));
  const result = [];
  for (const u of jumps) {
    await new Promise((resolve) => setTimeout(resolve, 250));
    const shown = new Promise((resolve) => video.requestVideoFrameCallback(() => resolve(performance.now())));
    const start = performance.now();
    video.currentTime = u * video.duration;
    result.push((await shown) - start);
  }
  return result;
};

/** The share of the reel that marble-bell takes in the demo: jumps stay on it. */
const BELL = 0.13;

/** Puts marble-bell at 640 × 360 into a project of its own, at a quarter of its speed under Flow, on a reel of 60 fps, more than can be shown; its proxy is as large. */
async function slowBell(url, folder) {
  const file = join(folder, 'bell-360.mp4');
  spawnSync('ffmpeg', [
    '-v',
    'error',
    '-i',
    'demo/footage/marble-bell.mp4',
    '-an',
    '-vf',
    'scale=640:360,select=lt(n\\,120),setpts=N/60/TB',
    '-r',
    '60',
    '-crf',
    '16',
    file,
  ]);
  const send = async (method, path, body) =>
    (
      await fetch(`${url}/api/${path}`, {
        method,
        headers: { 'Content-Type': 'application/json' },
        body: body && JSON.stringify(body),
      })
    ).json();
  const { id, version, document } = await send('POST', 'projects', { name: 'Marble Parade, slow', rate: '60' });
  const tus = { 'Tus-Resumable': '1.0.0' };
  const bytes = readFileSync(file);
  const metadata = [
    ['projectId', id],
    ['filename', 'bell-360.mp4'],
  ]
    .map(([name, value]) => `${name} ${Buffer.from(value).toString('base64')}`)
    .join(',');
  const created = await fetch(`${url}/api/uploads`, {
    method: 'POST',
    headers: { ...tus, 'Upload-Length': String(bytes.length), 'Upload-Metadata': metadata },
  });
  const place = new URL(created.headers.get('location'), `${url}/api/uploads`);
  const patch = { ...tus, 'Upload-Offset': '0', 'Content-Type': 'application/offset+octet-stream' };
  const footage = (await fetch(place, { method: 'PATCH', headers: patch, body: bytes })).headers.get('x-footage-id');
  for (let ready = false; !ready; await new Promise((resolve) => setTimeout(resolve, 300)))
    ready = (await send('GET', `projects/${id}/footage`))[0]?.motion === 'ready';
  const source = { ...asSource(footage), frames: 120 };
  const map = straightMap(476, 0, 119);
  const clip = { ...plainClip('slow', source, document.reel.rate), map, method: 'flow' };
  const changed = {
    ...document,
    sources: [source],
    reel: { ...document.reel, width: 640, height: 360, items: [clip] },
  };
  await send('PUT', `projects/${id}/document`, { version, document: changed, by: 'bench' });
  return id;
}

const asSource = (id) => ({
  id,
  name: 'bell',
  frames: 120,
  nativeRate: rate(60),
  readAs: rate(60),
  moments: [],
  droppedRepeats: null,
});

/** In the page: plays for some seconds and counts the frames that were shown, of those the made ones, and how many were made at less than quick. */
const measurePlaying = async (seconds) => {
  const picture = document.querySelector('[data-testid=picture]');
  const shown = [];
  const observer = new MutationObserver(
    () =>
      shown.at(-1)?.frame !== picture.dataset.frame &&
      shown.push({ frame: picture.dataset.frame, words: picture.innerText }),
  );
  observer.observe(picture, { attributes: true });
  document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'l', code: 'KeyL', bubbles: true }));
  await new Promise((resolve) => setTimeout(resolve, seconds * 1000));
  document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'k', code: 'KeyK', bubbles: true }));
  observer.disconnect();
  return { shown: shown.length / seconds, made: shown.filter(({ frame }) => frame % 4 !== 0).length / seconds };
};

const within = (list, share) => [...list].sort((a, b) => a - b)[Math.ceil(list.length * share) - 1];

export async function run() {
  const data = mkdtempSync(join(tmpdir(), 'idle-bend-bench-'));
  const { server, url } = await startServer(data);
  const browser = await chromium.launch(BROWSER);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${url}/projects/marble-parade/bench`);
    await page.waitForSelector('[data-testid=picture][data-fingerprint]');
    const jumps = Array.from({ length: 16 }, (_, i) => (((i * 7 + 3) % 16) / 16 + 0.02) * BELL);
    const ours = await page.evaluate(measureBench, { jumps, again: 60, steps: 20 });
    const player = await (await browser.newPage()).goto(url).then(async (response) =>
      response.frame().evaluate(measurePlayer, {
        jumps: jumps.map((u) => u / BELL),
        address: '/api/footage/demo-marble-bell/proxy',
      }),
    );
    const slow = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await slow.goto(`${url}/projects/${await slowBell(url, data)}/bench`);
    await slow.waitForSelector('[data-testid=picture][data-fingerprint]');
    const playing = await slow.evaluate(measurePlaying, 7);
    const ms = (list) => `${median(list).toFixed(0)} ms`;
    return [
      { what: 'a jump to where nothing is decoded yet, median of 16', value: ms(ours.jumps) },
      { what: 'a jump to where it has been', value: ms(ours.again) },
      { what: '95 % of 60 such jumps within', value: `${within(ours.again, 0.95).toFixed(0)} ms` },
      { what: 'one frame on', value: ms(ours.steps) },
      {
        what: 'Flow at 25 %, 640 × 360, a reel of 60 fps: made frames shown a second',
        value: playing.made.toFixed(1),
        limit: '≥ 24',
        holds: playing.made >= 24,
      },
      { what: 'baseline: the browser’s own player, the same jumps', value: ms(player) },
      { what: 'a first jump takes, against that baseline', value: times(median(ours.jumps), median(player)) },
    ];
  } finally {
    await browser.close();
    server.kill('SIGTERM');
    rmSync(data, { recursive: true, force: true });
  }
}
