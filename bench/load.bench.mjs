import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { addCue } from '@idle-bend/core/edit';
import { plainClip } from '@idle-bend/core/reel';
import { rate } from '@idle-bend/core/time';
import { median, times } from './measure.mjs';

export const about = 'Load: 50 projects of 300 clips each; 20 people editing and uploading at once';

const PROJECTS = Number(process.env.IDLE_BEND_LOAD_PROJECTS ?? 50);
const CLIPS = 300;
const CLIENTS = 20;
/** Somebody who drags without a pause is kept twice a second. */
const EDIT_EVERY_MS = 500;
const SECONDS = Number(process.env.IDLE_BEND_LOAD_SECONDS ?? 40);

export async function run() {
  const folder = mkdtempSync(join(tmpdir(), 'idle-bend-load-'));
  const server = spawn(process.execPath, ['apps/server/dist/main.js', '--port', '0', '--data', join(folder, 'data')], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  try {
    const url = await new Promise((resolve) =>
      server.stdout.on('data', (d) => /http:\S+:\d+/.test(d) && resolve(/http:\S+:\d+/.exec(d)[0])),
    );
    const projects = [];
    for (let i = 0; i < PROJECTS; i++) projects.push(await filled(url, i));
    return [...(await opening(url, projects)), ...(await working(url, projects, folder))];
  } finally {
    server.kill();
    rmSync(folder, { recursive: true, force: true });
  }
}

async function send(url, method, path, body) {
  const response = await fetch(`${url}/api/${path}`, {
    method,
    headers: { 'Content-Type': 'application/json' },
    body: body && JSON.stringify(body),
  });
  const answer = await response.json();
  if (!response.ok) throw new Error(`${response.status} ${answer.message}`);
  return answer;
}

/** A project of 300 clips of two pieces of footage, bent, with a cue for each. */
async function filled(url, number) {
  const { id, version, document } = await send(url, 'POST', 'projects', { name: `Marble Parade ${number}` });
  const sources = ['bell', 'boat'].map((name) => ({
    id: name,
    name,
    frames: 600,
    nativeRate: rate(120),
    readAs: rate(120),
    moments: [],
    droppedRepeats: null,
  }));
  const bend = (widthFrames) => ({ widthFrames, ease: 'soft' });
  const map = {
    vertices: [
      { t: 0, s: 0 },
      { t: 20, s: 300 },
      { t: 48, s: 420 },
    ],
    bends: [bend(0), bend(12), bend(0)],
  };
  const items = Array.from({ length: CLIPS }, (_, i) => ({ ...plainClip(`clip-${i}`, sources[i % 2], rate(24)), map }));
  const cues = Array.from({ length: CLIPS }, (_, i) => ({ id: `cue-${i}`, frame: 48 * i, name: '', beat: null }));
  const whole = { ...document, sources, reel: { ...document.reel, items, cues } };
  await send(url, 'PUT', `projects/${id}/document`, { version, document: whole, by: 'load' });
  return { id, document: whole, version: version + 1 };
}

const percentile = (values, share) =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * share))];
const timed = async (work) => {
  const start = performance.now();
  await work();
  return performance.now() - start;
};

/** Against a server that does nothing but send the same bytes. */
async function opening(url, projects) {
  const bytes = Buffer.from(JSON.stringify(await send(url, 'GET', `projects/${projects[0].id}`)));
  const plain = createServer((_, response) => response.setHeader('Content-Type', 'application/json').end(bytes)).listen(
    0,
    '127.0.0.1',
  );
  await new Promise((resolve) => plain.once('listening', resolve));
  const bare = `http://127.0.0.1:${plain.address().port}`;
  const read = async (address) => JSON.parse(await (await fetch(address)).text());
  await read(bare);
  const baseline = [];
  const own = [];
  for (const { id } of projects) {
    baseline.push(await timed(() => read(bare)));
    own.push(await timed(() => read(`${url}/api/projects/${id}`)));
  }
  plain.close();
  const all = await timed(() => read(`${url}/api/projects`));
  return [
    { what: `list of ${projects.length} projects`, value: `${all.toFixed(1)} ms` },
    {
      what: `opening one of ${CLIPS} clips (${(bytes.length / 1e3).toFixed(0)} kB), median`,
      value: `${median(own).toFixed(1)} ms, ${times(median(own), median(baseline))} sending its bytes`,
    },
    { what: 'slowest of them', value: `${Math.max(...own).toFixed(1)} ms` },
  ];
}

/** Everybody edits a project of their own, and every fifth brings a film the while. */
async function working(url, projects, folder) {
  const film = join(folder, 'film.mp4');
  spawnSync('ffmpeg', [
    '-v',
    'error',
    '-f',
    'lavfi',
    '-i',
    'testsrc=size=320x180:rate=30:duration=2',
    '-pix_fmt',
    'yuv420p',
    film,
  ]);
  const content = readFileSync(film);
  const end = Date.now() + SECONDS * 1000;
  const edits = [];
  const errors = [];
  let uploads = 0;
  const editing = async (project, n) => {
    await new Promise((resolve) => setTimeout(resolve, (EDIT_EVERY_MS * n) / CLIENTS));
    while (Date.now() < end) {
      const next = addCue(project.document, {
        id: `q${project.version}`,
        frame: 20_000 + project.version,
        name: '',
        beat: null,
      });
      const spent = await timed(() =>
        send(url, 'PUT', `projects/${project.id}/document`, {
          version: project.version,
          document: next,
          by: `client ${n}`,
        }).then(
          ({ version }) => Object.assign(project, { version, document: next }),
          (error) => errors.push(error.message),
        ),
      );
      edits.push(spent);
      await new Promise((resolve) => setTimeout(resolve, Math.max(0, EDIT_EVERY_MS - spent)));
    }
  };
  const uploading = async (project) => {
    while (Date.now() < end) {
      const encode = (text) => Buffer.from(text).toString('base64');
      const headers = {
        'Tus-Resumable': '1.0.0',
        'Upload-Length': String(content.length),
        'Upload-Metadata': `projectId ${encode(project.id)},filename ${encode('film.mp4')}`,
      };
      const created = await fetch(`${url}/api/uploads`, { method: 'POST', headers });
      const place = new URL(created.headers.get('location'), `${url}/api/uploads`);
      const answer = await fetch(place, {
        method: 'PATCH',
        headers: { 'Tus-Resumable': '1.0.0', 'Upload-Offset': '0', 'Content-Type': 'application/offset+octet-stream' },
        body: content,
      });
      if (answer.ok) uploads++;
      else errors.push(await answer.text());
      await new Promise((resolve) => setTimeout(resolve, 3000));
    }
  };
  const people = projects.slice(0, CLIENTS);
  await Promise.all(
    people.flatMap((project, n) => [editing(project, n), ...(n % 5 === 0 ? [uploading(project)] : [])]),
  );
  const p95 = percentile(edits, 0.95);
  return [
    {
      what: `errors in ${edits.length} edits and ${uploads} uploads`,
      value: String(errors.length) + (errors[0] ? `: ${errors[0]}` : ''),
      limit: 'none',
      holds: errors.length === 0,
    },
    { what: 'an edit is kept in, median', value: `${median(edits).toFixed(1)} ms` },
    { what: 'an edit is kept in, 95 of 100', value: `${p95.toFixed(1)} ms`, limit: 'under 50 ms', holds: p95 < 50 },
  ];
}
