import { execFileSync } from 'node:child_process';
import {
  appendFileSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Footage, MediaRoot } from '@idle-bend/core/api';
import { addSource, appendClip } from '@idle-bend/core/edit';
import { rate } from '@idle-bend/core/time';
import { fingerprintOf } from '@idle-bend/media';
import {
  H264,
  makeNumberedClip,
  numberIn,
  readNumbers,
  WIDTH,
  HEIGHT,
} from '../../../packages/media/test/numbered-clip.js';
import { FRAMES, makeMediaCard, onlyRoot, refer, type MediaCard } from './media-card.js';
import { RunningServer } from './running-server.js';

let folder: string;
let card: string;
let film: MediaCard['film'];
let server: RunningServer;
let root: string;

beforeAll(async () => {
  ({ folder, card, film } = await makeMediaCard());
  server = await RunningServer.start(undefined, ['--media', card]);
  root = (await onlyRoot(server)).id;
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

const referHere = (id: string, ...paths: string[]) => refer(server, id, root, ...paths);
const onlyFootage = async (id: string): Promise<Footage> => (await server.footage(id))[0];
const bytesIn = (place: string): number =>
  readdirSync(place, { recursive: true, withFileTypes: true }).reduce(
    (sum, entry) => sum + (entry.isFile() ? statSync(join(entry.parentPath, entry.name)).size : 0),
    0,
  );

describe('footage where it lies', () => {
  test('is taken by the folder without being copied, has exact frames at once, and a proxy later', async () => {
    const { id } = await server.newProject('Card');
    const before = bytesIn(server.data);
    const { body } = await referHere(id, '');
    expect(body.problems).toEqual([]);
    expect(body.taken.map(({ name, facts }) => [name, facts.picture?.frames])).toEqual([
      ['bell.mp4', 48],
      ['run.mp4', FRAMES],
    ]);
    const run = body.taken[1]!;
    expect(run).toMatchObject({ lies: { root: 'card', path: 'run.mp4' }, missing: false, changed: false });
    // Database, notes and the like: of the files themselves nothing is here.
    expect(bytesIn(server.data) - before).toBeLessThan(1e6);
    for (const n of [0, 71, 13, 12, 47]) {
      const answer = await fetch(`${server.url}/api/footage/${run.id}/pictures/${n}`);
      expect(JSON.parse(answer.headers.get('x-frame-format')!)).toMatchObject({ width: WIDTH, height: HEIGHT });
      expect(numberIn(new Uint8Array(await answer.arrayBuffer()).subarray(0, WIDTH * HEIGHT))).toBe(n);
    }
    expect((await server.get(`/api/footage/${run.id}/pictures/72`)).status).toBe(404);
    await server.prepared(id, run.id);
    const proxy = join(folder, 'proxy.mp4');
    writeFileSync(proxy, Buffer.from(await (await fetch(`${server.url}/api/footage/${run.id}/proxy`)).arrayBuffer()));
    expect(readNumbers(proxy)).toEqual(Array.from({ length: FRAMES }, (_, n) => n));
    expect(readdirSync(card).sort()).toEqual([
      '.dot.mp4',
      '.hidden',
      'bell.mp4',
      'day two',
      'link.mp4',
      'notes.txt',
      'run.mp4',
      'up',
    ]);
  });

  test('many at once are looked into together: each is as if taken alone, what is no footage is told, what was missing is given back', async () => {
    const many = join(card, 'many');
    mkdirSync(many);
    for (const n of [1, 2, 3, 4]) copyFileSync(join(card, 'bell.mp4'), join(many, `bell ${n}.mp4`));
    await film('many/own.mp4', 31);
    writeFileSync(join(many, 'letter.mp4'), 'Dear editor, this is no film.');
    execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'sine=d=1', join(many, 'tone.wav')]);
    const { id } = await server.newProject();
    const take = async (paths: string[]) =>
      (await server.send(`POST`, `/api/projects/${id}/references`, { root, paths })).body as {
        taken: Footage[];
        problems: string[];
      };
    const [alone] = (await take(['many/own.mp4'])).taken;
    renameSync(join(many, 'own.mp4'), join(many, 'renamed.mp4'));
    const { taken, problems } = await take(['many']);
    expect(problems).toEqual([expect.stringContaining('letter.mp4 is not a video')]);
    expect(taken.map(({ name }) => name).sort()).toEqual([
      ...['bell 1.mp4', 'bell 2.mp4', 'bell 3.mp4', 'bell 4.mp4', 'own.mp4', 'tone.wav'],
    ]);
    const back = taken.find(({ name }) => name === 'own.mp4')!;
    expect(back).toMatchObject({ id: alone!.id, missing: false, facts: { picture: { frames: 31 } } });
    expect(back.lies?.path).toBe('many/renamed.mp4');
    const { facts, fingerprint } = (await take(['bell.mp4'])).taken[0]!;
    for (const bell of taken.filter(({ name }) => name.startsWith('bell')))
      expect(bell).toMatchObject({ facts, fingerprint });
    for (const { id: one } of taken) await server.prepared(id, one);
    rmSync(many, { recursive: true });
  });

  test('many at once are there in their order before their content is known; that is found out afterwards, after a kill too', async () => {
    const [many, count] = [join(card, 'roll'), 30];
    mkdirSync(many);
    for (let n = 1; n <= count; n++)
      copyFileSync(join(card, n % 2 ? 'bell.mp4' : 'run.mp4'), join(many, `take ${n}.mp4`));
    const own = await RunningServer.start(undefined, ['--media', card]);
    const { id } = await own.newProject('Roll');
    const { taken } = (await own.send('POST', `/api/projects/${id}/references`, { root, paths: ['roll'] })).body;
    const names = Array.from({ length: count }, (_, i) => `take ${i + 1}.mp4`);
    expect(taken.map(({ name }: Footage) => name)).toEqual(names);
    await own.kill();
    const again = await RunningServer.start(own.data, ['--media', card]);
    const known = await again.until(
      () => again.footage(id),
      (all) => all.every(({ fingerprint, status }) => fingerprint !== null && status === 'ready'),
      240,
    );
    expect(known.map(({ name }) => name)).toEqual(names);
    for (const { name, fingerprint, facts } of known) {
      expect(fingerprint).toBe(await fingerprintOf(join(many, name)));
      expect(facts.picture.frames).toBe(Number(name.match(/\d+/)[0]) % 2 ? 48 : FRAMES);
    }
    await again.discard();
    rmSync(many, { recursive: true });
  });

  test('is told to be missing, changed or back; a render of it says so, and goes on when it is back', async () => {
    const { id, version, document } = await server.newProject('Away');
    const [run] = (await referHere(id, 'run.mp4')).body.taken;
    await server.prepared(id, run!.id);
    const nativeRate = rate(60);
    const source = {
      id: run!.id,
      name: 'run',
      frames: FRAMES,
      moments: [],
      droppedRepeats: null,
      nativeRate,
      readAs: nativeRate,
    };
    const changed = appendClip(addSource(document, source), 'clip', run!.id);
    await server.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'test' });
    renameSync(card, `${card} away`);
    await server.until(
      () => onlyFootage(id),
      ({ missing }) => missing,
      120,
    );
    expect((await server.get<MediaRoot[]>('/api/media')).body[0]).toMatchObject({ isHere: false });
    const asked = await server.send('POST', `/api/projects/${id}/renders`, { format: 'ffv1' });
    expect(asked.status).toBeLessThan(300);
    const rendered = async () =>
      (await server.get<{ status: string; problem: string; id: string }[]>(`/api/projects/${id}/renders`)).body[0]!;
    const paused = await server.until(rendered, ({ status, problem }) => status === 'paused' && problem !== null, 60);
    expect(paused.problem).toBe('run.mp4: there is no such file where it was.');
    renameSync(`${card} away`, card);
    await server.until(
      () => onlyFootage(id),
      ({ missing }) => !missing,
      120,
    );
    await server.send('POST', `/api/renders/${paused.id}/resume`);
    const done = await server.until(rendered, ({ status }) => status === 'done' || status === 'failed', 120);
    expect(done).toMatchObject({ status: 'done', problem: null });
  });

  test('rewritten while it renders, the render is paused and says why; what it was again, it goes on, and no frame of the other is in it', async () => {
    const frames = 2400;
    const file = await film('long.mp4', frames);
    const other = await makeNumberedClip({
      ...{ file: join(folder, 'other.mp4'), frames, rate: '60', options: [...H264, '-g', '24', '-bf', '2'] },
      numberOf: (n) => n + 5000,
    });
    const own = join(folder, 'own.mp4');
    copyFileSync(file, own);
    const { id, version, document } = await server.newProject('Rewritten', '60');
    const [taken] = (await referHere(id, 'long.mp4')).body.taken;
    const nativeRate = rate(60);
    const source = {
      ...{ id: taken!.id, name: 'long', frames, moments: [], droppedRepeats: null, nativeRate, readAs: nativeRate },
    };
    const long = appendClip(addSource(document, source), 'clip', taken!.id);
    const project = { ...long, reel: { ...long.reel, width: WIDTH, height: HEIGHT } };
    await server.send('PUT', `/api/projects/${id}/document`, { version, document: project, by: 'test' });
    await server.send('POST', `/api/projects/${id}/renders`, { format: 'ffv1' });
    const rendered = async () =>
      (await server.get<{ status: string; problem: string; id: string; done: number }[]>(`/api/projects/${id}/renders`))
        .body[0]!;
    const under = await server.until(rendered, ({ status, done }) => done > 0 || status === 'done', 120);
    expect(under.status).toBe('running');
    // In its place, so that who has it open reads the other from here on.
    copyFileSync(other, file);
    const isAtRest = ({ status }: { status: string }) => ['paused', 'failed', 'done'].includes(status);
    const paused = await server.until(rendered, isAtRest, 120);
    expect(paused).toMatchObject({
      status: 'paused',
      problem: expect.stringMatching(/^long\.mp4 was changed on the disk/),
    });
    const say = () => server.send('POST', `/api/footage/${taken!.id}/reference`, { same: true });
    expect((await say()).status).toBe(409);
    copyFileSync(own, file);
    expect((await say()).body).toMatchObject({ changed: false });
    await server.send('POST', `/api/renders/${paused.id}/resume`);
    const done = await server.until(rendered, ({ status }) => status === 'done' || status === 'failed', 240);
    expect(done).toMatchObject({ status: 'done', problem: null });
    const out = join(folder, 'rewritten.mkv');
    writeFileSync(out, Buffer.from(await (await fetch(`${server.url}/api/renders/${done.id}/file`)).arrayBuffer()));
    expect(readNumbers(out)).toEqual(Array.from({ length: frames }, (_, n) => n));
    rmSync(file);
  });

  test('changed on the disk it is not used until somebody says what it is', async () => {
    const { id } = await server.newProject('Changed');
    copyFileSync(join(card, 'run.mp4'), join(card, 'edited.mp4'));
    const [taken] = (await referHere(id, 'edited.mp4')).body.taken;
    await server.prepared(id, taken!.id);
    const now = new Date(Date.now() + 60_000);
    utimesSync(join(card, 'edited.mp4'), now, now);
    await server.until(
      () => onlyFootage(id),
      ({ changed }) => changed,
      120,
    );
    expect((await server.get(`/api/footage/${taken!.id}/pictures/3`)).body.message).toMatch(/was changed on the disk/);
    expect((await server.send('POST', `/api/footage/${taken!.id}/reference`, { same: true })).body).toMatchObject({
      changed: false,
      status: 'ready',
    });
    copyFileSync(join(card, 'bell.mp4'), join(card, 'edited.mp4'));
    await server.until(
      () => onlyFootage(id),
      ({ changed }) => changed,
      120,
    );
    expect((await server.send('POST', `/api/footage/${taken!.id}/reference`, { same: true })).status).toBe(409);
    const { body } = await server.send('POST', `/api/footage/${taken!.id}/reference`, { same: false });
    expect(body).toMatchObject({
      id: taken!.id,
      name: 'edited.mp4',
      changed: false,
      facts: { picture: { frames: 48 } },
    });
    await server.prepared(id, taken!.id);
    rmSync(join(card, 'edited.mp4'));
  });

  test('moved elsewhere in a root it is found by its content; deleting the project leaves it', async () => {
    const { id } = await server.newProject('Moved');
    copyFileSync(join(card, 'run.mp4'), join(card, 'take.mp4'));
    // Of the same length as another, and not the same.
    appendFileSync(join(card, 'take.mp4'), Buffer.from([0, 0, 0, 9, ...Buffer.from('free'), 7]));
    const [taken] = (await referHere(id, 'take.mp4')).body.taken;
    await server.prepared(id, taken!.id);
    renameSync(join(card, 'take.mp4'), join(card, 'day two', 'better name.mp4'));
    await server.until(
      () => onlyFootage(id),
      ({ missing }) => missing,
      120,
    );
    const { body } = await server.send<Footage[]>('POST', `/api/projects/${id}/references/search`);
    expect(body).toMatchObject([
      { id: taken!.id, name: 'take.mp4', missing: false, lies: { path: 'day two/better name.mp4' } },
    ]);
    const copy = (await server.send('POST', `/api/projects/${id}/duplicate`, { name: 'Moved, copy' })).body.id;
    expect(await onlyFootage(copy)).toMatchObject({ lies: { path: 'day two/better name.mp4' }, missing: false });
    const content = readFileSync(join(card, 'day two', 'better name.mp4'));
    for (const one of [id, copy]) {
      await server.send('DELETE', `/api/projects/${one}`);
      await server.send('DELETE', `/api/bin/${one}`);
    }
    expect(readFileSync(join(card, 'day two', 'better name.mp4')).equals(content)).toBe(true);
    expect(existsSync(join(server.data, 'media', taken!.id))).toBe(false);
  });

  test('chosen in a browser it is used where it lies, if it is the very file', async () => {
    const { id } = await server.newProject('Chosen');
    const file = join(card, 'day two', 'run 2.mkv');
    const { size, mtimeMs } = statSync(file);
    const chosen = {
      ...{ name: 'run 2.mkv', bytes: size, modifiedMs: Math.floor(mtimeMs) },
      fingerprint: await fingerprintOf(file),
    };
    const same = async (change: object) =>
      (await server.send('POST', `/api/projects/${id}/references/same`, { ...chosen, ...change })).body.footage;
    for (const other of [
      { name: 'run 3.mkv' },
      { bytes: size + 1 },
      { modifiedMs: mtimeMs - 2000 },
      { fingerprint: '0'.repeat(64) },
    ])
      expect(await same(other)).toBeNull();
    expect(await same({})).toMatchObject({ name: 'run 2.mkv', lies: { root: 'card', path: 'day two/run 2.mkv' } });
  });

  test('a bundle carries it, and commands beside the server read it', async () => {
    const { id } = await server.newProject('Carried');
    const [run] = (await referHere(id, 'run.mp4')).body.taken;
    await server.prepared(id, run!.id);
    const answer = await fetch(`${server.url}/api/projects/${id}/bundle?media=yes`);
    const bundle = Buffer.from(await answer.arrayBuffer());
    expect(bundle.includes(readFileSync(join(card, 'run.mp4')).subarray(4000, 6000))).toBe(true);
    expect(bundle.includes(Buffer.from(card))).toBe(false);
    const file = join(
      server.data,
      'media',
      run!.id,
      readdirSync(join(server.data, 'media', run!.id)).find(
        (name) => name.startsWith('original') && name.endsWith('.mp4'),
      )!,
    );
    expect(readNumbers(file)).toHaveLength(FRAMES);
  });

  test('pieces of its proxy are there as they are made, first where somebody looks; after a kill none is made twice', async () => {
    const frames = 1200;
    await film('long.mp4', frames);
    const own = await RunningServer.start(undefined, ['--media', card]);
    const { id } = await own.newProject('Pieces');
    const paths = ['long.mp4'];
    const [taken] = (await own.send('POST', `/api/projects/${id}/references`, { root, paths })).body.taken;
    const pieces = async (server: RunningServer): Promise<number[] | undefined> =>
      (await server.get(`/api/footage/${taken.id}/pieces`)).body.made;
    // Ten pieces; the last is looked at.
    await own.get(`/api/footage/${taken.id}/pictures/${frames - 5}`);
    const early = await own.until(
      () => pieces(own),
      (made) => made === undefined || made.includes(9),
      120,
    );
    expect(early === undefined || early.length < 9).toBe(true);
    const some =
      (await own.until(
        () => pieces(own),
        (made) => made === undefined || made.length > 2,
        120,
      )) ?? [];
    await own.kill();
    const folder = join(own.data, 'media', taken.id, 'pieces');
    const times = () =>
      Object.fromEntries(
        readdirSync(folder)
          .filter((name) => /^\d+\.mp4$/.test(name))
          .map((name) => [name, statSync(join(folder, name)).mtimeMs]),
      );
    const before = some.length > 0 ? times() : {};
    const again = await RunningServer.start(own.data, ['--media', card]);
    const now = await again.until(
      () => pieces(again),
      (made) => made === undefined || made.length > some.length + 1,
      120,
    );
    if (now !== undefined) expect(times()).toMatchObject(before);
    const { status } = await again.prepared(id, taken.id);
    expect(status).toBe('ready');
    const proxy = join(own.data, 'proxy.mp4');
    writeFileSync(proxy, Buffer.from(await (await fetch(`${again.url}/api/footage/${taken.id}/proxy`)).arrayBuffer()));
    expect(readNumbers(proxy)).toEqual(Array.from({ length: frames }, (_, n) => n));
    expect(existsSync(folder)).toBe(false);
    await again.discard();
    rmSync(join(card, 'long.mp4'));
  });
});
