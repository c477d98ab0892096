import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { createWriteStream, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { addCue, addMoment, addSource, appendClip } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { openBundle, writeBundle } from '@idle-bend/media';
import { ZipFile } from 'yazl';
import { H264, makeNumberedClip, readNumbers } from '../../../packages/media/test/numbered-clip.js';
import { bringBundle } from './bring-bundle.js';
import { marbleBell, marbleSource } from './filled-project.js';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-bundles-'));
const at = (name: string) => join(folder, name);
const hash = (file: string) => createHash('sha256').update(readFileSync(file)).digest('hex');

let server: RunningServer;
let clip: string;
let other: string;
let source: { id: string; footage: string; document: Project };
const shape = { id: 'swing', name: 'bell swing', note: 'for hits', kind: 'bend', ease: [0.1, 0.8, 0.2, 1] };
beforeAll(async () => {
  clip = await marbleBell(at('marble-bell.mp4'));
  other = await makeNumberedClip({
    file: at('paper-boat.mp4'),
    frames: 60,
    rate: '30',
    options: H264,
    numberOf: (n) => n + 500,
  });
  server = await RunningServer.start();
  source = await filled();
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

/** A project with a clip, a moment, a cue, and one's own shape. */
async function filled() {
  const { id, document: empty } = await server.newProject();
  const { id: footage } = await server.upload(id, clip);
  await server.until(
    () => server.footage(id),
    ([f]) => f.status === 'ready' && f.motion === 'ready',
  );
  const document = addCue(
    addMoment(appendClip(addSource(empty, marbleSource(footage)), 'c', footage, 5, 50), footage, {
      id: 'm',
      frame: 20,
      name: 'bell',
    }),
    { id: 'q', frame: 8, name: 'beat', beat: null },
  );
  await server.send('PUT', `/api/projects/${id}/document`, { version: 1, document, by: 'a' });
  await server.send('PUT', '/api/shapes/swing', shape);
  return { id, footage, document };
}

async function bundleOf(project: string, media: 'yes' | 'proxies' | 'no', name: string, on = server): Promise<string> {
  const response = await fetch(`${on.url}/api/projects/${project}/bundle?media=${media}`);
  expect([response.status, response.headers.get('content-disposition')]).toEqual([
    200,
    "attachment; filename*=UTF-8''Marble%20Parade.zip",
  ]);
  writeFileSync(at(name), Buffer.from(await response.arrayBuffer()));
  return at(name);
}

const bring = (on: RunningServer, file: string) => bringBundle(on, readFileSync(file));

describe('a bundle', () => {
  test('with its media is the very project on another server: document, media, shapes, analysis; bundled there again it is the same file', async () => {
    const file = await bundleOf(source.id, 'yes', 'whole.zip');
    const there = await RunningServer.start();
    const { id, status } = await bring(there, file);
    expect(status).toBe(200);
    expect((await there.get(`/api/projects/${id}`)).body).toMatchObject({
      name: 'Marble Parade',
      document: source.document,
    });
    expect((await there.get('/api/shapes')).body).toEqual([shape]);
    const [footage] = await there.footage(id);
    // What was known of its motion came along.
    expect(footage).toMatchObject({ id: source.footage, name: 'marble-bell.mp4', motion: 'ready', missing: false });
    expect(hash(join(there.data, 'media', source.footage, 'original.mp4'))).toBe(hash(clip));
    await there.prepared(id, source.footage);
    expect(hash(await bundleOf(id, 'yes', 'again.zip', there))).toBe(hash(file));
    await there.discard();
  });

  test('taken in beside the project it was made of, its footage has ids of its own', async () => {
    const { id } = await bring(server, await bundleOf(source.id, 'yes', 'beside.zip'));
    const { document } = (await server.get<{ document: Project }>(`/api/projects/${id}`)).body;
    const [footage] = await server.footage(id);
    expect(footage.id).not.toBe(source.footage);
    expect(document.sources[0]!.id).toBe(footage.id);
    expect(JSON.parse(JSON.stringify(document).replaceAll(footage.id, source.footage))).toEqual(source.document);
  });

  test('without its media the footage waits for its file: known by its content, whatever it is called now; another does not do', async () => {
    const file = await bundleOf(source.id, 'no', 'light.zip');
    expect(readFileSync(file).length).toBeLessThan(readFileSync(clip).length);
    const there = await RunningServer.start();
    const { id } = await bring(there, file);
    const [waiting] = await there.footage(id);
    expect(waiting).toMatchObject({
      status: 'failed',
      missing: true,
      problem: expect.stringMatching(/file is missing/),
      facts: { picture: { frames: 60 } },
    });
    await there.upload(id, other, 'paper-boat.mp4');
    expect((await there.footage(id))[0]).toMatchObject({ missing: true });
    await there.upload(id, clip, 'renamed by the camera.mp4');
    expect(await there.footage(id)).toHaveLength(2);
    const found = await there.prepared(id, source.footage);
    expect(found).toMatchObject({ status: 'ready', missing: false });
    expect((await there.get(`/api/projects/${id}`)).body.document).toEqual(source.document);
    await there.discard();
  });

  test('with proxies it is shown and its motion known before its file comes; frames at full size wait for it; a proxy that is another is not believed', async () => {
    const file = await bundleOf(source.id, 'proxies', 'shown.zip');
    const there = await RunningServer.start();
    const { id } = await bring(there, file);
    const [shown] = await there.footage(id);
    expect(shown).toMatchObject({ status: 'ready', missing: true, motion: 'ready', problem: null });
    expect(shown.health).not.toBeNull();
    const proxy = at('brought.mp4');
    writeFileSync(
      proxy,
      Buffer.from(await (await fetch(`${there.url}/api/footage/${source.footage}/proxy`)).arrayBuffer()),
    );
    expect(readNumbers(proxy)).toEqual(Array.from({ length: 60 }, (_, n) => n));
    expect((await fetch(`${there.url}/api/footage/${source.footage}/strip`)).status).toBe(200);
    // What renders are made from is not there.
    const sample = encodeURIComponent('{"kind":"source","frame":3}');
    const full = await there.get(`/api/footage/${source.footage}/frame?sample=${sample}`);
    expect([full.status, full.body.message]).toEqual([422, 'marble-bell.mp4: there is no such file.']);
    // It is all there is to see of it: it is not dropped with those that can be made again.
    expect((await there.send('DELETE', '/api/disk/proxies')).status).toBe(200);
    expect((await there.footage(id))[0]).toMatchObject({ status: 'ready', missing: true });
    await there.upload(id, clip, 'found.mp4');
    expect(await there.prepared(id, source.footage)).toMatchObject({ status: 'ready', missing: false });
    expect((await fetch(`${there.url}/api/footage/${source.footage}/frame?sample=${sample}`)).status).toBe(200);
    expect((await there.get(`/api/projects/${id}`)).body.document).toEqual(source.document);

    // One that somebody put there in its place.
    const short = await makeNumberedClip({ file: at('short.mp4'), frames: 40, rate: '30', options: H264 });
    const bundle = await openBundle(file, folder);
    for (const name of bundle.files[0]!) await bundle.extract(0, name, at(`brought/${name}`));
    const files = [...bundle.files[0]!].map((name) => ({
      name,
      path: name === 'proxy.mp4' ? short : at(`brought/${name}`),
    }));
    const { manifest, document, shapes } = bundle;
    await pipeline(
      await writeBundle({ manifest, document, shapes, files: [files] }),
      createWriteStream(at('swapped.zip')),
    );
    bundle.close();
    const swapped = await bring(there, at('swapped.zip'));
    expect(swapped.status).toBe(200);
    expect((await there.footage(swapped.id))[0]).toMatchObject({ status: 'failed', missing: true });
    await there.discard();
  });

  test('with proxies its sounds come along too', async () => {
    const { id } = await server.newProject();
    const bell = at('bell.wav');
    spawnSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'sine=frequency=880:duration=2', bell]);
    const { id: footage } = await server.upload(id, bell);
    await server.until(
      () => server.footage(id),
      ([f]) => f.sound === 'ready',
    );
    const there = await RunningServer.start();
    const brought = await bring(there, await bundleOf(id, 'proxies', 'heard.zip'));
    expect((await there.footage(brought.id))[0]).toMatchObject({ status: 'ready', sound: 'ready', missing: true });
    const heard = async (on: RunningServer) =>
      Buffer.from(await (await fetch(`${on.url}/api/footage/${footage}/sound`)).arrayBuffer());
    const sound = await heard(there);
    expect(sound.subarray(0, 4).toString()).toBe('fLaC');
    expect(sound.equals(await heard(server))).toBe(true);
    await there.discard();
  });

  test('footage whose file went away says so, and takes it back when it comes again', async () => {
    const { id } = await server.newProject();
    const { id: footage } = await server.upload(id, other, 'paper-boat.mp4');
    await server.prepared(id, footage);
    rmSync(join(server.data, 'media', footage, 'original.mp4'));
    expect((await server.footage(id))[0]).toMatchObject({ missing: true, status: 'ready' });
    expect((await server.upload(id, other, 'boat (1).mp4')).id).toBe(footage);
    expect(await server.footage(id)).toHaveLength(1);
    expect((await server.footage(id))[0].missing).toBe(false);
  });
});

describe('hostile bundles are refused in a sentence, and nothing is left behind', () => {
  const manifest = { format: 'idle-bend-bundle', version: 1, name: 'x', footage: [] };
  const whole = () => ({
    'bundle.json': JSON.stringify(manifest),
    'document.json': JSON.stringify(source.document),
    'shapes.json': '{"format":"idle-bend-shapes","version":1,"shapes":[]}',
  });
  async function zipped(entries: Record<string, string | Buffer>, mode = 0o100644): Promise<Buffer> {
    const zip = new ZipFile();
    for (const [name, content] of Object.entries(entries))
      zip.addBuffer(Buffer.from(content as string), name, { mode });
    zip.end();
    await pipeline(zip.outputStream, createWriteStream(at('hostile')));
    return readFileSync(at('hostile'));
  }
  /** Names a well-behaved writer would not write, put in afterwards: as long as the ones they replace. */
  const renamed = (zip: Buffer, from: string, to: string) =>
    Buffer.from(zip.toString('latin1').replaceAll(from, to), 'latin1');
  const footage = (more: object) =>
    JSON.stringify({
      ...manifest,
      footage: [
        {
          id: 'f',
          name: 'f',
          fileName: 'original.mp4',
          bytes: 1,
          fingerprint: null,
          facts: {
            container: 'mp4',
            bytes: 1,
            durationSeconds: 1,
            startTimecode: null,
            captureRate: null,
            picture: null,
            sound: null,
          },
          health: null,
          ...more,
        },
      ],
    });

  test.each<[string, () => Promise<Buffer>, RegExp]>([
    ['no ZIP at all', () => Promise.resolve(Buffer.from('Dear editor')), /^bundle: cannot be read/],
    ['one that is cut short', async () => (await zipped(whole())).subarray(0, 300), /^bundle: cannot be read/],
    ['one without a document', () => zipped({ 'bundle.json': '{}' }), /bundle\.format: is not that of a bundle/],
    [
      'a way out of the folder',
      async () =>
        renamed(await zipped({ ...whole(), 'footage/0/aaaaaaa': 'x' }), 'footage/0/aaaaaaa', '../../../aaaaaaaa'),
      /^bundle: cannot be read: .*(relative path|invalid)/,
    ],
    [
      'a page',
      () => zipped({ ...whole(), 'footage/0/page.html': '<script>' }),
      /page\.html: does not belong in a bundle/,
    ],
    [
      'a link',
      () => zipped({ ...whole(), 'footage/0/original.mp4': '/etc/passwd' }, 0o120777),
      /does not belong in a bundle/,
    ],
    [
      'a file that is there twice',
      async () =>
        renamed(
          await zipped({ ...whole(), 'footage/0/original.mp4': 'x', 'footage/1/original.mp4': 'y' }),
          'footage/1/',
          'footage/0/',
        ),
      /is there twice/,
    ],
    ['a bomb', () => zipped({ ...whole(), 'footage/0/peaks.bin': Buffer.alloc(40e6) }), /compressed beyond belief/],
    ['a document that is none', () => zipped({ ...whole(), 'document.json': '{"format":"x"}' }), /^project|format/],
    [
      'an id that is a way out',
      () => zipped({ ...whole(), 'bundle.json': footage({ id: '../../x' }) }),
      /footage\[0\]\.id: must be made of letters/,
    ],
    [
      'a name that is a way out',
      () => zipped({ ...whole(), 'bundle.json': footage({ fileName: '../original.mp4' }) }),
      /fileName: is not the name of an original/,
    ],
    [
      'media that are none',
      () =>
        zipped({
          ...whole(),
          'bundle.json': footage({}),
          'footage/0/original.mp4': '<svg xmlns="http://www.w3.org/2000/svg"/>',
        }),
      /^f is cut short/,
    ],
    [
      'a newer one',
      () => zipped({ ...whole(), 'bundle.json': JSON.stringify({ ...manifest, version: 2 }) }),
      /newer than this program reads/,
    ],
  ])('%s', async (_, make, message) => {
    writeFileSync(at('wrong.zip'), await make());
    const before = [
      readdirSync(join(server.data, 'media')).length,
      (await server.get<any[]>('/api/projects')).body.length,
      readdirSync(join(server.data, 'backups')).length,
    ];
    const answer = await bring(server, at('wrong.zip'));
    expect(answer.text).toMatch(message);
    expect(answer.text).not.toMatch(/idle-bend-bundles-|\/tmp/);
    expect(answer.status).toBe(422);
    const after = [
      readdirSync(join(server.data, 'media')).length,
      (await server.get<any[]>('/api/projects')).body.length,
      readdirSync(join(server.data, 'backups')).length,
    ];
    expect(after).toEqual(before);
    expect(readdirSync(join(server.data, 'uploads'))).toEqual([]);
  });
});
