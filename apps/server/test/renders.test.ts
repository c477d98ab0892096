import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { clipFrameCount, HARD, isInSource, positionAt, reverseMap, straightMap, type Method, type Project, type TimeMap } from '@idle-bend/core';
import { H264, makeNumberedClip, numberIn, readNumbers } from '../../../packages/media/test/numbered-clip.js';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-renders-'));
const at = (name: string) => join(folder, name);
const FRAMES = 240;

let server: RunningServer;
let clip: string;
beforeAll(async () => {
  server = await RunningServer.start();
  clip = await makeNumberedClip({
    file: at('clip.mp4'),
    frames: FRAMES,
    rate: '120',
    options: [
      ...H264,
      '-x264-params',
      'open-gop=1:keyint=40:bframes=3',
      '-colorspace',
      'bt709',
      '-color_primaries',
      'bt709',
      '-color_trc',
      'bt709',
      '-color_range',
      'tv',
    ],
  });
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

const bent: TimeMap = {
  vertices: [{ t: 0, s: 4 }, { t: 20, s: 90 }, { t: 45, s: 104.5 }, { t: 57, s: 104.5 }, { t: 82.6, s: 20 }], // prettier-ignore
  bends: [HARD, { widthFrames: 14, ease: 'soft' }, { widthFrames: 6, ease: [0.3, 0, 0.4, 1] }, { widthFrames: 8, ease: 'silk' }, HARD],
};

/** A project whose reel is one clip of the numbered footage. */
async function bending(map: TimeMap, method: Method = 'step', end: 'hold' | 'black' = 'hold', on = server) {
  const { id, version, document } = await on.newProject();
  const { id: footage } = await on.upload(id, clip);
  const rate = { num: 120, den: 1 };
  const changed: Project = {
    ...document,
    sources: [{ id: footage, name: 'clip', frames: FRAMES, nativeRate: rate, readAs: rate, moments: [], skips: null }],
    reel: {
      ...document.reel,
      width: 320,
      height: 192,
      items: [{ kind: 'clip', id: 'c', name: 'c', sourceId: footage, map, method, end, ties: [], locks: [], limits: null, versions: [] }],
    },
  };
  await on.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'a' });
  return { id, footage };
}

const render = async (id: string, container: 'mp4' | 'mkv', on = server) => (await on.send('POST', `/api/projects/${id}/renders`, { container })).body;
const rendered = (project: string, id: string, on = server) =>
  on.until(
    async () => (await on.get<any[]>(`/api/projects/${project}/renders`)).body.find((r) => r.id === id),
    (r) => !['queued', 'running'].includes(r.status),
  );

async function download(id: string, name: string, on = server): Promise<string> {
  const response = await fetch(`${on.url}/api/renders/${id}/file`);
  expect(response.headers.get('content-disposition')).toMatch(/attachment; filename="Marble Parade\.(mp4|mkv)"/);
  writeFileSync(at(name), Buffer.from(await response.arrayBuffer()));
  return at(name);
}
const planes = (file: string, filters: string[] = []) =>
  spawnSync('ffmpeg', ['-v', 'error', '-i', file, ...filters, '-f', 'rawvideo', '-pix_fmt', 'yuv420p', 'pipe:1'], { maxBuffer: 2 ** 30 }).stdout;

describe('frame truth of a render', () => {
  test.each<[string, TimeMap]>([
    ['ramped, frozen, then backward', bent],
    ['reversed', reverseMap(straightMap(48, 0, 240))],
    ['one speed whose tail is trimmed', straightMap(160, 0, 240)],
  ])('%s: every frame of both files', async (_, map) => {
    const { id } = await bending(map);
    for (const container of ['mp4', 'mkv'] as const) {
      const asked = await render(id, container);
      expect(await rendered(id, asked.id)).toMatchObject({ status: 'done', problem: null, frames: clipFrameCount(map, FRAMES) });
      const shown = readNumbers(await download(asked.id, `truth.${container}`));
      expect(shown).toEqual(Array.from({ length: clipFrameCount(map, FRAMES) }, (_, k) => Math.floor(positionAt(map, k) + 1e-6)));
    }
  });

  test('where source is missing the clip is black, as chosen', async () => {
    const map = straightMap(20, 200, 260);
    const { id } = await bending(map, 'step', 'black');
    const asked = await render(id, 'mkv');
    await rendered(id, asked.id);
    const shown = readNumbers(await download(asked.id, 'black.mkv'));
    expect(shown).toEqual(Array.from({ length: 20 }, (_, k) => (isInSource(200 + 3 * k, FRAMES) ? 200 + 3 * k : 0)));
  });

  test('Mix in a lossless render is the blend of the two decoded frames, bit for bit', async () => {
    const map = straightMap(40, 10, 26);
    const { id } = await bending(map, 'mix');
    const asked = await render(id, 'mkv');
    await rendered(id, asked.id);
    const [before, after] = [planes(clip), planes(await download(asked.id, 'mix.mkv'))];
    const size = 320 * 192 * 1.5;
    expect(after.length).toBe(40 * size);
    let wrong = 0;
    for (let k = 0; k < 40; k++) {
      const s = positionAt(map, k);
      const a = Math.floor(s + 1e-6);
      const weight = Math.round(Math.max(0, s - a) * 32768);
      for (let i = 0; i < size; i += 7) {
        const [x, y] = [before[a * size + i]!, before[(a + 1) * size + i]!];
        if (after[k * size + i] !== (x * (32768 - weight) + y * weight + 16384) >> 15) wrong++;
      }
    }
    expect(wrong).toBe(0);
  });

  test('colour tags are carried', async () => {
    const { id } = await bending(straightMap(4, 0, 20));
    for (const container of ['mp4', 'mkv'] as const) {
      const asked = await render(id, container);
      await rendered(id, asked.id);
      const { stdout } = spawnSync('ffprobe', ['-v', 'error', '-show_entries', 'stream=color_range,color_space,color_primaries,color_transfer', '-of', 'csv=p=0', await download(asked.id, `tags.${container}`)], { encoding: 'utf8' }); // prettier-ignore
      expect(stdout.trim()).toBe('tv,bt709,bt709,bt709');
    }
  });
});

describe('one frame made from the original', () => {
  test('is the frame a render shows', async () => {
    const { footage } = await bending(bent);
    for (const number of [117, 88]) {
      const response = await fetch(`${server.url}/api/footage/${footage}/frame?frame=${number}`);
      expect(response.headers.get('content-type')).toBe('image/png');
      writeFileSync(at('still.png'), Buffer.from(await response.arrayBuffer()));
      const luma = spawnSync('ffmpeg', ['-v', 'error', '-i', at('still.png'), '-pix_fmt', 'gray', '-f', 'rawvideo', 'pipe:1']).stdout;
      expect(luma.length).toBe(320 * 192);
      expect(numberIn(luma)).toBe(number);
    }
    expect((await server.get(`/api/footage/${footage}/frame?frame=x`)).status).toBe(400);
    expect((await server.get(`/api/footage/${footage}/frame?frame=1&next=2&fraction=7`)).body.message).toMatch(/fraction must not be greater than 1/);
    expect((await server.get(`/api/footage/${footage}/frame?frame=99999`)).body.message).toMatch(/not frame 99999/);
  });

  test('blended or moved, as asked; at neither end of the way is it the other', async () => {
    const { footage } = await bending(bent);
    const still = async (query: string) => {
      const response = await fetch(`${server.url}/api/footage/${footage}/frame?frame=40&next=41&fraction=0.5${query}`);
      expect(response.headers.get('content-type')).toBe('image/png');
      return Buffer.from(await response.arrayBuffer());
    };
    const [mixed, plain, moved] = [await still(''), await still('&method=mix'), await still('&method=flow&before=39&after=42')];
    expect(plain.equals(mixed)).toBe(true);
    expect(moved.equals(mixed)).toBe(false);
    expect((await server.get(`/api/footage/${footage}/frame?frame=40&next=41&method=melt`)).body.message).toMatch(/method must be one of/);
    expect((await server.get(`/api/footage/${footage}/frame?frame=40&next=41&method=flow&after=99999`)).body.message).toMatch(/not frame 99999/);
  });
});

describe('the queue', () => {
  test('a cancelled render leaves nothing, and the next one runs', async () => {
    const { id } = await bending(straightMap(9000, 0, 240));
    const long = await render(id, 'mkv');
    await server.until(
      async () => (await server.get<any[]>(`/api/projects/${id}/renders`)).body.find((r) => r.id === long.id),
      (r) => r.done > 20 && r.secondsLeft > 0,
    );
    await server.send('POST', `/api/renders/${long.id}/cancel`);
    const short = await bending(straightMap(4, 0, 20));
    const next = await render(short.id, 'mp4');
    expect(await rendered(short.id, next.id)).toMatchObject({ status: 'done' });
    expect(await rendered(id, long.id)).toMatchObject({ status: 'cancelled' });
    expect(readdirSync(join(server.data, 'renders'))).not.toContain(long.id);
    expect((await server.get(`/api/renders/${long.id}/file`)).body.message).toBe('This render is not finished.');
    expect((await server.send('DELETE', `/api/renders/${next.id}`)).status).toBe(200);
    expect(readdirSync(join(server.data, 'renders'))).not.toContain(next.id);
  });

  test('an empty reel has nothing to render', async () => {
    const { id } = await server.newProject();
    expect(await server.send('POST', `/api/projects/${id}/renders`, { container: 'mp4' })).toMatchObject({
      status: 422,
      body: { message: 'There is nothing on the reel to render.' },
    });
  });

  test('killed in the middle of a proxy and a render, it takes both up again', async () => {
    let running = await RunningServer.start();
    const map = straightMap(700, 0, 240);
    const { id, footage } = await bending(map, 'step', 'hold', running);
    const asked = await render(id, 'mkv', running);
    await running.until(
      async () => (await running.get<any[]>(`/api/projects/${id}/renders`)).body[0],
      (r) => r.done > 5 || r.status === 'done',
    );
    await running.kill();
    running = await RunningServer.start(running.data);
    expect(await running.prepared(id, footage)).toMatchObject({ status: 'ready' });
    expect(await rendered(id, asked.id, running)).toMatchObject({ status: 'done' });
    const shown = readNumbers(await download(asked.id, 'after.mkv', running));
    expect(shown).toEqual(Array.from({ length: clipFrameCount(map, FRAMES) }, (_, k) => Math.floor(positionAt(map, k) + 1e-6)));
    expect(readdirSync(join(running.data, 'renders', asked.id))).toEqual(['reel.mkv']);
    await running.discard();
  });
});
