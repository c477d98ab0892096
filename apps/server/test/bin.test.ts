import { existsSync, mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { DiskUse, ProjectSizes } from '@idle-bend/core/api';
import { appendClip, addSource } from '@idle-bend/core/edit';
import { parseProject, type Project } from '@idle-bend/core/model';
import { rate } from '@idle-bend/core/time';
import { straightMap } from '@idle-bend/core/time-map';
import sqlite3 from 'sqlite3';
import { H264, makeNumberedClip } from '../../../packages/media/test/numbered-clip.js';
import { RunningServer } from './running-server.js';

let server: RunningServer;
let film: string;
const folder = mkdtempSync(join(tmpdir(), 'idle-bend-bin-'));
beforeAll(async () => {
  server = await RunningServer.start();
  film = await makeNumberedClip({ file: join(folder, 'film.mp4'), frames: 24, rate: '24', options: H264 });
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

/** A project with one film on its reel. */
async function withFilm(name: string): Promise<{ id: string; footage: string; document: Project }> {
  const { id, version, document } = await server.newProject(name);
  const { id: footage } = await server.upload(id, film);
  await server.prepared(id, footage);
  const source = {
    ...{ id: footage, name: 'film', frames: 24, moments: [], droppedRepeats: null },
    ...{ nativeRate: rate(24), readAs: rate(24) },
  };
  const changed = appendClip(addSource(document, source), 'clip', footage);
  await server.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'test' });
  return { id, footage, document: changed };
}

const names = async () => (await server.get<{ name: string }[]>('/api/projects')).body.map(({ name }) => name);
const binned = async () =>
  (await server.get<{ id: string; name: string; bytes: number; goesAt: string }[]>('/api/bin')).body;
const media = () => readdirSync(join(server.data, 'media'));

describe('the bin', () => {
  test('a project goes there with its proxies freed, comes back whole, and is deleted with all that is its own', async () => {
    const { id, footage, document } = await withFilm('Parade');
    const folder = join(server.data, 'media', footage);
    expect(existsSync(join(folder, 'proxy.mp4'))).toBe(true);
    expect((await server.send('DELETE', `/api/projects/${id}`)).status).toBe(204);
    expect(await names()).not.toContain('Parade');
    expect(existsSync(join(folder, 'proxy.mp4'))).toBe(false);
    expect(await server.get(`/api/projects/${id}`)).toMatchObject({
      status: 404,
      body: { message: '"Parade" is in the bin.' },
    });
    const [there] = await binned();
    expect(there).toMatchObject({ id, name: 'Parade' });
    expect(there!.bytes).toBeGreaterThan(1000);
    const hours = (Date.parse(there!.goesAt) - Date.now()) / 3600_000;
    expect(hours).toBeGreaterThan(23.9);
    expect(hours).toBeLessThanOrEqual(24);

    expect((await server.send('POST', `/api/bin/${id}/restore`)).status).toBe(204);
    expect(parseProject((await server.get(`/api/projects/${id}`)).body.document)).toEqual(document);
    await server.prepared(id, footage);
    expect(existsSync(join(folder, 'proxy.mp4'))).toBe(true);

    await server.send('DELETE', `/api/projects/${id}`);
    expect((await server.send('DELETE', `/api/bin/${id}`)).status).toBe(204);
    expect(await binned()).toEqual([]);
    expect(existsSync(folder)).toBe(false);
    expect(existsSync(join(server.data, 'backups', id))).toBe(false);
    for (const path of [`/api/bin/${id}/restore`, `/api/projects/${id}/duplicate`])
      expect((await server.send('POST', path, { name: 'x' })).status).toBe(404);
  });

  test('a render under way ends, and rests where it was when the project is back', async () => {
    const { id, document } = await withFilm('Long');
    const { version } = (await server.get(`/api/projects/${id}`)).body;
    const items = document.reel.items.map((item) => ({ ...item, map: straightMap(3000, 0, 23) }));
    const long = { ...document, reel: { ...document.reel, items } };
    await server.send('PUT', `/api/projects/${id}/document`, { version, document: long, by: 'test' });
    expect((await server.send('POST', `/api/projects/${id}/renders`, { format: 'h264' })).status).toBe(201);
    await server.send('DELETE', `/api/projects/${id}`);
    await server.send('POST', `/api/bin/${id}/restore`);
    expect((await server.get(`/api/projects/${id}/renders`)).body).toMatchObject([{ status: 'cancelled' }]);
    await server.send('DELETE', `/api/projects/${id}`);
    await server.send('DELETE', `/api/bin/${id}`);
  });

  test('only what is in the bin is deleted or put back', async () => {
    const { id } = await server.newProject('On the list');
    expect((await server.send('DELETE', `/api/bin/${id}`)).status).toBe(404);
    expect((await server.send('POST', `/api/bin/${id}/restore`)).status).toBe(404);
    expect(await names()).toContain('On the list');
  });
});

describe('footage in the bin', () => {
  const unused = async (name: string) => {
    const { id } = await server.newProject(name);
    const { id: footage } = await server.upload(id, film);
    await server.prepared(id, footage);
    return { id, footage, folder: join(server.data, 'media', footage) };
  };

  test('is in its project no more, its proxy freed; it comes back as it was, or is deleted', async () => {
    const { id, footage, folder } = await unused('With one too many');
    expect((await server.send('DELETE', `/api/footage/${footage}`)).status).toBe(200);
    expect(await server.footage(id)).toEqual([]);
    expect(existsSync(join(folder, 'proxy.mp4'))).toBe(false);
    for (const path of [`footage/${footage}/pictures/0`, `footage/${footage}/strip`])
      expect((await server.get(`/api/${path}`)).status).toBe(404);
    expect(await binned()).toMatchObject([
      { id: footage, kind: 'footage', name: 'film.mp4', of: 'With one too many', bytes: expect.any(Number) },
    ]);
    expect((await server.send('DELETE', `/api/footage/${footage}`)).status).toBe(404);

    expect((await server.send('POST', `/api/footage/${footage}/restore`)).status).toBe(204);
    expect(await server.prepared(id, footage)).toMatchObject({ name: 'film.mp4', missing: false });
    expect(existsSync(join(folder, 'proxy.mp4'))).toBe(true);
    expect((await server.send('DELETE', `/api/bin/footage/${footage}`)).status).toBe(404);

    await server.send('DELETE', `/api/footage/${footage}`);
    expect((await server.send('DELETE', `/api/bin/footage/${footage}`)).status).toBe(204);
    expect(await binned()).toEqual([]);
    expect(existsSync(folder)).toBe(false);
    expect((await server.send('POST', `/api/footage/${footage}/restore`)).status).toBe(404);
  });

  test('taken out and put back again and again while its proxy is made, it is made all the same', async () => {
    const { id } = await server.newProject('Undecided');
    const long = await makeNumberedClip({ file: join(folder, 'long.mp4'), frames: 160, rate: '24', options: H264 });
    const { id: footage } = await server.upload(id, long);
    for (let i = 0; i < 6; i++) {
      await new Promise((resolve) => setTimeout(resolve, 150 * i));
      expect((await server.send('DELETE', `/api/footage/${footage}`)).status).toBe(200);
      expect((await server.send('POST', `/api/footage/${footage}/restore`)).status).toBe(204);
    }
    const seen = new Set<string>();
    const look = async () => {
      const [{ status, problem, motion }] = await server.footage(id);
      seen.add(`${status} ${problem}`);
      return { status, motion };
    };
    await server.until(look, ({ status, motion }) => status !== 'preparing' && motion !== 'waiting');
    expect([...seen].sort()).toEqual(['preparing null', 'ready null']);
  });

  test('goes with its project, is in no bundle and no duplicate, and survives a restart', async () => {
    const { id, footage, folder } = await unused('Kept');
    await server.send('DELETE', `/api/footage/${footage}`);
    const { body: copy } = await server.send('POST', `/api/projects/${id}/duplicate`, { name: 'Kept 2' });
    expect(await server.footage(copy.id)).toEqual([]);
    const { data } = server;
    await server.kill('SIGTERM');
    server = await RunningServer.start(data);
    expect(await server.footage(id)).toEqual([]);
    expect((await binned()).map((each) => each.id)).toEqual([footage]);
    await server.send('DELETE', `/api/projects/${id}`);
    // With its project it is one thing in the bin, not two.
    expect((await binned()).map((each) => each.id)).toEqual([id]);
    await server.send('DELETE', `/api/bin/${id}`);
    expect(existsSync(folder)).toBe(false);
    await server.send('DELETE', `/api/projects/${copy.id}`);
    await server.send('DELETE', `/api/bin/${copy.id}`);
  });
});

test('a duplicate has copies of its own: what is done to either leaves the other alone', async () => {
  const { id, footage, document } = await withFilm('First');
  const { status, body } = await server.send('POST', `/api/projects/${id}/duplicate`, { name: 'First 2' });
  expect(status).toBe(201);
  const copy = parseProject(body.document);
  const own = copy.sources[0]!.id;
  expect(own).not.toBe(footage);
  expect(copy.reel.items).toMatchObject([{ id: 'clip', sourceId: own }]);
  expect({ ...copy, sources: [], reel: { ...copy.reel, items: [] } }).toEqual({
    ...document,
    sources: [],
    reel: { ...document.reel, items: [] },
  });
  await server.prepared(body.id, own);
  await server.send('DELETE', `/api/projects/${id}`);
  await server.send('DELETE', `/api/bin/${id}`);
  expect(media()).toContain(own);
  expect((await server.footage(body.id)).map(({ status, missing }: any) => [status, missing])).toEqual([
    ['ready', false],
  ]);
});

test('after a restart the bin is as it was, and a project whose day is over is deleted', async () => {
  const { id } = await server.newProject('Old');
  const { id: newer } = await server.newProject('Newer');
  await server.send('DELETE', `/api/projects/${id}`);
  await server.send('DELETE', `/api/projects/${newer}`);
  const { data } = server;
  await server.kill('SIGTERM');
  const database = new sqlite3.Database(join(data, 'idle-bend.sqlite'));
  await new Promise<void>((resolve, reject) =>
    database.run(
      "UPDATE projects SET binnedAt = '2020-01-01 00:00:00.000 +00:00' WHERE id = ?",
      [id],
      (error: Error | null) => (error ? reject(error) : resolve()),
    ),
  );
  await new Promise((resolve) => database.close(resolve));
  server = await RunningServer.start(data);
  await server.until(binned, (list) => list.length === 1);
  expect((await binned()).map(({ name }) => name)).toEqual(['Newer']);
});

describe('the data folder', () => {
  test('says what it holds, and drops what is made again or over, and nothing else', async () => {
    const { id, footage, document } = await withFilm('Heavy');
    const [{ id: render }] = (await server.send('POST', `/api/projects/${id}/renders`, { format: 'h264' })).body;
    const renders = async () =>
      (await server.get<{ id: string; status: string }[]>(`/api/projects/${id}/renders`)).body;
    await server.until(renders, ([first]) => first?.status === 'done', 120);
    const use = async () => (await server.get<DiskUse>('/api/disk')).body;
    const { bytes, freeBytes } = await use();
    const size = (...path: string[]) => statSync(join(server.data, ...path)).size;
    expect(bytes.originals).toBeGreaterThanOrEqual(statSync(film).size);
    expect(bytes.proxies).toBeGreaterThanOrEqual(
      size('media', footage, 'proxy.mp4') + size('media', footage, 'strip.jpg'),
    );
    expect(bytes.renders).toBeGreaterThan(1000);
    expect(freeBytes).toBeGreaterThan(1e6);
    const sizes = (await server.get<ProjectSizes>('/api/disk/projects')).body;
    const listed = (await server.get<{ id: string }[]>('/api/projects')).body;
    expect(Object.keys(sizes).sort()).toEqual(listed.map((project) => project.id).sort());
    expect(sizes[id]).toBeGreaterThanOrEqual(
      statSync(film).size + size('media', footage, 'proxy.mp4') + size('media', footage, 'strip.jpg'),
    );
    expect((await server.send('DELETE', '/api/disk/originals')).status).toBe(404);

    const after = (await server.send<DiskUse>('DELETE', '/api/disk/renders')).body;
    expect(after.bytes.renders).toBe(0);
    expect(await renders()).toEqual([]);
    expect(existsSync(join(server.data, 'renders', render))).toBe(false);
    const states = async () => (await server.get<unknown[]>(`/api/projects/${id}/backups`)).body;
    await server.send('DELETE', '/api/disk/states');
    expect((await states()).length).toBeLessThanOrEqual(1);
    await server.send('DELETE', '/api/disk/motion');
    expect(await use()).toMatchObject({ bytes: { originals: bytes.originals, proxies: bytes.proxies, motion: 0 } });
    expect(parseProject((await server.get(`/api/projects/${id}`)).body.document)).toEqual(document);
  });

  test('proxies that are dropped are made again when their project is opened, and not before', async () => {
    const { id, footage } = await withFilm('Resting');
    const proxy = join(server.data, 'media', footage, 'proxy.mp4');
    const { bytes } = (await server.send<DiskUse>('DELETE', '/api/disk/proxies')).body;
    expect(existsSync(proxy)).toBe(false);
    const { data } = server;
    await server.kill('SIGTERM');
    server = await RunningServer.start(data);
    const [listed] = (await server.get<{ coverId: string | null }[]>('/api/projects')).body;
    expect(listed!.coverId).toBe(footage);
    // What was waiting when the server ended would be under way by now.
    await new Promise((resolve) => setTimeout(resolve, 1500));
    expect(existsSync(proxy)).toBe(false);
    expect((await server.get<DiskUse>('/api/disk')).body.bytes.proxies).toBe(bytes.proxies);
    expect(await server.prepared(id, footage)).toMatchObject({ status: 'ready' });
    expect(existsSync(proxy)).toBe(true);
  });
});
