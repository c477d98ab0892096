// What the bench shows and plays of the zoo: sources go through a running server, and its proxies and sounds are looked at.
import { spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { copyFile, mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { canvasRows } from './canvas.mjs';
import { checkOutput } from './check.mjs';
import { clicks, sound } from './look.mjs';

const program = fileURLToPath(new URL('../../apps/server/dist/main.js', import.meta.url));
const HIGH_RANGE = /smpte2084|arib-std-b67/;

const stem = (name) => name.replace(/\.\w+$/, '');
const isHigh = ({ colour }) => HIGH_RANGE.test(colour.transfer);

/** Sends numbered pictures as one clip, as a browser does (tus 1.0). */
async function sendPictures(url, projectId, pattern) {
  const [before, after] = basename(pattern).split('%04d');
  const names = (await readdir(dirname(pattern)))
    .filter((name) => name.startsWith(before) && name.endsWith(after))
    .sort();
  const sequence = randomUUID();
  const tus = { 'Tus-Resumable': '1.0.0' };
  const text = (value) => Buffer.from(String(value)).toString('base64');
  for (const [index, name] of names.entries()) {
    const content = await readFile(join(dirname(pattern), name));
    const metadata = { projectId, filename: basename(pattern), sequence, index, count: names.length };
    const described = Object.entries(metadata).map(([key, value]) => `${key} ${text(value)}`);
    const created = await fetch(`${url}/api/uploads`, {
      method: 'POST',
      headers: { ...tus, 'Upload-Length': String(content.length), 'Upload-Metadata': described.join() },
    });
    const place = new URL(created.headers.get('location'), `${url}/api/uploads`);
    const headers = { ...tus, 'Upload-Offset': '0', 'Content-Type': 'application/offset+octet-stream' };
    const { status } = await fetch(place, { method: 'PATCH', headers, body: content });
    if (status !== 200) throw new Error(`picture ${name} was not taken`);
  }
}

/** Rows of the table. `sources`: what was read, by name. */
export async function previewSources(sources, folder) {
  const data = await mkdtemp(join(tmpdir(), 'zoo-data-'));
  const child = spawn(process.execPath, [program, '--port', '0', '--data', data], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  const rows = [];
  try {
    const url = await new Promise((resolve, reject) => {
      let said = '';
      child.stdout.on('data', (chunk) => {
        const port = /http:\/\/[\d.]+:(\d+)/.exec((said += chunk))?.[1];
        if (port) resolve(`http://127.0.0.1:${port}`);
      });
      child.once('close', () => reject(new Error('the server ended')));
    });
    const call = async (path, options) => (await fetch(url + path, options)).json();
    const { id } = await call('/api/projects', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ name: 'Zoo', rate: '25' }),
    });
    await mkdir(join(data, 'watched', id), { recursive: true });
    for (const { read } of Object.values(sources)) {
      if (read.file.includes('%')) await sendPictures(url, id, read.file);
      else await copyFile(read.file, join(data, 'watched', id, basename(read.file)));
    }
    const wanted = Object.keys(sources).length;
    const end = Date.now() + 900_000;
    let footage = [];
    for (;;) {
      footage = await call(`/api/projects/${id}/footage`);
      if (footage.length === wanted && footage.every((f) => f.status !== 'preparing' && f.sound !== 'waiting')) break;
      if (Date.now() > end) throw new Error(`only ${footage.length} of ${wanted} are there`);
      await new Promise((resolve) => setTimeout(resolve, 300));
    }
    // Numbered pictures become a clip with an ending of its own.
    const footageOf = (name) => footage.find((f) => stem(f.name) === stem(basename(sources[name].read.file)));
    for (const [name, { source, read }] of Object.entries(sources)) {
      const one = footageOf(name);
      const problems = [];
      if (one.status !== 'ready') problems.push(one.problem ?? 'has no proxy');
      else {
        const proxy = join(folder, `${name}-proxy.mp4`);
        await writeFile(proxy, Buffer.from(await (await fetch(`${url}/api/footage/${one.id}/proxy`)).arrayBuffer()));
        const pictures = read.numbers.map((number, n) => number ?? { flash: read.flashes[n] });
        const high = isHigh(source);
        const patches = !high && read.patches.length > 0 ? read.patches : undefined;
        const tags = high ? { color_space: 'bt709', color_transfer: 'bt709' } : {};
        if (!source.times)
          problems.push(
            ...(await checkOutput(proxy, { rate: source.rate, pictures, patches, tags, clicks: undefined })),
          );
      }
      if (read.clicks) {
        const flac = join(folder, `${name}-sound.flac`);
        await writeFile(flac, Buffer.from(await (await fetch(`${url}/api/footage/${one.id}/sound`)).arrayBuffer()));
        const found = clicks(sound(flac));
        const inside = read.clicks.filter((t) => t > 0.01);
        const off = inside.map((t) => Math.min(...found.map((c) => Math.abs(c - t))));
        if (!(Math.max(...off) <= 0.001))
          problems.push(`sound off by ${off.map((t) => (t * 1000).toFixed(1)).join(' ')} ms`);
      }
      rows.push([`preview ${name}`, problems]);
    }
    rows.push(...(await canvasRows({ url, projectId: id, call, sources, footageOf, isHigh })));
  } finally {
    const closed = new Promise((resolve) => child.once('close', resolve));
    child.kill('SIGTERM');
    await closed;
    await rm(data, { recursive: true, force: true });
  }
  return rows;
}
