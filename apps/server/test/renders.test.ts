import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { OWN_SOUND, type Method, type Project } from '@idle-bend/core/model';
import { parseMotion } from '@idle-bend/core/motion';
import { clipFrameCount, isInSource } from '@idle-bend/core/sampling';
import { HARD, positionAt, reverseMap, straightMap, type TimeMap } from '@idle-bend/core/time-map';
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

/** One project for each server: its footage is looked at once. */
const projects = new Map<RunningServer, Promise<{ id: string; footage: string }>>();
async function projectOn(on: RunningServer) {
  const { id } = await on.newProject();
  return { id, footage: (await on.upload(id, clip)).id };
}

/** The project, with a reel of one clip of the numbered footage. */
async function bending(map: TimeMap, method: Method = 'step', end: 'hold' | 'black' = 'hold', on = server) {
  if (!projects.has(on)) projects.set(on, projectOn(on));
  const { id, footage } = await projects.get(on)!;
  const { version, document } = (await on.get<{ version: number; document: Project }>(`/api/projects/${id}`)).body;
  const rate = { num: 120, den: 1 };
  const changed: Project = {
    ...document,
    sources: [{ id: footage, name: 'clip', frames: FRAMES, nativeRate: rate, readAs: rate, moments: [], skips: null }],
    reel: {
      ...document.reel,
      width: 320,
      height: 192,
      items: [
        {
          kind: 'clip',
          id: 'c',
          name: 'c',
          sourceId: footage,
          map,
          method,
          end,
          temper: null,
          reachMethods: [],
          mends: [],
          ties: [],
          locks: [],
          limits: null,
          versions: [],
          pin: null,
          fills: false,
          framing: null,
          blur: null,
          steady: null,
          sound: OWN_SOUND,
        },
      ],
    },
  };
  await on.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'a' });
  return { id, footage };
}

const FORMAT = { mp4: 'h264', mkv: 'ffv1' } as const;
const render = async (id: string, container: 'mp4' | 'mkv', on = server) =>
  (await on.send('POST', `/api/projects/${id}/renders`, { format: FORMAT[container] })).body[0];
const rendered = (project: string, id: string, on = server) =>
  on.until(
    async () => (await on.get<any[]>(`/api/projects/${project}/renders`)).body.find((r) => r.id === id),
    (r) => !['queued', 'running', 'joining'].includes(r.status),
  );

async function download(id: string, name: string, on = server): Promise<string> {
  const response = await fetch(`${on.url}/api/renders/${id}/file`);
  expect(response.headers.get('content-disposition')).toMatch(/attachment; filename="Marble Parade\.(mp4|mkv)"/);
  writeFileSync(at(name), Buffer.from(await response.arrayBuffer()));
  return at(name);
}
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
      await still({ ...flow, temper: { trust: 0, keenness: 0 } }),
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
const LONG = straightMap(9000, 0, 240);
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
    ['a format that is none', { format: 'flipbook' }, 400, /format must be one of/],
    ['a clip that is none', { format: 'h264', part: 'clip', clipId: 'nobody' }, 422, /nothing of that clip/],
    [
      'no room on disk',
      { format: 'png' },
      507,
      /may take up to [\d.]+ GB of disk while it is made, and [\d.]+ [MG]B is free/,
    ],
    ['a field that is not known', { format: 'h264', speed: 3 }, 400, /speed should not exist/],
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
    await server.send('POST', `/api/renders/${long.id}/cancel`);
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
    const { id, footage } = await bending(map, 'step', 'hold', running);
    const asked = await render(id, 'mkv', running);
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
    expect(await rendered(id, asked.id, running)).toMatchObject({ status: 'done' });
    const shown = readNumbers(await download(asked.id, 'after.mkv', running));
    expect(shown).toEqual(
      Array.from({ length: clipFrameCount(map, FRAMES) }, (_, k) => Math.floor(positionAt(map, k) + 1e-6)),
    );
    expect(readdirSync(join(running.data, 'renders', asked.id))).toEqual(['reel.mkv']);
    await running.discard();
  });
});
