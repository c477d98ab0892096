import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { landReel, reelDrifts } from '@idle-bend/core/landing';
import { planLay } from '@idle-bend/core/lay';
import { placeItems, plainClip } from '@idle-bend/core/reel';
import { rate } from '@idle-bend/core/time';
import { chromium } from '@playwright/test';
import { median } from './measure.mjs';

export const about = 'A long reel: 300 clips in ten minutes on the bench, and landings of 200 clips';

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
const BEATS = Array.from({ length: 1200 }, (_, i) => 0.5 + 0.5 * i);
const MUSIC = {
  id: 'music',
  name: 'march',
  startSeconds: 0,
  fromSeconds: 0,
  toSeconds: 600,
  gainDb: 0,
  fadeInSeconds: 0,
  fadeOutSeconds: 0,
  beats: { times: BEATS, bar: { beats: 4, first: 0 } },
};

export async function run() {
  const folder = mkdtempSync(join(tmpdir(), 'idle-bend-bench-'));
  const server = spawn(process.execPath, ['apps/server/dist/main.js', '--demo', '--port', '0', '--data', folder], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  try {
    const url = await new Promise((resolve) =>
      server.stdout.on('data', (d) => /http:\S+:\d+/.test(d) && resolve(/http:\S+:\d+/.exec(d)[0])),
    );
    const rows = await scrolling(url);
    return [...rows, ...solving()];
  } finally {
    server.kill();
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Frames a second while the wheel turns, against those of an empty page on the same machine. */
async function scrolling(url) {
  const send = async (method, path, body) =>
    (
      await fetch(`${url}/api/${path}`, {
        method,
        headers: { 'Content-Type': 'application/json' },
        body: body && JSON.stringify(body),
      })
    ).json();
  const footage = async () => send('GET', 'projects/marble-parade/footage');
  while (!(await footage()).every((f) => f.status === 'ready' && (!f.facts.picture || f.motion === 'ready')))
    await new Promise((resolve) => setTimeout(resolve, 500));
  const { version, document } = await send('GET', 'projects/marble-parade');
  const clips = Array.from({ length: 300 }, (_, i) => {
    const source = document.sources[i % document.sources.length];
    const clip = plainClip(`clip-${i}`, source, document.reel.rate);
    const wanted = 48;
    // Two seconds each, with a bend in every second one.
    const { vertices } = clip.map;
    const s = vertices.at(-1).s;
    const map =
      i % 2
        ? {
            vertices: [
              { t: 0, s: 0 },
              { t: 20, s: s * 0.6 },
              { t: wanted, s },
            ],
            bends: [vertices, vertices, vertices].map((_v, n) => ({ widthFrames: n === 1 ? 12 : 0, ease: 'soft' })),
          }
        : {
            vertices: [
              { t: 0, s: 0 },
              { t: wanted, s },
            ],
            bends: clip.map.bends,
          };
    return { ...clip, map };
  });
  const sounds = [{ ...document.reel.sounds[0], to: 39, beats: MUSIC.beats }];
  const put = await send('PUT', 'projects/marble-parade/document', {
    version,
    document: { ...document, reel: { ...document.reel, items: clips, cues: [], sounds } },
    by: 'bench',
  });
  if (put.message) throw new Error(put.message);
  const browser = await chromium.launch(BROWSER);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const counting = (seconds) => async (act) => {
      const frames = page.evaluate(
        (ms) =>
          new Promise((resolve) => {
            const gaps = [];
            let last = performance.now();
            const end = last + ms;
            requestAnimationFrame(function tick(now) {
              gaps.push(now - last);
              last = now;
              if (now < end) requestAnimationFrame(tick);
              else resolve(gaps.slice(1));
            });
          }),
        seconds * 1000,
      );
      await act(Date.now() + seconds * 1000);
      return frames;
    };
    const count = counting(3);
    await page.goto('about:blank');
    const idle = 1000 / median(await count(async () => undefined));
    await page.goto(`${url}/projects/marble-parade/bench`);
    await page.locator('[data-testid=picture][data-fingerprint]').waitFor();
    await page.mouse.move(640, 80);
    await page.keyboard.down('Control');
    const wheel = (x, y) => async (end) => {
      for (let i = 0; Date.now() < end; i++) await page.mouse.wheel(x, i % 40 < 20 ? y : -y);
    };
    const zoom = await count(wheel(0, -30));
    for (let i = 0; i < 12; i++) await page.mouse.wheel(0, -120);
    await page.keyboard.up('Control');
    const scroll = await count(wheel(0, 60));
    const fps = (gaps) => (1000 * gaps.length) / gaps.reduce((a, b) => a + b, 0);
    const row = (what, gaps) => ({
      what,
      value: `${fps(gaps).toFixed(1)} frames a second, longest ${Math.max(...gaps).toFixed(0)} ms`,
      limit: '60, or what the machine shows',
      holds: fps(gaps) >= Math.min(60, idle) * 0.9,
    });
    return [
      { what: 'baseline: an empty page', value: `${idle.toFixed(1)} frames a second` },
      row('300 clips, going closer and back', zoom),
      row('300 clips, scrolling', scroll),
    ];
  } finally {
    await browser.close();
  }
}

function solving() {
  const source = (i) => ({
    id: `f${i}`,
    name: 'film',
    frames: 240,
    nativeRate: rate(60),
    readAs: rate(60),
    droppedRepeats: null,
    moments: [60, 120, 185].map((frame, n) => ({ id: `m${n}`, frame, name: '' })),
  });
  const sources = Array.from({ length: 20 }, (_, i) => source(i));
  const reelRate = rate(24);
  const base = {
    format: 'idle-bend-project',
    version: 7,
    sources,
    reel: {
      rate: reelRate,
      width: 1280,
      height: 720,
      method: 'step',
      tuning: { trust: 1, keenness: 0 },
      cues: [],
      sounds: [{ ...MUSIC, footageId: 'x' }],
      blur: { kind: 'none' },
      ceiling: null,
      accents: [],
      joins: [],
      range: null,
      items: Array.from({ length: 200 }, (_, i) => plainClip(`c${i}`, sources[i % 20], reelRate)),
    },
  };
  const cues = [];
  const items = placeItems(base).map(({ item, start }) => ({
    ...item,
    ties: sources[0].moments.map(({ id, frame }) => {
      const shown = start + frame / 2.5;
      const beat = BEATS.reduce((a, b) => (Math.abs(b * 24 - shown) < Math.abs(a * 24 - shown) ? b : a));
      cues.push({ id: `q${cues.length}`, frame: beat * 24, name: '', beat: null });
      return { momentId: id, cueId: `q${cues.length - 1}` };
    }),
  }));
  const project = { ...base, reel: { ...base.reel, items, cues: cues.sort((a, b) => a.frame - b.frame) } };
  const timed = (act) => {
    const list = [1, 2, 3, 4, 5].map(() => {
      const start = performance.now();
      act();
      return performance.now() - start;
    });
    return median(list);
  };
  let landed;
  const land = timed(() => (landed = landReel({ ...project })));
  const one = timed(() => landReel({ ...project, reel: { ...project.reel, items: items.slice(0, 1) } }));
  const choice = {
    soundId: 'music',
    lengths: [1, 2, 4, 8, 16],
    limits: { slowest: 0.2, fastest: 5 },
    onBars: true,
    kept: {},
  };
  const lay = timed(() =>
    planLay(
      { ...project },
      items.slice(0, 30).map(({ id }) => id),
      choice,
    ),
  );
  const met = reelDrifts(landed.project).filter((d) => d.landed).length;
  return [
    { what: 'baseline: one clip with 3 landings', value: `${one.toFixed(1)} ms` },
    {
      what: `200 clips with 600 landings, ${met} can be met`,
      value: `${land.toFixed(0)} ms`,
      limit: '< 200 ms',
      holds: land < 200,
    },
    { what: '30 clips laid on the music, from a beat to four bars each', value: `${lay.toFixed(0)} ms` },
  ];
}
