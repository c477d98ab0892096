import { spawnSync } from 'node:child_process';
import {
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
  existsSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pass } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Project } from '@idle-bend/core/model';
import { clipFrameCount } from '@idle-bend/core/sampling';
import { positionAt, straightMap } from '@idle-bend/core/time-map';
import { readNumbers } from '../../../packages/media/test/numbered-clip.js';
import { FRAMES, numberedClip, Rendering } from './rendering.js';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-queue-'));
const at = (name: string) => join(folder, name);

let server: RunningServer;
let clip: string;
let on: Rendering;
beforeAll(async () => {
  server = await RunningServer.start();
  clip = await numberedClip(folder);
  on = new Rendering(server, clip, folder);
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});
const bending: Rendering['bending'] = (...asked) => on.bending(...asked);
const render: Rendering['render'] = (...asked) => on.render(...asked);
const rendered: Rendering['rendered'] = (...asked) => on.rendered(...asked);

/** Long enough that no machine is done with it while a test looks elsewhere. */
const LONG = straightMap(60_000, 0, 240);
const chunksIn = (data: string, id: string) =>
  existsSync(join(data, 'renders', id))
    ? readdirSync(join(data, 'renders', id)).filter((name) => name.startsWith('chunk'))
    : [];

describe('what a render is asked for', () => {
  test('a range, one clip, or a file for every clip; in any format, and as a draft', async () => {
    const { id } = await bending(straightMap(30, 0, 150));
    const { version, document } = (await server.get<{ version: number; document: Project }>(`/api/projects/${id}`))
      .body;
    const [first] = document.reel.items;
    const two = {
      ...document,
      reel: {
        ...document.reel,
        items: [first!, { ...first!, id: 'd', name: 'd/..?', map: straightMap(20, 150, 50) }],
        range: { from: 25, to: 35 },
      },
    };
    await server.send('PUT', `/api/projects/${id}/document`, { version, document: two, by: 'a' });
    const ask = async (request: object) => (await server.send('POST', `/api/projects/${id}/renders`, request)).body;
    const clips = await ask({ format: 'ffv1', part: 'clips' });
    expect(clips.map((r: any) => [r.fileName, r.frames])).toEqual([
      ['Marble Parade - 01 c.mkv', 30],
      ['Marble Parade - 02 d.mkv', 20],
    ]);
    const [range] = await ask({ format: 'prores-422', part: 'range' });
    const [one] = await ask({ format: 'hevc', part: 'clip', clipId: 'd', depth: 10, timecode: 'reel' });
    const [draft] = await ask({ format: 'h264', quality: 'draft' });
    for (const r of [...clips, range, one, draft])
      expect(await rendered(id, r.id)).toMatchObject({ status: 'done', problem: null });
    const show = async (r: any) => {
      writeFileSync(
        at('any'),
        Buffer.from(await (await fetch(`${server.url}/api/renders/${r.id}/file`)).arrayBuffer()),
      );
      return readNumbers(at('any'));
    };
    const all = [...Array.from({ length: 30 }, (_, k) => 5 * k), ...Array.from({ length: 20 }, (_, k) => 150 - 5 * k)];
    expect(await show(clips[1])).toEqual(all.slice(30));
    expect(await show(range)).toEqual(all.slice(25, 35));
    expect(await show(one)).toEqual(all.slice(30));
    expect(await show(draft)).toEqual(all);
    const size = spawnSync(
      'ffprobe',
      ['-v', 'error', '-select_streams', 'v', '-show_entries', 'stream=width,height', '-of', 'csv=p=0', at('any')],
      { encoding: 'utf8' },
    );
    expect(size.stdout.trim()).toBe('320,192');
  });

  test('what it will ask of the machine is told, and after one render how long it takes', async () => {
    const { id } = await bending(straightMap(40, 10, 50), 'flow');
    const estimate = async (request: object) =>
      (await server.send('POST', `/api/projects/${id}/renders/estimate`, request)).body;
    const before = await estimate({ format: 'vp9' });
    expect(before).toMatchObject({ files: 1, seconds: null, cost: { frames: 40, made: 0, pixels: 40 * 320 * 192 } });
    const { body } = await server.send('POST', `/api/projects/${id}/renders`, { format: 'vp9' });
    await rendered(id, body[0].id);
    const after = await estimate({ format: 'vp9' });
    expect(after.seconds).toBeGreaterThan(0);
    expect(after.seconds).toBeLessThan(120);
    expect(after.freeBytes).toBeGreaterThan(after.maxBytes);
    expect((await bending(straightMap(41, 10, 50), 'flow')).id).toBe(id);
    expect((await estimate({ format: 'vp9' })).cost.made).toBeGreaterThan(20);
  });

  test.each<[string, object, number, RegExp]>([
    ['an unknown format', { format: 'flipbook' }, 400, /format must be one of/],
    ['an unknown clip', { format: 'h264', part: 'clip', clipId: 'nobody' }, 422, /nothing of that clip/],
    [
      'no room on disk',
      { format: 'png' },
      507,
      /may take up to [\d.]+ GB of disk while it is made, and [\d.]+ [MG]B is free/,
    ],
    ['an unknown field', { format: 'h264', speed: 3 }, 400, /speed should not exist/],
  ])('%s is refused in a sentence', async (_, request, status, message) => {
    const { id } = await bending(straightMap(100_000, 0, 240));
    const { version, document } = (await server.get<{ version: number; document: Project }>(`/api/projects/${id}`))
      .body;
    await server.send('PUT', `/api/projects/${id}/document`, {
      version,
      document: { ...document, reel: { ...document.reel, width: 7680, height: 4320 } },
      by: 'a',
    });
    const answer = await server.send('POST', `/api/projects/${id}/renders`, request);
    expect(answer.status).toBe(status);
    expect(answer.body.message).toMatch(message);
  });
});

/** The processes that are at work for the server, as the kernel lists them. One that waits for work has not got its lower priority yet. */
const workers = () =>
  readdirSync('/proc').filter((pid) => {
    if (!/^\d+$/.test(pid)) return false;
    try {
      const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
      // From the state on; see proc(5).
      const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
      const [parent, nice] = [Number(fields[1]), Number(fields[16])];
      const command = readFileSync(`/proc/${pid}/cmdline`, 'utf8');
      return parent === server.pid && nice > 0 && command.includes('jobs/worker.js');
    } catch {
      // It has ended meanwhile.
      return false;
    }
  });

describe('the queue', () => {
  test('pauses, lets another go first, and goes on with the chunks it had', async () => {
    const { id } = await bending(LONG);
    const long = await render(id, 'mkv');
    await server.until(
      async () => chunksIn(server.data, long.id),
      (names) => names.length > 2,
    );
    expect((await server.send('POST', `/api/renders/${long.id}/pause`)).status).toBe(200);
    await bending(straightMap(4, 0, 20));
    const short = await render(id, 'mp4');
    expect(await rendered(id, short.id)).toMatchObject({ status: 'done' });
    expect((await server.send('POST', `/api/renders/${short.id}/pause`)).status).toBe(409);
    const had = new Map(
      chunksIn(server.data, long.id).map((name) => [name, statSync(join(server.data, 'renders', long.id, name)).ino]),
    );
    await server.send('POST', `/api/renders/${long.id}/resume`);
    await server.until(
      async () => chunksIn(server.data, long.id),
      (names) => names.length > had.size + 1,
    );
    for (const [name, ino] of had) expect(statSync(join(server.data, 'renders', long.id, name)).ino).toBe(ino);
    // Put at once behind, then before one that waits.
    const [a, b] = [await render(id, 'mp4'), await render(id, 'mp4')];
    await server.send('PATCH', `/api/renders/${b.id}`, { before: a.id });
    const order = (await server.get<any[]>(`/api/projects/${id}/renders`)).body.map((r) => r.id);
    expect(order.indexOf(b.id)).toBe(order.indexOf(a.id) + 1);
    expect((await server.send('PATCH', `/api/renders/${b.id}`, { before: 'nobody' })).status).toBe(404);
    for (const r of [long, a, b]) await server.send('DELETE', `/api/renders/${r.id}`);
    await server.until(
      async () => readdirSync(join(server.data, 'renders')),
      (names) => ![long.id, a.id, b.id].some((x) => names.includes(x)),
    );
  });

  test('of one that is paused just when it begins no chunk is made, and the next goes on', async () => {
    // Chunks that take seconds.
    const { id } = await bending(straightMap(4000, 0, 239), 'flow');
    for (const wait of [0, 5, 10, 20, 30, 40, 60, 80, 120, 160]) {
      const begun = await render(id, 'mkv');
      await pass(wait);
      expect((await server.send('POST', `/api/renders/${begun.id}/pause`)).status).toBe(200);
      await server.until(
        () => Promise.resolve(workers()),
        (left) => left.length === 0,
      );
      expect([wait, chunksIn(server.data, begun.id)]).toEqual([wait, []]);
    }
    await bending(straightMap(4, 0, 20));
    const short = await render(id, 'mp4');
    expect(await rendered(id, short.id)).toMatchObject({ status: 'done' });
  });

  test('one that failed says why, keeps what was finished, and can be tried again', async () => {
    const { id, footage } = await bending(LONG);
    const long = await render(id, 'mkv');
    await server.until(
      async () => chunksIn(server.data, long.id),
      (names) => names.length > 1,
    );
    const original = join(server.data, 'media', footage, 'original.mp4');
    renameSync(original, `${original}.away`);
    try {
      // Whoever has it open reads on; the next chunk does not find it.
      expect(await rendered(id, long.id)).toMatchObject({
        status: 'failed',
        problem: 'clip.mp4: there is no such file.',
      });
    } finally {
      renameSync(`${original}.away`, original);
    }
    const kept = chunksIn(server.data, long.id).length;
    expect(kept).toBeGreaterThan(1);
    await server.send('POST', `/api/renders/${long.id}/resume`);
    await server.until(
      async () => chunksIn(server.data, long.id),
      (names) => names.length > kept,
    );
    await server.send('DELETE', `/api/renders/${long.id}`);
  });

  test('a cancelled render leaves nothing, and the next one runs', async () => {
    const { id } = await bending(LONG);
    const long = await render(id, 'mkv');
    await server.until(
      async () => (await server.get<any[]>(`/api/projects/${id}/renders`)).body.find((r) => r.id === long.id),
      (r) => r.done > 20 && r.secondsLeft > 0,
    );
    // One that is under way is not begun again beside itself.
    expect((await server.send('POST', `/api/renders/${long.id}/resume`)).status).toBe(409);
    expect(workers().length).toBeGreaterThan(0);
    await server.send('POST', `/api/renders/${long.id}/cancel`);
    // What was at work on it ends, long before its chunk would be finished.
    await server.until(
      () => Promise.resolve(workers()),
      (left) => left.length === 0,
    );
    const short = await bending(straightMap(4, 0, 20));
    const next = await render(short.id, 'mp4');
    expect(await rendered(short.id, next.id)).toMatchObject({ status: 'done' });
    expect(await rendered(id, long.id)).toMatchObject({ status: 'cancelled' });
    await server.until(
      async () => readdirSync(join(server.data, 'renders')),
      (names) => !names.includes(long.id),
    );
    expect((await server.get(`/api/renders/${long.id}/file`)).body.message).toBe('This render is not finished.');
    expect((await server.send('DELETE', `/api/renders/${next.id}`)).status).toBe(200);
    expect(readdirSync(join(server.data, 'renders'))).not.toContain(next.id);
  });

  test('an empty reel has nothing to render', async () => {
    const { id } = await server.newProject();
    expect(await server.send('POST', `/api/projects/${id}/renders`, { format: 'h264' })).toMatchObject({
      status: 422,
      body: { message: 'There is nothing on the reel to render.' },
    });
  });

  test('killed in the middle of a proxy and a render, it takes both up again', async () => {
    let running = await RunningServer.start();
    const map = straightMap(1400, 0, 240);
    const { id, footage } = await new Rendering(running, clip, folder).bending(map);
    const asked = await new Rendering(running, clip, folder).render(id, 'mkv');
    await running.until(
      () => Promise.resolve(chunksIn(running.data, asked.id)),
      (names) => names.length > 0,
    );
    await running.kill();
    const had = new Map(
      chunksIn(running.data, asked.id).map((name) => [
        name,
        statSync(join(running.data, 'renders', asked.id, name)).ino,
      ]),
    );
    expect(had.size).toBeGreaterThan(0);
    running = await RunningServer.start(running.data);
    const inode = (name: string) =>
      statSync(join(running.data, 'renders', asked.id, name), { throwIfNoEntry: false })?.ino;
    for (const [name, ino] of had) expect([ino, undefined]).toContain(inode(name));
    expect(await running.prepared(id, footage)).toMatchObject({ status: 'ready' });
    const again = new Rendering(running, clip, folder);
    expect(await again.rendered(id, asked.id)).toMatchObject({ status: 'done' });
    const shown = readNumbers(await again.download(asked.id, 'after.mkv'));
    expect(shown).toEqual(
      Array.from({ length: clipFrameCount(map, FRAMES) }, (_, k) => Math.floor(positionAt(map, k) + 1e-6)),
    );
    // Ended before the chunks of a finished render were gone, it clears them away when it starts.
    await running.kill();
    writeFileSync(join(running.data, 'renders', asked.id, 'chunk-000003.mkv'), 'left over');
    running = await RunningServer.start(running.data);
    expect(readdirSync(join(running.data, 'renders', asked.id))).toEqual(['reel.mkv']);
    await running.discard();
  });
});
