import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { H264, makeNumberedClip } from '../../../packages/media/test/numbered-clip.js';
import { bringBundle } from './bring-bundle.js';
import { filledProject, marbleBell } from './filled-project.js';
import { RunningServer } from './running-server.js';

/** What is brought to the server: bundles, uploads and chunks that are not what they should be, or never end. */
const folder = mkdtempSync(join(tmpdir(), 'idle-bend-brought-'));
const at = (name: string) => join(folder, name);

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

describe('a bundle that is brought', () => {
  test('twice at once is two whole projects, and the second is said to be there again', async () => {
    const { id } = await filledProject(server, clip);
    const content = Buffer.from(await (await fetch(`${server.url}/api/projects/${id}/bundle?media=yes`)).arrayBuffer());
    const there = await RunningServer.start();
    const both = await Promise.all([
      bringBundle(there, content),
      bringBundle(there, content),
      bringBundle(there, content),
    ]);
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
    const { id } = await filledProject(server, clip);
    const content = Buffer.from(await (await fetch(`${server.url}/api/projects/${id}/bundle?media=yes`)).arrayBuffer());
    const there = await RunningServer.start();
    const media = content.indexOf(readFileSync(clip).subarray(2000, 2200));
    expect(media).toBeGreaterThan(0);
    content[media + 100]! ^= 1;
    expect(await bringBundle(there, content)).toMatchObject({
      status: 422,
      text: expect.stringMatching(/damaged in this bundle/),
    });
    expect((await there.get('/api/projects')).body).toEqual([]);
    expect(readdirSync(join(there.data, 'media'))).toEqual([]);
    await there.discard();
  });
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

describe('chunks that are brought', () => {
  /** A render that waits: nobody makes its chunks. */
  async function waiting() {
    const data = mkdtempSync(join(tmpdir(), 'idle-bend-brought-'));
    const own = await RunningServer.start(data, [], { IDLE_BEND_REDIS: 'redis://127.0.0.1:1' });
    const { id } = await filledProject(own, clip);
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
    expect(await own.get('/api/state').then(({ status }) => status)).toBe(200);
    await own.discard();
  });
});
