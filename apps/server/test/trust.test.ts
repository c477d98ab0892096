import { spawnSync } from 'node:child_process';
import {
  closeSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { request } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { addCue } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { plainClip } from '@idle-bend/core/reel';
import { straightMap } from '@idle-bend/core/time-map';
import { H264, makeNumberedClip } from '../../../packages/media/test/numbered-clip.js';
import { Backups, MAX_BACKUPS } from '../src/projects/backups.js';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-trust-'));
const at = (name: string) => join(folder, name);
let clip: string;
beforeAll(async () => {
  clip = await makeNumberedClip({ file: at('clip.mp4'), frames: 30, rate: '30', options: H264 });
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Whether this process has the right to mount disks (`CAP_SYS_ADMIN`, capabilities(7)). */
const MAY_MOUNT =
  (BigInt(`0x${/^CapEff:\s*([\da-f]+)$/m.exec(readFileSync('/proc/self/status', 'utf8'))?.[1] ?? '0'}`) >> 21n) & 1n;

const TOKEN = 'marbles-roll-downhill-42';
const withCue = (document: Project, n: number) => addCue(document, { id: `q${n}`, frame: n, name: '', beat: null });

describe('beyond this machine', () => {
  let server: RunningServer;
  beforeAll(async () => {
    server = await RunningServer.start(undefined, ['--host', '0.0.0.0'], {
      IDLE_BEND_TOKEN: TOKEN,
      IDLE_BEND_NAMES: 'workshop',
    });
  });
  afterAll(() => server.discard());

  /** fetch sets Host itself, so these go out by hand. */
  const raw = (path: string, headers: Record<string, string> = {}, method = 'GET') =>
    new Promise<{ status: number; text: string }>((resolve, reject) => {
      request({ host: '127.0.0.1', port: new URL(server.url).port, path, method, headers }, (response) => {
        let text = '';
        response.on('data', (chunk: Buffer) => (text += chunk.toString()));
        response.on('end', () => resolve({ status: response.statusCode!, text }));
      })
        .once('error', reject)
        .end();
    });
  const knows = { authorization: `Bearer ${TOKEN}` };

  test('without the token nothing is handed out: pages, files, events, uploads', async () => {
    const project = (await server.send('POST', '/api/projects', { name: 'Marble Parade' }, knows)).body.id as string;
    for (const [method, path] of [
      ['GET', '/api/projects'],
      ['GET', `/api/projects/${project}/events`],
      ['PUT', `/api/projects/${project}/document`],
      ['POST', '/api/uploads'],
      ['PATCH', '/api/uploads/x'],
      ['GET', '/api/footage/x/proxy'],
      ['GET', '/api/renders/x/file'],
      ['GET', '/api/work/media/x'],
      ['GET', '/api/work/x/0'],
      ['GET', '/assets/index.js'],
    ] as const)
      expect([path, (await raw(path, { accept: 'application/json' }, method)).status]).toEqual([path, 401]);
    const page = await raw('/projects/x/bench', { accept: 'text/html' });
    expect(page).toMatchObject({ status: 401, text: expect.stringContaining('Token of this server') });
    expect(page.text).not.toContain('<script');
    expect((await raw('/api/projects', { ...knows, accept: 'application/json' })).status).toBe(200);
  });

  test('a browser that has told it once is known by a cookie that is not the token', async () => {
    const signIn = (token: string) =>
      fetch(`${server.url}/sign-in`, {
        method: 'POST',
        body: new URLSearchParams({ token }),
        redirect: 'manual',
        headers: { origin: server.url },
      });
    const wrong = await signIn('marbles-roll-uphill-42');
    expect([wrong.status, await wrong.text()]).toEqual([401, expect.stringContaining('That is not the token.')]);
    const right = await signIn(TOKEN);
    expect(right.status).toBe(303);
    const cookie = right.headers.get('set-cookie')!;
    expect(cookie).toMatch(/HttpOnly; SameSite=Strict/);
    expect(cookie).not.toContain(TOKEN);
    const kept = cookie.split(';')[0]!;
    expect((await raw('/api/projects', { cookie: kept })).status).toBe(200);
    expect((await raw('/api/projects', { cookie: `${kept}x` })).status).toBe(401);
  });

  test('addresses in figures and the names it was told are its own; other names, and other sites, are not', async () => {
    const status = async (headers: Record<string, string>, method = 'GET') =>
      (await raw('/api/projects', { ...knows, ...headers }, method)).status;
    expect(await status({ host: '10.1.2.3:4717' })).toBe(200);
    expect(await status({ host: 'workshop:4717' })).toBe(200);
    expect(await status({ host: 'workshop', origin: 'https://workshop' })).toBe(200);
    expect(await status({ host: 'marbles.example' })).toBe(403);
    expect(await status({ host: 'workshop', origin: 'http://marbles.example' })).toBe(403);
    expect(await status({ host: 'workshop', 'sec-fetch-site': 'cross-site' }, 'POST')).toBe(403);
  });

  test('the token cannot be guessed at leisure', async () => {
    const statuses = [];
    for (let i = 0; i < 30; i++)
      statuses.push((await raw('/api/projects', { authorization: `Bearer guess-number-${i}-of-many` })).status);
    expect(new Set(statuses)).toEqual(new Set([401, 429]));
  });

  test.each([
    [['--host', '0.0.0.0'], {}, /--host: beyond this machine a token is needed; set IDLE_BEND_TOKEN/],
    [[], { IDLE_BEND_TOKEN: 'short' }, /IDLE_BEND_TOKEN: needs at least 16 characters/],
    [[], { IDLE_BEND_REDIS: 'http://marbles' }, /IDLE_BEND_REDIS: is not a redis:\/\/ address/],
  ])('%j %j does not start', async (args, env, message) => {
    await expect(RunningServer.start(at('never'), args, { IDLE_BEND_TOKEN: '', ...env })).rejects.toThrow(message);
  });

  test('every page says what it may load', async () => {
    const { headers } = await fetch(server.url, { headers: { ...knows, accept: 'text/html' } });
    expect(headers.get('content-security-policy')).toMatch(/default-src 'self';script-src 'self' 'wasm-unsafe-eval'/);
    expect(headers.get('content-security-policy')).not.toMatch(/script-src[^;]*unsafe-inline/);
    expect(headers.get('x-content-type-options')).toBe('nosniff');
  });
});

describe('earlier states of a project', () => {
  test('are saved while it is edited, and gone back to; what was there is saved too', async () => {
    const server = await RunningServer.start();
    const { id, document } = await server.newProject();
    const put = (version: number, changed: Project) =>
      server.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'a' });
    await put(1, withCue(document, 1));
    await put(2, withCue(withCue(document, 1), 2));
    const list = async () => (await server.get<any[]>(`/api/projects/${id}/backups`)).body.map((b) => b.version);
    // Within a minute not every state is.
    expect(await list()).toEqual([1]);
    expect((await server.send('POST', `/api/projects/${id}/backups/1/restore`)).body).toEqual({ version: 4 });
    expect((await server.get(`/api/projects/${id}`)).body.document).toEqual(document);
    expect(await list()).toEqual([3, 1]);
    const { body } = await server.get<any[]>(`/api/projects/${id}/backups`);
    expect(body.map((b) => b.changed)).toEqual(['a cue is there, a cue is there', null]);
    await server.send('POST', `/api/projects/${id}/backups/3/restore`);
    expect((await server.get(`/api/projects/${id}`)).body.document.reel.cues).toHaveLength(2);
    expect((await server.send('POST', `/api/projects/${id}/backups/99/restore`)).status).toBe(404);
    await server.discard();
  });

  test('there are at most so many: the last ones all, the older the sparser, the first of all', async () => {
    const backups = new Backups({ backupFolder: at('backups') } as never);
    for (let version = 1; version <= 300; version++)
      await backups.keep('p', { name: 'Marble Parade', version, document: '{}' });
    const versions = (await backups.list('p')).map((b) => b.version).reverse();
    expect(versions).toHaveLength(MAX_BACKUPS);
    expect(versions.slice(-20)).toEqual(Array.from({ length: 20 }, (_, i) => 281 + i));
    expect(versions[0]).toBe(1);
    const gaps = versions.slice(0, -20).map((v, i) => versions[i + 1]! - v);
    expect(Math.max(...gaps)).toBeLessThan(40);
  });
});

describe('a data folder of an earlier version', () => {
  test('is lifted: its projects and renders are there, and one that was under way can be begun again', async () => {
    const data = at('earlier');
    mkdirSync(data);
    const document = JSON.stringify({
      format: 'idle-bend-project',
      version: 3,
      reel: { rate: { num: 24, den: 1 }, width: 320, height: 192, method: 'step', items: [], cues: [] },
      sources: [],
    });
    const sql = [
      'CREATE TABLE projects (id VARCHAR(255) PRIMARY KEY, name TEXT NOT NULL, document TEXT NOT NULL, version INTEGER NOT NULL, createdAt DATETIME, updatedAt DATETIME)',
      'CREATE TABLE footage (id VARCHAR(255) PRIMARY KEY, projectId TEXT NOT NULL, name TEXT NOT NULL, fileName TEXT NOT NULL, status TEXT NOT NULL, problem TEXT, facts TEXT NOT NULL, createdAt DATETIME, updatedAt DATETIME)',
      'CREATE TABLE renders (id VARCHAR(255) PRIMARY KEY, projectId TEXT NOT NULL, fileName TEXT NOT NULL, container TEXT NOT NULL, status TEXT NOT NULL, problem TEXT, document TEXT NOT NULL, frames INTEGER NOT NULL, bytes INTEGER, createdAt DATETIME, updatedAt DATETIME)',
      'CREATE TABLE SequelizeMeta (name VARCHAR(255) NOT NULL PRIMARY KEY)',
      "INSERT INTO SequelizeMeta VALUES ('001-projects-footage-renders')",
      `INSERT INTO projects VALUES ('p', 'Marble Parade', '${document}', 7, '2026-01-01 00:00:00.000 +00:00', '2026-01-01 00:00:00.000 +00:00')`,
      `INSERT INTO renders VALUES ('r', 'p', 'Marble Parade.mkv', 'mkv', 'running', NULL, '${document}', 12, NULL, '2026-01-01 00:00:00.000 +00:00', '2026-01-01 00:00:00.000 +00:00')`,
    ];
    const script = `const { Database } = require('sqlite3'); const db = new Database(${JSON.stringify(join(data, 'idle-bend.sqlite'))}); db.serialize(() => { for (const q of ${JSON.stringify(sql)}) db.run(q, (e) => { if (e) throw e; }); }); db.close();`;
    expect(
      spawnSync(process.execPath, ['-e', script], { encoding: 'utf8', env: { ...process.env, NODE_OPTIONS: '' } }),
    ).toMatchObject({
      status: 0,
      stderr: '',
    });
    const server = await RunningServer.start(data);
    expect((await server.get('/api/projects/p')).body).toMatchObject({
      name: 'Marble Parade',
      version: 7,
      document: { version: 10 },
    });
    const [render] = (await server.get<any[]>('/api/projects/p/renders')).body;
    expect(render).toMatchObject({
      id: 'r',
      status: 'cancelled',
      frames: 12,
      settings: { format: 'ffv1', quality: 'full', depth: 'source', range: 'keep', level: 'default', chapters: false },
    });
    expect((await server.send('POST', '/api/renders/r/resume')).status).toBe(200);
    // Its reel is empty, which it says.
    const look = async () => (await server.get<any[]>('/api/projects/p/renders')).body[0];
    expect(await server.until(look, ({ status }) => status === 'failed')).toMatchObject({
      problem: expect.stringMatching(/nothing|no clip/i),
    });
    await server.discard();
  });
});

describe('what goes wrong with the machine', () => {
  test('a damaged database is set aside: projects come back from their earlier states, footage from its folders', async () => {
    let server = await RunningServer.start();
    const { id, document } = await server.newProject();
    await server.send('PUT', `/api/projects/${id}/document`, { version: 1, document: withCue(document, 7), by: 'a' });
    const { id: footage } = await server.upload(id, clip);
    await server.prepared(id, footage);
    await server.kill('SIGTERM');
    const file = openSync(join(server.data, 'idle-bend.sqlite'), 'r+');
    for (let page = 0; page < 12; page++) writeSync(file, Buffer.alloc(3000, 0x5a), 0, 3000, page * 4096 + 100);
    closeSync(file);
    // Else the log would mend it.
    for (const end of ['-wal', '-shm']) rmSync(join(server.data, `idle-bend.sqlite${end}`), { force: true });
    // Nobody owns this one: it goes.
    mkdirSync(join(server.data, 'media', 'stray'));
    server = await RunningServer.start(server.data);
    expect(readdirSync(server.data).some((name) => name.includes('.damaged-'))).toBe(true);
    expect((await server.get(`/api/projects/${id}`)).body).toMatchObject({ name: 'Marble Parade' });
    expect(await server.prepared(id, footage)).toMatchObject({ name: 'clip.mp4', status: 'ready' });
    expect(readdirSync(join(server.data, 'media'))).toEqual([footage]);
    await server.discard();
  });

  test('asked to end, it ends, though a window still listens', async () => {
    const server = await RunningServer.start();
    const { id } = await server.newProject();
    const listening = await fetch(`${server.url}/api/projects/${id}/events`);
    expect(listening.status).toBe(200);
    const ended = listening.text().catch(() => 'cut off');
    // A server that waits for its windows waits until the test is given up.
    await server.kill('SIGTERM');
    expect(await ended).toBe('cut off');
    await server.discard();
  });

  test('without ffmpeg it starts, says so, and refuses footage in a sentence; with it again, the demo is loaded after all', async () => {
    const server = await RunningServer.start(undefined, ['--demo'], {
      IDLE_BEND_FFMPEG: at('nowhere'),
      IDLE_BEND_FFPROBE: at('nowhere'),
    });
    const { problems } = (await server.get('/api/state')).body;
    expect(problems).toEqual([
      `${at('nowhere')} cannot be run; correct IDLE_BEND_FFMPEG.`,
      `${at('nowhere')} cannot be run; correct IDLE_BEND_FFPROBE.`,
    ]);
    const { id } = await server.newProject();
    expect(await server.upload(id, clip)).toMatchObject({
      status: 422,
      text: expect.stringContaining('correct IDLE_BEND_FFPROBE'),
    });
    const clips = async (at: RunningServer) =>
      (await at.get('/api/projects/marble-parade')).body.document.reel.items.length;
    expect(await clips(server)).toBe(0);
    await server.kill();
    const again = await RunningServer.start(server.data, ['--demo']);
    expect(await clips(again)).toBe(8);
    await again.discard();
  });

  test('an old ffmpeg is told', async () => {
    writeFileSync(at('old-ffmpeg'), '#!/bin/sh\necho "ffmpeg version 3.2.1"\n', { mode: 0o755 });
    const server = await RunningServer.start(undefined, [], { IDLE_BEND_FFMPEG: at('old-ffmpeg') });
    expect((await server.get('/api/state')).body.problems).toEqual([
      expect.stringMatching(/^ffmpeg 3.2 is older than 4.4/),
    ]);
    await server.discard();
  });

  test('missing media is named, by the frame that is asked of it and by the render', async () => {
    const server = await RunningServer.start();
    const { id } = await server.newProject();
    const { id: footage } = await server.upload(id, clip);
    await server.prepared(id, footage);
    rmSync(join(server.data, 'media', footage, 'original.mp4'));
    const still = await server.get(
      `/api/footage/${footage}/frame?sample=${encodeURIComponent('{"kind":"source","frame":3}')}`,
    );
    expect(still).toEqual({ status: 422, body: { message: 'clip.mp4: there is no such file.' } });
    await server.discard();
  });

  /** A disk of its own that is easily full. */
  const small = at('small');
  beforeAll(() => {
    if (!MAY_MOUNT) return;
    mkdirSync(small);
    expect(spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=64m', 'tmpfs', small]).status).toBe(0);
  });
  afterAll(() => void (MAY_MOUNT && spawnSync('umount', ['-l', small])));
  (MAY_MOUNT ? test : test.skip)(
    'a full disk: what cannot be kept is refused in a sentence, what was kept stays, and with room again it goes on',
    async () => {
      let server = await RunningServer.start(join(small, 'data'));
      const { id, document } = await server.newProject();
      await server.send('PUT', `/api/projects/${id}/document`, { version: 1, document: withCue(document, 7), by: 'a' });
      const big = at('big.mp4');
      writeFileSync(big, Buffer.alloc(80e6));
      expect(await server.upload(id, big)).toMatchObject({
        status: 507,
        text: 'big.mp4 does not fit on the disk of the data folder; free some first.',
      });
      const filler = join(small, 'filler');
      const { bavail, bsize } = (await import('node:fs')).statfsSync(small);
      writeFileSync(filler, Buffer.alloc(bavail * bsize));
      const long = {
        ...document,
        reel: {
          ...document.reel,
          cues: Array.from({ length: 900 }, (_, n) => ({ id: `c${n}`, frame: n, name: 'x'.repeat(100), beat: null })),
        },
      };
      const refused = await server.send('PUT', `/api/projects/${id}/document`, { version: 2, document: long, by: 'a' });
      expect(refused).toEqual({
        status: 507,
        body: { message: 'The disk of the data folder is full: this was not kept. Free some, and try again.' },
      });
      expect((await server.get('/api/state')).body.problems.join()).toMatch(/has 0 MB left/);
      rmSync(filler);
      expect(
        (await server.send('PUT', `/api/projects/${id}/document`, { version: 2, document: long, by: 'a' })).status,
      ).toBe(200);
      await server.kill();
      server = await RunningServer.start(server.data);
      expect((await server.get(`/api/projects/${id}`)).body).toMatchObject({ version: 3, document: long });
      await server.kill('SIGTERM');
      // The same folder on a disk that cannot be written.
      spawnSync('mount', ['-o', 'remount,ro', small]);
      await expect(RunningServer.start(server.data)).rejects.toThrow(
        /Idle Bend could not start: .*(read-only|READONLY|CANTOPEN|EROFS)/i,
      );
      spawnSync('mount', ['-o', 'remount,rw', small]);
      expect(existsSync(join(server.data, 'idle-bend.sqlite'))).toBe(true);
    },
  );

  (MAY_MOUNT ? test : test.skip)(
    'a disk that fills up in the middle of a render: it fails in a sentence, and with room again goes on with what it had',
    async () => {
      const server = await RunningServer.start(join(small, 'rendering'));
      const { id, document } = await server.newProject();
      const { id: footage } = await server.upload(id, clip);
      await server.prepared(id, footage);
      const native = { num: 30, den: 1 };
      const source = {
        id: footage,
        name: 'clip',
        frames: 30,
        nativeRate: native,
        readAs: native,
        moments: [],
        droppedRepeats: null,
      };
      const item = { ...plainClip('c', source, { num: 24, den: 1 }), map: straightMap(1200, 0, 29) };
      const filled: Project = {
        ...document,
        sources: [source],
        reel: { ...document.reel, width: 32, height: 20, items: [item] },
      };
      await server.send('PUT', `/api/projects/${id}/document`, { version: 1, document: filled, by: 'a' });
      const [render] = (await server.send('POST', `/api/projects/${id}/renders`, { format: 'h264' })).body;
      const look = async () => (await server.get<any[]>(`/api/projects/${id}/renders`)).body[0];
      const chunks = () =>
        readdirSync(join(server.data, 'renders', render.id)).filter((name) => name.startsWith('chunk'));
      await server.until(look, () => existsSync(join(server.data, 'renders', render.id)) && chunks().length > 1, 180);
      const filler = join(small, 'filler');
      spawnSync('dd', ['if=/dev/zero', `of=${filler}`, 'bs=64k']);
      const failed = await server.until(look, ({ status }) => ['failed', 'done'].includes(status), 180);
      expect(failed).toMatchObject({
        status: 'failed',
        problem: expect.stringMatching(/disk is full|No space left|ENOSPC/),
      });
      const had = chunks().length;
      expect(had).toBeGreaterThan(1);
      rmSync(filler);
      await server.send('POST', `/api/renders/${render.id}/resume`);
      expect(await server.until(look, ({ status }) => ['failed', 'done'].includes(status), 180)).toMatchObject({
        status: 'done',
        problem: null,
      });
      await server.discard();
    },
  );

  test('a clock that jumps hurts nothing: states are counted, not timed', async () => {
    const server = await RunningServer.start();
    const { id, document } = await server.newProject();
    const state = join(server.data, 'backups', id, '00000001.json');
    const kept = JSON.parse(readFileSync(state, 'utf8'));
    writeFileSync(state, JSON.stringify({ ...kept, keptAt: '2099-01-01T00:00:00.000Z' }));
    await server.send('PUT', `/api/projects/${id}/document`, { version: 1, document: withCue(document, 1), by: 'a' });
    await server.send('POST', `/api/projects/${id}/backups/1/restore`);
    expect((await server.get<any[]>(`/api/projects/${id}/backups`)).body.map((b) => b.version)).toEqual([2, 1]);
    await server.discard();
  });
});
