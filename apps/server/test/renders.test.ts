import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { putAccents } from '@idle-bend/core/accent';
import { addCue, setFraming } from '@idle-bend/core/edit';
import { LOOKS } from '@idle-bend/core/look';
import type { Project } from '@idle-bend/core/model';
import { parseMotion } from '@idle-bend/core/motion';
import { clipFrameCount, isInSource } from '@idle-bend/core/sampling';
import { HARD, positionAt, reverseMap, straightMap, type TimeMap } from '@idle-bend/core/time-map';
import { numberIn, readNumbers } from '../../../packages/media/test/numbered-clip.js';
import { FRAMES, numberedClip, Rendering } from './rendering.js';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-renders-'));
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
const download: Rendering['download'] = (...asked) => on.download(...asked);

const bent: TimeMap = {
  vertices: [
    { t: 0, s: 4 },
    { t: 20, s: 90 },
    { t: 45, s: 104.5 },
    { t: 57, s: 104.5 },
    { t: 82.6, s: 20 },
  ],
  bends: [
    HARD,
    { widthFrames: 14, ease: 'soft' },
    { widthFrames: 6, ease: [0.3, 0, 0.4, 1] },
    { widthFrames: 8, ease: 'silk' },
    HARD,
  ],
};

const planes = (file: string, filters: string[] = []) =>
  spawnSync('ffmpeg', ['-v', 'error', '-i', file, ...filters, '-f', 'rawvideo', '-pix_fmt', 'yuv420p', 'pipe:1'], {
    maxBuffer: 2 ** 30,
  }).stdout;

describe('frame truth of a render', () => {
  test.each<[string, TimeMap]>([
    ['ramped, frozen, then backward', bent],
    ['reversed', reverseMap(straightMap(48, 0, 240))],
    ['one speed whose tail is trimmed', straightMap(160, 0, 240)],
  ])('%s: every frame of both files', async (_, map) => {
    const { id } = await bending(map);
    for (const container of ['mp4', 'mkv'] as const) {
      const asked = await render(id, container);
      expect(await rendered(id, asked.id)).toMatchObject({
        status: 'done',
        problem: null,
        frames: clipFrameCount(map, FRAMES),
      });
      const shown = readNumbers(await download(asked.id, `truth.${container}`));
      expect(shown).toEqual(
        Array.from({ length: clipFrameCount(map, FRAMES) }, (_, k) => Math.floor(positionAt(map, k) + 1e-6)),
      );
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
      const { stdout } = spawnSync(
        'ffprobe',
        [
          '-v',
          'error',
          '-show_entries',
          'stream=color_range,color_space,color_primaries,color_transfer',
          '-of',
          'csv=p=0',
          await download(asked.id, `tags.${container}`),
        ],
        { encoding: 'utf8' },
      );
      expect(stdout.trim()).toBe('tv,bt709,bt709,bt709');
    }
  });
});

describe('one frame made from the original', () => {
  const address = (footage: string, sample: unknown) =>
    `/api/footage/${footage}/frame?sample=${encodeURIComponent(typeof sample === 'string' ? sample : JSON.stringify(sample))}`;

  test('is the frame a render shows', async () => {
    const { footage } = await bending(bent);
    for (const number of [117, 88]) {
      const response = await fetch(`${server.url}${address(footage, { kind: 'source', frame: number })}`);
      expect(response.headers.get('content-type')).toBe('image/png');
      writeFileSync(at('still.png'), Buffer.from(await response.arrayBuffer()));
      const luma = spawnSync('ffmpeg', [
        '-v',
        'error',
        '-i',
        at('still.png'),
        '-pix_fmt',
        'gray',
        '-f',
        'rawvideo',
        'pipe:1',
      ]).stdout;
      expect(luma.length).toBe(320 * 192);
      expect(numberIn(luma)).toBe(number);
    }
  });

  test('blended, moved, or given way to another, as asked', async () => {
    const { footage } = await bending(bent);
    const still = async (sample: unknown) => {
      const response = await fetch(server.url + address(footage, sample));
      expect(response.headers.get('content-type')).toBe('image/png');
      return Buffer.from(await response.arrayBuffer());
    };
    const mix = { kind: 'mix', a: 40, b: 41, fraction: 0.5 };
    const flow = { kind: 'flow', a: 40, b: 41, fraction: 0.5, before: 39, after: 42 };
    const [mixed, moved, untrusted] = [
      await still(mix),
      await still(flow),
      await still({ ...flow, tuning: { trust: 0, keenness: 0 } }),
    ];
    expect(moved.equals(mixed)).toBe(false);
    expect(untrusted.equals(moved)).toBe(false);
    const fade = (share: number) => still({ kind: 'fade', from: flow, to: mix, share });
    expect((await fade(0)).equals(moved)).toBe(true);
    expect((await fade(1)).equals(mixed)).toBe(true);
    const half = await fade(0.5);
    expect(half.equals(moved) || half.equals(mixed)).toBe(false);
  });

  test.each<[string, unknown, number, RegExp]>([
    ['no sample at all', '', 422, /sample: is not JSON/],
    ['what is not JSON', 'x', 422, /sample: is not JSON/],
    ['black, which no source has', { kind: 'black' }, 422, /black has no frame/],
    ['a fraction of 7', { kind: 'mix', a: 1, b: 2, fraction: 7 }, 422, /fraction: must lie in 0 to 1/],
    ['a frame that is not there', { kind: 'source', frame: 99999 }, 404, /not frame 99999/],
    [
      'a frame around it that is not there',
      { kind: 'flow', a: 40, b: 41, fraction: 0.5, after: 99999 },
      404,
      /not frame 99999/,
    ],
  ])('%s is refused in a sentence', async (_, sample, status, message) => {
    const { footage } = await bending(bent);
    const answer = await server.get(address(footage, sample));
    expect(answer.status).toBe(status);
    expect(answer.body.message).toMatch(message);
  });
});

describe('motion', () => {
  /** Every picture of a finished render: two of the same pictures differ as files, which carry numbers of their own. */
  const pictures = async (id: string, name: string) =>
    spawnSync('ffmpeg', ['-v', 'error', '-i', await download(id, name), '-f', 'rawvideo', 'pipe:1'], {
      maxBuffer: 2 ** 28,
    }).stdout;

  test('of footage is looked at after its proxy, and told', async () => {
    const { id, footage } = await bending(bent);
    const ready = await server.until(
      async () => (await server.footage(id)).find((f) => f.id === footage),
      (f) => f?.motion !== 'waiting',
    );
    expect(ready.motion).toBe('ready');
    const motion = parseMotion((await server.get(`/api/footage/${footage}/motion`)).body);
    expect(motion.pairs).toHaveLength(ready.facts.picture.frames - 1);
    expect((await server.get('/api/footage/nothing/motion')).status).toBe(404);
  });

  test('is found at the level a render asks for, and at no other', async () => {
    const { id } = await bending(straightMap(12, 20, 24), 'flow');
    const make = async (level: string) => {
      const { status, body } = await server.send('POST', `/api/projects/${id}/renders`, { format: 'ffv1', level });
      if (status !== 201) return { status, body };
      await rendered(id, body[0].id);
      return { status, body: body[0], shown: await pictures(body[0].id, `${level}.mkv`) };
    };
    const [quick, best] = [await make('quick'), await make('best')];
    expect([quick.body.settings.level, best.body.settings.level]).toEqual(['quick', 'best']);
    expect(quick.shown!).toHaveLength(best.shown!.length);
    expect(quick.shown!.equals(best.shown!)).toBe(false);
    expect(await make('splendid')).toMatchObject({
      status: 400,
      body: { message: expect.stringMatching(/level must be one of/) },
    });
  });

  test('between frames is kept, so that a second render finds none, and equals the first; dropped, it is found again', async () => {
    const { id } = await bending(straightMap(12, 20, 24), 'flow');
    expect((await server.send('DELETE', '/api/motion-cache')).status).toBe(200);
    const make = async (name: string) => {
      const asked = await render(id, 'mkv');
      await rendered(id, asked.id);
      return pictures(asked.id, name);
    };
    const content = async () => (await server.get('/api/motion-cache')).body;
    expect(await content()).toMatchObject({ pairs: 0, bytes: 0 });
    const first = await make('first.mkv');
    const { pairs, bytes, maxBytes } = await content();
    // Between five frames, and from the one before them and to the one after.
    expect(pairs).toBe(6);
    expect(bytes).toBeGreaterThan(6 * 320 * 192 * 2);
    expect(maxBytes).toBe(4096 * 2 ** 20);
    expect((await make('second.mkv')).equals(first)).toBe(true);
    expect((await content()).pairs).toBe(6);
    await server.send('DELETE', '/api/motion-cache');
    expect((await make('third.mkv')).equals(first)).toBe(true);
  });
});

/** A lossless render of 9000 frames takes long enough to be caught in the middle. */

describe('a frame of the reel from the originals', () => {
  const rgb = (file: string, filters: string[] = []) =>
    spawnSync('ffmpeg', ['-v', 'error', '-i', file, ...filters, '-f', 'rawvideo', '-pix_fmt', 'rgb24', 'pipe:1'], {
      maxBuffer: 2 ** 28,
    }).stdout;
  const frameOf = (id: string, frame: number, more = '') =>
    fetch(`${server.url}/api/projects/${id}/frame?frame=${frame}${more}`);

  test('is what a render has there: the curve, the framing and the flash on it', async () => {
    const { id, footage } = await bending(bent);
    await server.prepared(id, footage);
    const { version, document } = (await server.get(`/api/projects/${id}`)).body as {
      version: number;
      document: Project;
    };
    const framed = setFraming(document, 'c', { fit: 'fill', scale: 1.5, x: 0.1, y: 0 });
    const lit = putAccents(addCue(framed, { id: 'q', frame: 30, name: '' }), {
      ...{ id: 'f', name: 'flash', look: LOOKS.flash.initial, strength: 0.5, on: { kind: 'cues', cueIds: ['q'] } },
    });
    expect((await server.send('PUT', `/api/projects/${id}/document`, { version, document: lit, by: 'a' })).status).toBe(
      200,
    );
    const asked = await render(id, 'mkv');
    expect(await rendered(id, asked.id)).toMatchObject({ status: 'done' });
    const file = await download(asked.id, 'composed.mkv');
    const shown: Buffer[] = [];
    for (const k of [10, 30, 31, 60]) {
      const answer = await frameOf(id, k);
      expect([answer.status, answer.headers.get('content-type')]).toEqual([200, 'image/png']);
      writeFileSync(at('one.png'), Buffer.from(await answer.arrayBuffer()));
      const [one, same] = [rgb(at('one.png')), rgb(file, ['-vf', `select=eq(n\\,${k})`, '-frames:v', '1'])];
      expect(one.length).toBe(320 * 192 * 3);
      // Through another conversion of colour: half a code on the average.
      expect(one.reduce((sum, code, i) => sum + Math.abs(code - same[i]!), 0) / one.length).toBeLessThan(1);
      shown.push(one);
    }
    // The flash lights the frame of its cue.
    const mean = (codes: Buffer) => codes.reduce((sum, code) => sum + code, 0) / codes.length;
    expect(mean(shown[1]!)).toBeGreaterThan(mean(shown[0]!) + 20);
  });

  test('that is not there is said', async () => {
    const { id } = await bending(straightMap(20, 0, 100));
    for (const [frame, more, status, message] of [
      [20, '', 404, /frames 0 to 19/],
      [0, '&within=nothing', 404, /no such group/],
      [-1, '', 400, /frame must not be less than 0/],
    ] as const) {
      const answer = await frameOf(id, frame, more);
      expect(answer.status).toBe(status);
      expect(((await answer.json()) as { message: string }).message).toMatch(message);
    }
  });
});
