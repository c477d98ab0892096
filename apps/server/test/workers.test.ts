import { spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { copyFileSync, mkdirSync, mkdtempSync, readdirSync, rmSync, symlinkSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Project, Source } from '@idle-bend/core/model';
import { plainClip } from '@idle-bend/core/reel';
import { rate } from '@idle-bend/core/time';
import { straightMap } from '@idle-bend/core/time-map';
import { H264, makeNumberedClip } from '../../../packages/media/test/numbered-clip.js';
import { CHUNK_QUEUE } from '@idle-bend/media';
import { Queue } from 'bullmq';
import { Redis } from 'ioredis';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-workers-'));
const at = (name: string) => join(folder, name);
const TOKEN = 'marbles-roll-downhill-42';

const freePort = () =>
  new Promise<number>((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });

let redis: ChildProcess;
let queue: string;
let clip: string;
const children: ChildProcess[] = [];
beforeAll(async () => {
  const port = await freePort();
  queue = `redis://127.0.0.1:${port}`;
  redis = spawn('redis-server', ['--port', String(port), '--bind', '127.0.0.1', '--save', '', '--appendonly', 'no'], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((resolve) =>
    redis.stdout!.on('data', (chunk: Buffer) => chunk.toString().includes('Ready to accept') && resolve()),
  );
  clip = await makeNumberedClip({ file: at('clip.mp4'), frames: 240, rate: '120', options: H264 });
});
afterAll(() => {
  [...children, redis].forEach((child) => child.kill('SIGKILL'));
  rmSync(folder, { recursive: true, force: true });
});

/** A worker of its own process; `said` grows by what it says. */
function startWorker(...args: string[]) {
  const env = { ...process.env, NODE_OPTIONS: '', IDLE_BEND_REDIS: queue, IDLE_BEND_TOKEN: TOKEN };
  const child = spawn(process.execPath, ['bin/idle-bend', 'worker', ...args], {
    stdio: ['ignore', 'pipe', 'pipe'],
    env,
  });
  children.push(child);
  const worker = { child, said: '' };
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (chunk: Buffer) => (worker.said += chunk.toString()));
  return worker;
}

const knows = { Authorization: `Bearer ${TOKEN}` };
const AUTHORISED = { IDLE_BEND_TOKEN: TOKEN };

/** Asks a server for a lossless render of 700 frames made by Flow, in 8 chunks, of a clip that is copied to it, or taken in where it lies. */
async function ask(server: RunningServer, { refer = false } = {}) {
  const { id, version, document } = (await server.send('POST', '/api/projects', { name: 'Marble Parade' }, knows))
    .body as {
    id: string;
    version: number;
    document: Project;
  };
  if (refer) {
    const [root] = (await server.get<{ id: string }[]>('/api/media', knows)).body;
    const paths = ['clip.mp4'];
    await server.send('POST', `/api/projects/${id}/references`, { root: root!.id, paths }, knows);
  } else {
    // Uploads carry no token of their own here: the folder that is watched takes the file in.
    copyFileSync(clip, join(server.data, 'watched', id, 'clip.mp4'));
  }
  const list = async () => (await server.get<any[]>(`/api/projects/${id}/footage`, knows)).body;
  const [footage] = await server.until(list, (all) => all[0]?.status === 'ready');
  const source: Source = {
    id: footage.id,
    name: 'clip',
    frames: 240,
    nativeRate: rate(120),
    readAs: rate(120),
    moments: [],
    droppedRepeats: null,
  };
  const item = { ...plainClip('c', source, rate(24)), map: straightMap(700, 0, 239), method: 'flow' as const };
  const changed = {
    ...document,
    sources: [source],
    reel: { ...document.reel, width: 320, height: 192, items: [item] },
  };
  await server.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'a' }, knows);
  const [render] = (await server.send('POST', `/api/projects/${id}/renders`, { format: 'h264', level: 'quick' }, knows))
    .body;
  const look = async () => (await server.get<any[]>(`/api/projects/${id}/renders`, knows)).body[0];
  const file = async () =>
    Buffer.from(await (await fetch(`${server.url}/api/renders/${render.id}/file`, { headers: knows })).arrayBuffer());
  return { id, render, look, file };
}
const hash = (content: Buffer) => createHash('sha256').update(content).digest('hex');

describe('renders on more than one machine', () => {
  /** A worker whose server is gone. */
  let lost: ReturnType<typeof startWorker> | undefined;

  test('three workers, one killed in the middle of a chunk: nothing is lost or doubled, and the file is that of a single machine, bit for bit', async () => {
    const alone = await RunningServer.start(undefined, [], AUTHORISED);
    const single = await ask(alone);
    expect(await alone.until(single.look, (r) => !['queued', 'running', 'joining'].includes(r.status))).toMatchObject({
      status: 'done',
    });
    const wanted = hash(await single.file());
    await alone.discard();

    const server = await RunningServer.start(undefined, [], { ...AUTHORISED, IDLE_BEND_REDIS: queue });
    const shared = await ask(server);
    expect(await server.until(shared.look, (r) => r.waitsForWorker)).toMatchObject({ done: 0 });
    const near = startWorker('--data', server.data);
    const far = startWorker('--server', server.url);
    const doomed = startWorker('--data', server.data);
    const making = () =>
      readdirSync(join(server.data, 'renders', shared.render.id)).filter((name) =>
        name.includes(`-${doomed.child.pid}-`),
      );
    await server.until(
      () => Promise.resolve(making()),
      (names) => names.length > 0,
    );
    doomed.child.kill('SIGKILL');
    await server.until(shared.look, (r) => !r.waitsForWorker);
    const done = await server.until(shared.look, (r) => !['queued', 'running', 'joining'].includes(r.status));
    expect(done).toMatchObject({ status: 'done', problem: null, frames: 700 });
    expect(hash(await shared.file())).toBe(wanted);
    for (const { said } of [near, far]) expect(said).toMatch(/chunk \d+ of [\w-]+ done/);
    // What the one that was killed had begun is not left behind, nor are the chunks; the file is told of before they are gone.
    await server.until(
      () => Promise.resolve(readdirSync(join(server.data, 'renders', shared.render.id))),
      (names) => names.length === 1 && names[0] === 'reel.mp4',
    );
    const ended = new Promise((resolve) => near.child.once('close', resolve));
    near.child.kill('SIGTERM');
    expect(await ended).toBe(0);
    await server.discard();
    // Its server gone, it makes nothing: chunks of the next one are left to others.
    lost = far;
  });

  test('footage that lies elsewhere is found by what is in it in folders of the worker’s own; who does not have it leaves it to others', async () => {
    for (const name of ['card', 'other']) mkdirSync(at(name));
    copyFileSync(clip, at('card/clip.mp4'));
    const server = await RunningServer.start(undefined, ['--media', at('card')], {
      ...AUTHORISED,
      IDLE_BEND_REDIS: queue,
    });
    const shared = await ask(server, { refer: true });
    // As another machine has the data folder mounted: what lies elsewhere on the server's is not there.
    mkdirSync(at('mounted'));
    symlinkSync(join(server.data, 'renders'), at('mounted/renders'));
    const without = startWorker('--data', at('mounted'));
    await server.until(
      () => Promise.resolve(without.said),
      (said) => /chunk \d of [\w-]+: left to others: "clip.mp4" does not lie in the data folder; .*--media/.test(said),
    );
    const why = /^A worker left its chunks to others: "clip.mp4" does not lie in the data folder; .*--media\.$/;
    await server.until(shared.look, (r) => why.test(r.note ?? ''));
    // Said once of a render, however often its chunks are offered.
    expect(without.said.match(/left to others/g)).toHaveLength(1);
    without.child.kill('SIGTERM');
    mkdirSync(at('other/day two'));
    copyFileSync(clip, at('other/day two/another name.mp4'));
    const worker = startWorker('--data', at('mounted'), '--media', at('card/no'), '--media', at('other'));
    expect(await new Promise((resolve) => worker.child.once('close', resolve))).toBe(2);
    expect(worker.said).toMatch(/--media: .*card\/no is not a folder/);
    const near = startWorker('--data', at('mounted'), '--media', at('other'));
    const done = await server.until(shared.look, (r) => !['queued', 'running', 'joining'].includes(r.status));
    expect(done).toMatchObject({ status: 'done', problem: null, note: null, frames: 700 });
    expect(near.said).toMatch(/chunk \d+ of [\w-]+ done/);
    if (lost) expect(lost.said).toMatch(/left to others: http:\/\/127\.0\.0\.1:\d+ does not answer/);
    lost?.child.kill('SIGKILL');
    // Nothing is written beside what is not ours.
    expect(readdirSync(at('other/day two'))).toEqual(['another name.mp4']);
    near.child.kill('SIGKILL');
    await server.discard();
  });

  test('of a render that is cancelled no chunk is begun any more, and nothing of it stays', async () => {
    const server = await RunningServer.start(undefined, [], { ...AUTHORISED, IDLE_BEND_REDIS: queue });
    const shared = await ask(server);
    const worker = startWorker('--data', server.data);
    const inFolder = () => {
      const renders = join(server.data, 'renders');
      return readdirSync(renders).includes(shared.render.id) ? readdirSync(join(renders, shared.render.id)) : [];
    };
    await server.until(
      () => Promise.resolve(inFolder()),
      (names) => names.some((name) => name.includes(`-${worker.child.pid}-`)),
    );
    expect((await server.send('POST', `/api/renders/${shared.render.id}/cancel`, {}, knows)).status).toBe(200);
    await server.until(
      () => Promise.resolve(readdirSync(join(server.data, 'renders'))),
      (names) => !names.includes(shared.render.id),
    );
    // What it had begun it finishes, and by a hair the next; the rest of the eight is taken back.
    expect(worker.said.match(/chunk \d+ of [\w-]+ done/g)?.length ?? 0).toBeLessThan(6);
    expect(await shared.look()).toMatchObject({ status: 'cancelled' });
    worker.child.kill('SIGKILL');
    await server.discard();
  });

  test('what a worker has and puts back of a cancelled render is taken out of the queue', async () => {
    const server = await RunningServer.start(undefined, [], { ...AUTHORISED, IDLE_BEND_REDIS: queue });
    const shared = await ask(server);
    mkdirSync(at('not this one'));
    const worker = startWorker('--data', at('not this one'));
    await server.until(
      () => Promise.resolve(worker.said),
      (said) => said.includes('not this one is not the data folder of the server that renders this'),
    );
    expect((await server.send('POST', `/api/renders/${shared.render.id}/cancel`, {}, knows)).status).toBe(200);
    const connection = new Redis(queue, { maxRetriesPerRequest: null });
    const chunks = new Queue(CHUNK_QUEUE, { connection });
    await server.until(
      () => chunks.getJobCounts('active', 'delayed', 'wait', 'failed'),
      (counts) => Object.values(counts).every((count) => count === 0),
    );
    expect(await shared.look()).toMatchObject({ status: 'cancelled' });
    expect(readdirSync(at('not this one'))).toEqual([]);
    worker.child.kill('SIGKILL');
    await chunks.close();
    connection.disconnect();
    await server.discard();
  });

  test('a worker of another version leaves chunks to others, and says so', async () => {
    const connection = new Redis(queue, { maxRetriesPerRequest: null });
    const chunks = new Queue(CHUNK_QUEUE, { connection });
    const ticket = { renderId: 'none', job: { order: { index: 3 } }, media: {}, kernels: 'of another version' };
    const job = await chunks.add('chunk', ticket);
    const worker = startWorker('--data', folder);
    while (!/chunk 3 of none: left to others/.test(worker.said))
      await new Promise((resolve) => setTimeout(resolve, 50));
    expect(await job.isFailed()).toBe(false);
    worker.child.kill('SIGKILL');
    await chunks.obliterate({ force: true });
    await chunks.close();
    connection.disconnect();
  });

  test.each([
    [[], /either --data or --server is needed/],
    [['--data', 'x', '--redis', 'http://marbles'], /--redis: needs a redis:\/\/ address/],
  ])('%j is refused', async (args, message) => {
    const worker = startWorker(...args);
    const code = await new Promise((resolve) => worker.child.once('close', resolve));
    expect(code).toBe(2);
    expect(worker.said).toMatch(message);
  });
});
