// Makes the Marble Parade footage and music: draws each scene frame by frame in headless Chromium and encodes it.
// `node demo/generate.mjs [scene … | capture | music] [--still N]`; a still is written as PNG beside the clips for looking at.
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { readFile, rm, writeFile } from 'node:fs/promises';
import { createServer } from 'node:http';
import { dirname, extname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium } from '@playwright/test';
import { writeMusic } from './music/compose.mjs';
import { soundOf } from './sound.mjs';

const here = dirname(fileURLToPath(import.meta.url));
const [WIDTH, HEIGHT] = [1280, 720];
const SCENES = ['marble-bell', 'dominoes', 'whirligig', 'whip-out', 'whip-in', 'paper-boat', 'pendulum'];
/** A capture that stuttered: 30 fps of which every third picture is the one before it once more, made of another scene's film. */
const STUTTERED = { name: 'capture', from: 'whirligig' };
const TYPES = { '.js': 'text/javascript', '.html': 'text/html' };

const page = `<!doctype html><script type="importmap">{"imports":{"three":"/three/build/three.module.js","three/addons/":"/three/examples/jsm/"}}</script>`;

async function serve(request, response) {
  try {
    const { pathname } = new URL(request.url, 'http://localhost');
    if (pathname === '/favicon.ico') return response.writeHead(204).end();
    if (pathname === '/') return response.setHeader('content-type', 'text/html').end(page);
    const file = pathname.startsWith('/three/')
      ? join(here, '../node_modules', pathname)
      : join(here, 'scenes', pathname);
    response.setHeader('content-type', TYPES[extname(file)] ?? 'application/octet-stream').end(await readFile(file));
  } catch {
    response.writeHead(404).end();
  }
}
const server = createServer((request, response) => void serve(request, response));
server.listen(0, '127.0.0.1');
await once(server, 'listening');
const address = `http://127.0.0.1:${server.address().port}/`;

const args = process.argv.slice(2);
const stillAt = args.includes('--still') ? Number(args[args.indexOf('--still') + 1]) : undefined;
const wanted = args.filter((a) => SCENES.includes(a));
const browser = await chromium.launch({
  executablePath: process.env.IDLE_BEND_CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--use-gl=angle',
    '--use-angle=swiftshader',
    '--enable-unsafe-swiftshader',
    '--ignore-gpu-blocklist',
    '--disable-background-networking',
  ],
});
for (const name of args.some((a) => !a.startsWith('--') && !/^\d+$/.test(a)) ? wanted : SCENES) await make(name);
await browser.close();
server.close();
if (stillAt === undefined && (args.length === 0 || args.includes(STUTTERED.name))) await capture();
if (stillAt === undefined && (args.length === 0 || args.includes('music'))) await writeMusic(join(here, 'footage'));

async function capture() {
  const [from, to] = [STUTTERED.from, STUTTERED.name].map((name) => join(here, 'footage', `${name}.mp4`));
  const stutter = 'fps=20:start_time=1,scale=960:540,fps=30:round=down';
  const args = [
    '-v',
    'error',
    '-y',
    '-ss',
    '1',
    '-i',
    from,
    '-an',
    '-vf',
    stutter,
    '-frames:v',
    '105',
    '-c:v',
    'libx264',
    '-preset',
    'slow',
    '-crf',
    '23',
    '-g',
    '30',
    '-pix_fmt',
    'yuv420p',
    '-movflags',
    '+faststart',
    to,
  ];
  await once(spawn('ffmpeg', args, { stdio: 'inherit' }), 'close');
}

async function make(name) {
  const tab = await browser.newPage();
  tab.on('console', (m) => m.type() === 'error' && console.error(m.text()));
  tab.on('pageerror', (e) => console.error(e.message));
  await tab.goto(address);
  const { about, events } = await tab.evaluate(
    async ([scene, width, height]) => {
      const module = await import(`/${scene}.js`);
      globalThis.film = module.build({ width, height });
      return { about: module.about, events: globalThis.film.events };
    },
    [name, WIDTH, HEIGHT],
  );
  console.log(`${name}: ${about.frames} frames at ${about.fps} fps; ${JSON.stringify(events.slice(0, 4))}`);
  if (stillAt !== undefined) {
    const url = await tab.evaluate(
      (frame) => (globalThis.film.draw(frame), globalThis.film.canvas.toDataURL('image/png')),
      stillAt,
    );
    await writeFile(join(here, 'footage', `${name}.still.png`), Buffer.from(url.split(',')[1], 'base64'));
    return tab.close();
  }
  const sound = join(here, 'footage', `${name}.wav`);
  const hasSound = await soundOf(name, about, events, sound);
  const encoder = spawn(
    'ffmpeg',
    [
      ...['-v', 'error', '-y', '-f', 'image2pipe', '-c:v', 'mjpeg', '-framerate', String(about.fps), '-i', 'pipe:0'],
      ...(hasSound ? ['-i', sound, '-c:a', 'aac', '-b:a', '128k', '-shortest'] : []),
      ...[
        '-vf',
        `noise=c0s=2:c0f=t:all_seed=${about.seed},vignette=PI/7,scale=out_color_matrix=bt709:out_range=tv,format=yuv420p`,
      ],
      ...[
        '-c:v',
        'libx264',
        '-preset',
        'slow',
        '-crf',
        '21',
        '-g',
        String(about.fps),
        '-maxrate',
        '7M',
        '-bufsize',
        '14M',
      ],
      ...[
        '-colorspace',
        'bt709',
        '-color_primaries',
        'bt709',
        '-color_trc',
        'bt709',
        '-color_range',
        'tv',
        '-movflags',
        '+faststart',
      ],
      join(here, 'footage', `${name}.mp4`),
    ],
    { stdio: ['pipe', 'inherit', 'inherit'] },
  );
  for (let frame = 0; frame < about.frames; frame++) {
    const url = await tab.evaluate(
      (f) => (globalThis.film.draw(f), globalThis.film.canvas.toDataURL('image/jpeg', 0.98)),
      frame,
    );
    if (!encoder.stdin.write(Buffer.from(url.split(',')[1], 'base64'))) await once(encoder.stdin, 'drain');
    if (frame % 20 === 0) console.log(`  frame ${frame}, ${(performance.now() / 1000).toFixed(0)} s`);
  }
  encoder.stdin.end();
  await once(encoder, 'close');
  await rm(sound, { force: true });
  await writeFile(
    join(here, 'footage', `${name}.json`),
    JSON.stringify({ ...about, events: events.slice(0, 40) }, null, 2) + '\n',
  );
  await tab.close();
}
