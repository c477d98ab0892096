import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { plainClip } from '@idle-bend/core/reel';
import { rate } from '@idle-bend/core/time';
import { chromium } from '@playwright/test';
import { median } from './measure.mjs';

/** How long it plays; the promise is for ten. */
const MINUTES = Number(process.env.IDLE_BEND_MINUTES ?? 1);
/** A flash and a click, together, every so many seconds. */
const EVERY = 4;
const FPS = 24;

export const about = `picture and sound played together for ${MINUTES} min (IDLE_BEND_MINUTES=10 for the promise): a flash and a click every ${EVERY} s`;

const BROWSER = {
  executablePath: process.env.IDLE_BEND_CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--autoplay-policy=no-user-gesture-required',
    '--disable-background-networking',
    '--no-first-run',
    '--disable-sync',
  ],
};

function ffmpeg(...args) {
  const { status, stderr } = spawnSync('ffmpeg', ['-v', 'error', '-y', ...args], { encoding: 'utf8' });
  if (status !== 0) throw new Error(stderr);
}

export async function run() {
  const folder = mkdtempSync(join(tmpdir(), 'idle-bend-drift-'));
  const server = spawn(process.execPath, ['apps/server/dist/main.js', '--port', '0', '--data', join(folder, 'data')], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  try {
    const url = await new Promise((resolve) =>
      server.stdout.on('data', (d) => /http:\S+:\d+/.test(d) && resolve(/http:\S+:\d+/.exec(d)[0])),
    );
    const { flashes, clicks } = await played(url, await project(url, folder));
    return rows(flashes, clicks);
  } finally {
    server.kill();
    rmSync(folder, { recursive: true, force: true });
  }
}

/** A project of one long clip that flashes, and a sound that clicks where it does. */
async function project(url, folder) {
  const seconds = Math.round(60 * MINUTES);
  const [film, clicks] = [join(folder, 'flash.mp4'), join(folder, 'click.wav')];
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    `color=c=0x303030:s=320x180:r=${FPS}:d=${seconds}`,
    '-vf',
    `drawbox=c=white:t=fill:enable='lt(mod(n+${FPS},${EVERY * FPS}),2)'`,
    '-c:v',
    'libx264',
    '-preset',
    'veryfast',
    '-g',
    '24',
    film,
  );
  ffmpeg('-f', 'lavfi', '-i', `aevalsrc='0.9*lt(mod(t+1,${EVERY}),0.01)*sin(6000*t)':s=48000:d=${seconds}`, clicks);
  const send = async (method, path, body) =>
    await (
      await fetch(`${url}/api/${path}`, {
        method,
        headers: { 'Content-Type': 'application/json' },
        body: body && JSON.stringify(body),
      })
    ).json();
  const { id } = await send('POST', 'projects', { name: 'Marble Parade', rate: String(FPS) });
  const [picture, sound] = [await upload(url, id, film), await upload(url, id, clicks)];
  const ready = ({ status, sound: heard, facts }) =>
    status === 'ready' && heard !== 'waiting' && (facts.picture || heard === 'ready');
  while (!(await send('GET', `projects/${id}/footage`)).every(ready))
    await new Promise((resolve) => setTimeout(resolve, 500));
  const { version, document } = await send('GET', `projects/${id}`);
  const source = {
    id: picture,
    name: 'flash',
    frames: seconds * FPS,
    nativeRate: rate(FPS),
    readAs: rate(FPS),
    moments: [],
    droppedRepeats: null,
  };
  const laid = {
    id: 's',
    footageId: sound,
    name: 'click',
    startSeconds: 0,
    fromSeconds: 0,
    toSeconds: seconds,
    gainDb: 0,
    fadeInSeconds: 0,
    fadeOutSeconds: 0,
    beats: { times: [], bar: { beats: 4, first: 0 } },
  };
  const changed = {
    ...document,
    sources: [source],
    reel: { ...document.reel, items: [plainClip('c', source, rate(FPS))], sounds: [laid] },
  };
  const put = await send('PUT', `projects/${id}/document`, { version, document: changed, by: 'bench' });
  if (put.message) throw new Error(put.message);
  return id;
}

/** Sends a file the way the footage room does (tus 1.0.0), in one piece; its footage's id. */
async function upload(url, projectId, file) {
  const content = readFileSync(file);
  const encode = (text) => Buffer.from(text).toString('base64');
  const version = { 'Tus-Resumable': '1.0.0' };
  const metadata = `projectId ${encode(projectId)},filename ${encode(basename(file))}`;
  const created = await fetch(`${url}/api/uploads`, {
    method: 'POST',
    headers: { ...version, 'Upload-Length': String(content.length), 'Upload-Metadata': metadata },
  });
  const place = new URL(created.headers.get('location'), `${url}/api/uploads`);
  const sent = await fetch(place, {
    method: 'PATCH',
    headers: { ...version, 'Upload-Offset': '0', 'Content-Type': 'application/offset+octet-stream' },
    body: content,
  });
  if (!sent.ok) throw new Error(`${basename(file)} was not taken: ${await sent.text()}`);
  return sent.headers.get('x-footage-id');
}

/** Listens at the loudspeakers: every click by the device's clock, and by the computer's. Runs in the page, before it. */
function listenIn() {
  globalThis.heard = [];
  const connect = AudioNode.prototype.connect;
  const taps = new WeakMap();
  AudioNode.prototype.connect = function (to, ...rest) {
    const { context } = this;
    if (to === context.destination && !taps.has(context)) {
      const tap = context.createScriptProcessor(256, 1, 1);
      taps.set(context, tap);
      let quiet = 0;
      tap.onaudioprocess = ({ inputBuffer, playbackTime }) => {
        const samples = inputBuffer.getChannelData(0);
        for (let i = 0; i < samples.length; i++) {
          if (Math.abs(samples[i]) > 0.3) {
            if (quiet > 48000) {
              // When that sample leaves: the block after the one it was read in, less what the device holds back.
              const { contextTime, performanceTime } = context.getOutputTimestamp();
              const at = playbackTime - inputBuffer.duration + i / context.sampleRate;
              globalThis.heard.push(performanceTime + 1000 * (at - contextTime));
            }
            quiet = 0;
          } else quiet++;
        }
      };
      connect.call(tap, to);
    }
    if (to === context.destination) connect.call(this, taps.get(context));
    return connect.call(this, to, ...rest);
  };
}

/** Watches the picture: when its canvas turns bright. Runs in the page. */
function watchIn() {
  globalThis.seen = [];
  const eye = document.createElement('canvas');
  eye.width = eye.height = 1;
  const context = eye.getContext('2d', { willReadFrequently: true });
  let bright = false;
  requestAnimationFrame(function look(now) {
    const canvas = document.querySelector('[data-testid=picture-itself] canvas');
    if (canvas) {
      context.drawImage(canvas, 0, 0, 1, 1);
      const lit = context.getImageData(0, 0, 1, 1).data[0] > 140;
      if (lit && !bright) globalThis.seen.push(now);
      bright = lit;
    }
    requestAnimationFrame(look);
  });
}

async function played(url, id) {
  const browser = await chromium.launch(BROWSER);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.addInitScript(listenIn);
    await page.goto(`${url}/projects/${id}/bench`);
    await page.locator('[data-testid=picture][data-fingerprint]').waitFor();
    await page.evaluate(watchIn);
    await page.keyboard.press('l');
    await page.waitForTimeout(60_000 * MINUTES + 1000);
    return await page.evaluate(() => ({ flashes: globalThis.seen, clicks: globalThis.heard }));
  } finally {
    await browser.close();
  }
}

function rows(flashes, clicks) {
  const pairs = flashes.flatMap((flash) => {
    const click = clicks.reduce((a, b) => (Math.abs(b - flash) < Math.abs(a - flash) ? b : a), Infinity);
    return Math.abs(click - flash) < 500 * EVERY ? [{ at: flash, late: flash - click }] : [];
  });
  if (pairs.length < 5)
    throw new Error(
      `only ${pairs.length} flashes were seen with their clicks (${flashes.length} flashes, ${clicks.length} clicks)`,
    );
  const lates = pairs.map(({ late }) => late);
  const middle = median(lates);
  // The line through all of them: what adds up over the time played.
  const mean = (list) => list.reduce((a, b) => a + b, 0) / list.length;
  const [t, l] = [mean(pairs.map(({ at }) => at)), mean(lates)];
  const slope =
    pairs.reduce((sum, p) => sum + (p.at - t) * (p.late - l), 0) / pairs.reduce((sum, p) => sum + (p.at - t) ** 2, 0);
  const drift = slope * (pairs.at(-1).at - pairs[0].at);
  const frame = 1000 / FPS;
  const within = pairs.filter(({ late }) => Math.abs(late) <= frame).length;
  return [
    { what: 'baseline: a frame lasts', value: `${frame.toFixed(1)} ms` },
    { what: `flashes seen with their clicks, of ${Math.round((60 * MINUTES) / EVERY)}`, value: String(pairs.length) },
    {
      what: 'the picture is after its sound by, as a rule',
      value: `${middle.toFixed(1)} ms`,
      limit: '< 1 frame',
      holds: Math.abs(middle) < frame,
    },
    {
      what: 'that adds up over the whole time to',
      value: `${drift.toFixed(1)} ms`,
      limit: '< 1 frame',
      holds: Math.abs(drift) < frame,
    },
    { what: 'flashes within a frame of their click', value: `${((100 * within) / pairs.length).toFixed(0)} %` },
    { what: 'the furthest from it', value: `${Math.max(...lates.map(Math.abs)).toFixed(1)} ms` },
  ];
}
