import { execFileSync } from 'node:child_process';
import { once } from 'node:events';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { addSource, appendClip } from '@idle-bend/core/edit';
import { H264, makeNumberedClip } from '../../../packages/media/test/numbered-clip.js';
import { RunningServer } from './running-server.js';

/** Where the server meets what is not as it should be: files that go away, two at once, damage, those who never finish. */
const folder = mkdtempSync(join(tmpdir(), 'idle-bend-edges-'));
const at = (name: string) => join(folder, name);
const LARGE_BYTES = 160 * 2 ** 20;

let server: RunningServer;
let clip: string;
beforeAll(async () => {
  clip = await makeNumberedClip({ file: at('marble-bell.mp4'), frames: 60, rate: '30', options: H264 });
  server = await RunningServer.start();
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

const isUp = async (on = server) => (await on.get('/api/state')).status === 200;
/** Files a server has open. */
const opened = (on: RunningServer) => readdirSync(`/proc/${on.pid}/fd`).length;

/** A project with one clip on its reel, and how its footage is called. */
async function filled(on = server, headers: Record<string, string> = {}) {
  const { id, document } = (await on.send('POST', '/api/projects', { name: 'Marble Parade' }, headers)).body;
  const { id: footage } = await on.upload(id, clip);
  const media = {
    id: footage,
    name: 'marble-bell',
    frames: 60,
    nativeRate: { num: 30, den: 1 },
    readAs: { num: 30, den: 1 },
    moments: [],
    droppedRepeats: null,
  };
  const edited = appendClip(addSource(document, media), 'c', footage);
  await on.send('PUT', `/api/projects/${id}/document`, { version: 1, document: edited, by: 'a' }, headers);
  return { id: id as string, footage, document: edited };
}

async function bring(on: RunningServer, content: Buffer) {
  const encode = (text: string) => Buffer.from(text).toString('base64');
  const metadata = `bundle ${encode('yes')},filename ${encode('it.zip')}`;
  const created = await fetch(`${on.url}/api/uploads`, {
    method: 'POST',
    headers: { 'Tus-Resumable': '1.0.0', 'Upload-Length': String(content.length), 'Upload-Metadata': metadata },
  });
  const place = new URL(created.headers.get('location')!, `${on.url}/api/uploads`);
  const answer = await fetch(place, {
    method: 'PATCH',
    headers: { 'Tus-Resumable': '1.0.0', 'Upload-Offset': '0', 'Content-Type': 'application/offset+octet-stream' },
    body: new Uint8Array(content),
  });
  return {
    status: answer.status,
    text: await answer.text(),
    id: answer.headers.get('x-project-id') ?? '',
    again: answer.headers.get('x-taken-again'),
  };
}

describe('a bundle that is downloaded', () => {
  test('while its footage goes away breaks off, and the server goes on', async () => {
    const { id, footage } = await filled();
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
    const { id, footage } = await filled();
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

describe('a bundle that is brought', () => {
  test('twice at once is two whole projects, and the second is said to be there again', async () => {
    const { id } = await filled();
    const content = Buffer.from(await (await fetch(`${server.url}/api/projects/${id}/bundle?media=yes`)).arrayBuffer());
    const there = await RunningServer.start();
    const both = await Promise.all([bring(there, content), bring(there, content), bring(there, content)]);
    expect(both.map(({ status }) => status)).toEqual([200, 200, 200]);
    expect(both.filter(({ again }) => again).length).toBe(2);
    for (const one of both) {
      const [footage] = await there.footage(one.id);
      expect(footage).toMatchObject({ missing: false });
      expect(statSync(join(there.data, 'media', footage.id, 'original.mp4')).size).toBe(statSync(clip).size);
    }
    await there.discard();
  });

  test('with one byte another is refused and leaves nothing', async () => {
    const { id } = await filled();
    const content = Buffer.from(await (await fetch(`${server.url}/api/projects/${id}/bundle?media=yes`)).arrayBuffer());
    const there = await RunningServer.start();
    const media = content.indexOf(readFileSync(clip).subarray(2000, 2200));
    expect(media).toBeGreaterThan(0);
    content[media + 100]! ^= 1;
    expect(await bring(there, content)).toMatchObject({
      status: 422,
      text: expect.stringMatching(/damaged in this bundle/),
    });
    expect((await there.get('/api/projects')).body).toEqual([]);
    expect(readdirSync(join(there.data, 'media'))).toEqual([]);
    await there.discard();
  });
});

test('with a token its user is never locked out by streams that stay open and downloads that are broken off', async () => {
  const TOKEN = 'marbles-roll-downhill-42';
  const knows = { Authorization: `Bearer ${TOKEN}` };
  const guarded = await RunningServer.start(undefined, [], { IDLE_BEND_TOKEN: TOKEN });
  const { id } = (await guarded.send('POST', '/api/projects', { name: 'Marble Parade' }, knows)).body;
  const streams: AbortController[] = [];
  for (let i = 0; i < 40; i++) {
    const stop = new AbortController();
    streams.push(stop);
    expect(
      (await fetch(`${guarded.url}/api/projects/${id}/events`, { headers: knows, signal: stop.signal })).status,
    ).toBe(200);
    if (i % 2) stop.abort();
  }
  expect((await guarded.get(`/api/projects/${id}`, knows)).status).toBe(200);
  // A page that asks without a token guesses nothing; one that tries tokens does, and then even the right one waits.
  for (let i = 0; i < 30; i++) expect((await guarded.get('/api/projects')).status).toBe(401);
  for (let i = 0; i < 25; i++) await guarded.get('/api/projects', { Authorization: `Bearer wrong-${i}` });
  expect((await guarded.get('/api/projects', knows)).status).toBe(429);
  streams.forEach((stop) => stop.abort());
  await guarded.discard();
});

test('a damaged backup, or one a newer program wrote, keeps no server from starting: the one before it is taken, and only for a project that is lost', async () => {
  const own = await RunningServer.start();
  const { id } = await filled(own);
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
  const { id, document } = await filled();
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
  const { id, document } = await filled();
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
  const { id, document } = await filled();
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

test('an upload says how long it is, and what others have still to bring is theirs', async () => {
  const encode = (text: string) => Buffer.from(text).toString('base64');
  const { id } = await server.newProject();
  const begin = (headers: Record<string, string>) =>
    fetch(`${server.url}/api/uploads`, {
      method: 'POST',
      headers: {
        'Tus-Resumable': '1.0.0',
        'Upload-Metadata': `projectId ${encode(id)},filename ${encode('bell.mp4')}`,
        ...headers,
      },
    });
  const deferred = await begin({ 'Upload-Defer-Length': '1' });
  expect([deferred.status, await deferred.text()]).toEqual([411, expect.stringMatching(/has to say how long it is/)]);
  const free = Number(execFileSync('df', ['--output=avail', '-B1', server.data]).toString().split('\n')[1]);
  const half = { 'Upload-Length': String(Math.floor(free * 0.6)) };
  const begun = await begin(half);
  expect(begun.status).toBe(201);
  // A large file over a slow line takes hours; what is begun is kept for a day.
  const hours = (Date.parse(begun.headers.get('upload-expires') ?? '') - Date.now()) / 3_600_000;
  expect(hours).toBeGreaterThan(20);
  expect((await begin(half)).status).toBe(507);
});

describe('addresses and names', () => {
  test.each(['/api/projects/a%00b', '/api/footage/%00/frame', '/api/renders/x%00/file', '/%00'])(
    '%s is refused in words',
    async (path) => {
      const { status, body } = await server.get(path);
      expect([status, typeof body.message]).toEqual([400, 'string']);
    },
  );

  test('no error tells a path or a statement of the database', async () => {
    const { id } = await server.newProject();
    const { id: footage } = await server.upload(id, clip);
    await server.prepared(id, footage);
    rmSync(join(server.data, 'media', footage, 'strip.jpg'));
    const answers = [
      await server.get(`/api/footage/${footage}/strip`),
      await server.get(`/api/footage/${'x'.repeat(5000)}/strip`),
      await server.get("/api/projects/'%3B--"),
      await server.get('/api/projects/%E0%A4%A'),
      await server.send('POST', `/api/projects/${id}/backups/99999999999999999999/restore`),
      await server.send('PATCH', `/api/footage/${footage}`, { name: { toString: 'x' } }),
    ];
    for (const { status, body } of answers) {
      expect(status).toBeGreaterThanOrEqual(400);
      expect(JSON.stringify(body)).not.toMatch(/SELECT|SQLITE|UPDATE `|\/tmp\/|ENOENT|at .*\.js/);
    }
    expect(answers[0]!.status).toBe(404);
  });

  test.each(['   ', '\u0000\u0007', '\n'])('a blank name (%j) is refused', async (name) => {
    expect((await server.send('POST', '/api/projects', { name })).status).toBe(400);
    const { id } = await server.newProject();
    expect((await server.send('PATCH', `/api/projects/${id}`, { name })).status).toBe(400);
  });
});

describe('chunks that are brought', () => {
  /** A render that waits: nobody makes its chunks. */
  async function waiting() {
    const data = mkdtempSync(join(tmpdir(), 'idle-bend-brought-'));
    const own = await RunningServer.start(data, [], { IDLE_BEND_REDIS: 'redis://127.0.0.1:1' });
    const { id } = await filled(own);
    const [render] = (await own.send('POST', `/api/projects/${id}/renders`, { format: 'h264' })).body;
    return { own, path: `/api/work/${render.id}`, place: join(data, 'renders', render.id) };
  }

  test('are looked at: nothing, garbage, another length and odd numbers are refused, and a good one stays', async () => {
    const { own, path, place } = await waiting();
    for (const [number, status] of Object.entries({ 0: 200, 9999: 404 }))
      expect((await own.send('GET', `${path}/${number}`)).status).toBe(status);
    const put = (number: string, name: string, content: Buffer) =>
      fetch(`${own.url}${path}/${number}/d1/${name}`, { method: 'PUT', body: new Uint8Array(content) });
    const done = (number: string) => own.send('POST', `${path}/${number}/d1/done`);
    for (const number of ['0x0', '1e0', '-0', '0.0', '%200', '٣'])
      expect((await done(number)).status).toBeGreaterThanOrEqual(400);
    expect(await done('0')).toMatchObject({ status: 422, body: { message: 'Nothing was brought for this chunk.' } });
    await put('0', 'chunk-000000.mp4', Buffer.from('no film at all'));
    expect(await done('0')).toMatchObject({
      status: 422,
      body: { message: 'The chunk that was brought does not decode.' },
    });
    const long = await makeNumberedClip({ file: at('long.mp4'), frames: 61, rate: '24', options: H264 });
    await put('0', 'chunk-000000.mp4', readFileSync(long));
    expect(await done('0')).toMatchObject({
      status: 422,
      body: { message: expect.stringMatching(/has 61 frames instead of \d+/) },
    });
    const frames = Number(
      /instead of (\d+)/.exec(
        (await (await put('0', 'chunk-000000.mp4', readFileSync(long)), done('0'))).body.message,
      )![1],
    );
    const right = await makeNumberedClip({ file: at('right.mp4'), frames, rate: '24', options: H264 });
    await put('0', 'chunk-000000.mp4', readFileSync(right));
    expect((await done('0')).status).toBe(200);
    await put('0', 'chunk-000000.mp4', Buffer.from('worse'));
    expect((await done('0')).status).toBe(422);
    expect(readFileSync(join(place, 'chunk-000000.mp4')).equals(readFileSync(right))).toBe(true);
    expect((await put('0', '..%2Fx', Buffer.from('x'))).status).toBeGreaterThanOrEqual(400);
    expect(existsSync(join(place, '..', 'x'))).toBe(false);
    await own.discard();
  });

  test('one whose sender goes silent in the middle leaves nothing', async () => {
    const { own, path, place } = await waiting();
    const { hostname, port } = new URL(own.url);
    const socket = connect(Number(port), hostname);
    socket.on('error', () => undefined);
    socket.write(
      `PUT ${path}/0/d2/chunk-000000.mp4 HTTP/1.1\r\nHost: ${hostname}:${port}\r\nContent-Length: 100000\r\n\r\nhalf`,
    );
    await own.until(
      async () => existsSync(join(place, '.brought-0-d2', 'chunk-000000.mp4')),
      (there) => there,
      30,
    );
    socket.destroy();
    await own.until(
      async () => existsSync(join(place, '.brought-0-d2', 'chunk-000000.mp4')),
      (there) => !there,
      30,
    );
    expect(await isUp(own)).toBe(true);
    await own.discard();
  });
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

test('a client that is busy between two requests finds its connection open', async () => {
  const { port } = new URL(server.url);
  const socket = connect(Number(port), '127.0.0.1');
  const ask = async () => {
    socket.write(`GET /api/state HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\n\r\n`);
    return ((await once(socket, 'data')) as [Buffer])[0].toString().split('\r\n')[0];
  };
  expect(await ask()).toBe('HTTP/1.1 200 OK');
  // Longer than Node keeps one by default.
  await new Promise((resolve) => setTimeout(resolve, 8000));
  expect(socket.readyState).toBe('open');
  expect(await ask()).toBe('HTTP/1.1 200 OK');
  socket.destroy();
});
