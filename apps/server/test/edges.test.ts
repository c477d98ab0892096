import {
  copyFileSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { H264, makeNumberedClip } from '../../../packages/media/test/numbered-clip.js';
import { filledProject, marbleBell } from './filled-project.js';
import { RunningServer } from './running-server.js';

/** Where the server meets what is not as it should be: files that go away, two at once, damage, those who never finish. */
const folder = mkdtempSync(join(tmpdir(), 'idle-bend-edges-'));
const at = (name: string) => join(folder, name);
const LARGE_BYTES = 160 * 2 ** 20;

let server: RunningServer;
let clip: string;
beforeAll(async () => {
  clip = await marbleBell(at('marble-bell.mp4'));
  server = await RunningServer.start();
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

const isUp = async (on = server) => (await on.get('/api/state')).status === 200;
/** Files a server has open. */
const opened = (on: RunningServer) => readdirSync(`/proc/${on.pid}/fd`).length;

describe('a bundle that is downloaded', () => {
  test('while its footage goes away breaks off, and the server goes on', async () => {
    const { id, footage } = await filledProject(server, clip);
    const original = join(server.data, 'media', footage, 'original.mp4');
    // Large enough that it is still under way.
    truncateSync(original, LARGE_BYTES);
    const response = await fetch(`${server.url}/api/projects/${id}/bundle?media=yes`);
    const reader = response.body!.getReader();
    await reader.read();
    rmSync(original);
    mkdirSync(original);
    const rest = async () => {
      while (!(await reader.read()).done);
    };
    await rest().catch(() => undefined);
    const again = fetch(`${server.url}/api/projects/${id}/bundle?media=yes`).then((r) => r.arrayBuffer());
    await expect(again).rejects.toThrow();
    expect(await isUp()).toBe(true);
  });

  test('and broken off by whoever asked lets go of its files', async () => {
    const { id, footage } = await filledProject(server, clip);
    truncateSync(join(server.data, 'media', footage, 'original.mp4'), LARGE_BYTES);
    await isUp();
    const before = opened(server);
    for (let i = 0; i < 12; i++) {
      const stop = new AbortController();
      const response = await fetch(`${server.url}/api/projects/${id}/bundle?media=yes`, { signal: stop.signal });
      await response.body!.getReader().read();
      stop.abort();
    }
    await server.until(
      async () => opened(server),
      (now) => now <= before + 3,
      30,
    );
  });
});

test('a damaged backup, or one a newer program wrote, keeps no server from starting: the one before it is taken, and only for a project that is lost', async () => {
  const own = await RunningServer.start();
  const { id } = await filledProject(own, clip);
  await own.kill('SIGTERM');
  const kept = join(own.data, 'backups', id);
  const good = JSON.parse(readFileSync(join(kept, '00000001.json'), 'utf8'));
  writeFileSync(
    join(kept, '00000008.json'),
    JSON.stringify({ ...good, version: 8, document: { ...good.document, version: 99 } }),
  );
  writeFileSync(join(kept, '00000009.json'), '{"name": "half');
  writeFileSync(join(kept, '00000010.json'), 'null');
  writeFileSync(join(own.data, 'backups', 'stray.txt'), 'x');
  const known = await RunningServer.start(own.data);
  expect((await known.get(`/api/projects/${id}`)).body).toMatchObject({ version: 2 });
  await known.kill('SIGTERM');
  for (const end of ['', '-wal', '-shm']) rmSync(join(own.data, `idle-bend.sqlite${end}`), { force: true });
  const lost = await RunningServer.start(own.data);
  expect((await lost.get(`/api/projects/${id}`)).body).toMatchObject({ name: 'Marble Parade', version: 1 });
  await lost.discard();
});

test('a document a newer program wrote is refused in words, sent or found in the database', async () => {
  const { id, document } = await filledProject(server, clip);
  const newer = { ...document, version: 99 };
  const { status, body } = await server.send('PUT', `/api/projects/${id}/document`, {
    version: 2,
    document: newer,
    by: 'a',
  });
  expect([status, body.message]).toEqual([
    422,
    expect.stringMatching(/is 99; this program reads up to \d+, so a newer one wrote it/),
  ]);
});

test.each([
  ['a gap', (d: any) => d.reel.items.push({ kind: 'gap', id: 'g', frames: 1e9 })],
  ['a clip', (d: any) => (d.reel.items[0].map.vertices[1].t = 1e9)],
  [
    'many gaps',
    (d: any) =>
      d.reel.items.push(...Array.from({ length: 5000 }, (_, i) => ({ kind: 'gap', id: `g${i}`, frames: 1e6 }))),
  ],
])('%s of a thousand million frames is refused at once, and the server answers', async (_, change) => {
  const { id, document } = await filledProject(server, clip);
  const long = JSON.parse(JSON.stringify(document));
  change(long);
  const { status, body } = await server.send('PUT', `/api/projects/${id}/document`, {
    version: 2,
    document: long,
    by: 'a',
  });
  expect([status, body.message]).toEqual([422, expect.stringMatching(/24 hours/)]);
  expect(await isUp()).toBe(true);
});

test('a reel of 24 hours is estimated while the server answers', async () => {
  const { id, document } = await filledProject(server, clip);
  const long = JSON.parse(JSON.stringify(document));
  long.reel.items[0].end = 'loop';
  long.reel.items[0].map.vertices[1] = { t: 24 * 3600 * 24, s: 24 * 3600 * 30 };
  await server.send('PUT', `/api/projects/${id}/document`, { version: 2, document: long, by: 'a' });
  let waiting = true;
  const asked = server
    .send('POST', `/api/projects/${id}/renders/estimate`, { format: 'h264' })
    .finally(() => (waiting = false));
  let answered = 0;
  while (waiting) {
    await server.get('/api/projects');
    answered++;
  }
  // Two million frames are looked at; on the server's own thread nothing else would be answered before that.
  expect(answered).toBeGreaterThan(10);
  const estimate = await asked;
  expect(estimate.body).toMatchObject({ files: 1, cost: { frames: 24 * 3600 * 24 } });
});

test('footage that is replaced and removed at once leaves no orphan', async () => {
  for (let round = 0; round < 6; round++) {
    const { id } = await server.newProject();
    const { id: footage } = await server.upload(id, clip);
    await Promise.all([
      server.upload(id, clip, 'other.mp4', 1, { replaces: footage }),
      server.send('DELETE', `/api/footage/${footage}`),
      server.upload(id, clip, 'third.mp4', 1, { replaces: footage }),
    ]);
    const rows = (await server.footage(id)).map((f) => f.id);
    const folders = readdirSync(join(server.data, 'media'));
    const { body: binned } = await server.get<{ id: string }[]>('/api/bin');
    expect(folders.includes(footage)).toBe([...rows, ...binned.map((each) => each.id)].includes(footage));
    for (const f of await server.footage(id)) expect(f.missing).toBe(false);
  }
});

test('the watched folder takes a file in once: not again after a restart, a new name of the footage, or of the file', async () => {
  const own = await RunningServer.start();
  const { id } = await own.newProject();
  const watched = join(own.data, 'watched', id);
  copyFileSync(clip, join(watched, 'bell.mp4'));
  const [footage] = await own.until(
    () => own.footage(id),
    (all) => all.length === 1,
  );
  await own.send('PATCH', `/api/footage/${footage.id}`, { name: 'the bell' });
  await own.kill('SIGTERM');
  renameSync(join(watched, 'bell.mp4'), join(watched, 'bell again.mp4'));
  const back = await RunningServer.start(own.data);
  // A second file tells that the first was looked at.
  await makeNumberedClip({
    file: join(watched, 'zz other.mp4'),
    frames: 30,
    rate: '30',
    options: H264,
    numberOf: (n) => n + 100,
  });
  await back.until(
    () => back.footage(id),
    (all) => all.some((f) => f.name === 'zz other.mp4'),
  );
  expect((await back.footage(id)).map((f) => f.name).sort()).toEqual(['the bell', 'zz other.mp4']);
  await back.discard();
});

test('an upload that was whole when the server was killed is taken in when it starts again', async () => {
  const own = await RunningServer.start();
  const { id } = await own.newProject();
  await own.kill();
  const content = readFileSync(clip);
  const uploads = join(own.data, 'uploads');
  const about = {
    id: 'whole',
    size: content.length,
    offset: content.length,
    metadata: { projectId: id, filename: 'bell.mp4' },
    creation_date: new Date().toISOString(),
  };
  writeFileSync(join(uploads, 'whole'), content);
  writeFileSync(join(uploads, 'whole.json'), JSON.stringify(about));
  writeFileSync(join(uploads, 'junk'), 'no footage');
  writeFileSync(
    join(uploads, 'junk.json'),
    JSON.stringify({ ...about, id: 'junk', size: 10, metadata: { projectId: id, filename: 'junk.mp4' } }),
  );
  const back = await RunningServer.start(own.data);
  await back.until(
    () => back.footage(id),
    (all) => all.length === 1,
  );
  expect((await back.footage(id))[0]).toMatchObject({ name: 'bell.mp4', missing: false });
  await back.until(
    async () => readdirSync(uploads),
    (names) => names.length === 0,
    30,
  );
  await back.discard();
});

test('a second server on one data folder says so and ends; after a kill the folder is free at once', async () => {
  const own = await RunningServer.start();
  await expect(RunningServer.start(own.data)).rejects.toThrow(/another server uses the data folder/);
  expect(await isUp(own)).toBe(true);
  await own.kill();
  const back = await RunningServer.start(own.data);
  expect(await isUp(back)).toBe(true);
  await back.discard();
});

test('one file that stalls delays nobody: the other goes by in its own lane', async () => {
  const { id } = await server.newProject();
  // Long enough that it is still prepared when the other is done.
  const slow = await makeNumberedClip({ file: at('slow.mp4'), frames: 4000, rate: '60', options: H264 });
  const { id: first } = await server.upload(id, slow);
  const { id: second } = await server.upload(id, clip);
  const ready = await server.prepared(id, second);
  expect(ready.status).toBe('ready');
  expect((await server.footage(id)).find((f) => f.id === first)!.status).toBe('preparing');
});
