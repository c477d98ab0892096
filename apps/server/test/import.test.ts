import { spawnSync } from 'node:child_process';
import {
  appendFileSync,
  copyFileSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { H264, makeNumberedClip, readNumbers } from '../../../packages/media/test/numbered-clip.js';
import { OWN_SOUND } from '@idle-bend/core/model';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-import-'));
const at = (name: string) => join(folder, name);
const ffmpeg = (...args: string[]) => {
  const { status, stderr } = spawnSync('ffmpeg', ['-v', 'error', '-y', ...args], { encoding: 'utf8' });
  if (status !== 0) throw new Error(stderr);
};
const SINE = ['-f', 'lavfi', '-i', 'sine=frequency=330:duration=1.5'];

let server: RunningServer;
let project: string;
beforeAll(async () => {
  server = await RunningServer.start();
  project = (await server.newProject()).id;
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

/** Imports a file and gives its facts and the numbers in its proxy's frames. */
async function taken(file: string): Promise<{ facts: any; numbers: number[]; footage: any }> {
  const sent = await server.upload(project, file);
  expect(sent.text).toBe('');
  const footage = await server.prepared(project, sent.id);
  expect(footage).toMatchObject({ status: 'ready', problem: null });
  const proxy = at(`proxy-${sent.id}.mp4`);
  writeFileSync(proxy, Buffer.from(await (await fetch(`${server.url}/api/footage/${sent.id}/proxy`)).arrayBuffer()));
  return { facts: footage.facts, numbers: readNumbers(proxy), footage };
}
const upTo = (n: number) => Array.from({ length: n }, (_, i) => i);

describe('files of every kind', () => {
  test.each<[string, string, string, readonly string[]]>([
    ['23.976, reordered frames', '24000/1001', 'film.mp4', [...H264, '-bf', '3', '-g', '48']],
    ['240 fps', '240', 'fast.mp4', [...H264, '-g', '60']],
    ['1 fps', '1', 'slow.mkv', H264],
    ['1000 fps', '1000', 'thousand.mp4', H264],
    [
      'HEVC',
      '50',
      'hevc.mov',
      [
        '-c:v',
        'libx265',
        '-preset',
        'ultrafast',
        '-pix_fmt',
        'yuv420p',
        '-tag:v',
        'hvc1',
        '-x265-params',
        'log-level=error',
      ],
    ],
    ['VP9', '30000/1001', 'vp9.webm', ['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-cpu-used', '8', '-b:v', '2M']],
    ['AV1', '25', 'av1.mkv', ['-c:v', 'libaom-av1', '-cpu-used', '8', '-usage', 'realtime', '-crf', '30', '-b:v', '0']],
    ['ProRes, ten bits', '24', 'prores.mov', ['-c:v', 'prores_ks', '-pix_fmt', 'yuv422p10le']],
    ['first time not zero', '30', 'late.ts', [...H264, '-bf', '2', '-output_ts_offset', '9.1']],
  ])('%s: exact rate, every frame, a proxy that agrees', async (_, rate, name, options) => {
    const { facts, numbers } = await taken(await makeNumberedClip({ file: at(name), frames: 40, rate, options }));
    const [num, den = '1'] = rate.split('/');
    expect(facts.picture).toMatchObject({ rate: { num: Number(num), den: Number(den) }, frames: 40, variable: null });
    expect(numbers).toEqual(upTo(40));
  });

  test('variable rate is laid on an exact grid, and said', async () => {
    const options = [
      '-vf',
      "select='not(eq(mod(n,5),3))'",
      '-fps_mode',
      'vfr',
      ...H264,
      '-enc_time_base',
      '1/60000',
      '-video_track_timescale',
      '60000',
    ];
    const { facts, numbers } = await taken(
      await makeNumberedClip({ file: at('vfr.mp4'), frames: 42, rate: '60', options }),
    );
    expect(facts.picture).toMatchObject({ rate: { num: 60, den: 1 }, frames: 42, variable: { held: 8, dropped: 0 } });
    expect(numbers).toEqual(upTo(42).map((n) => (n % 5 === 3 ? n - 1 : n)));
  });

  test('a phone held upright is shown upright', async () => {
    await makeNumberedClip({ file: at('flat.mp4'), frames: 10, rate: '30', options: H264 });
    // This tag counts counter-clockwise; the facts count clockwise.
    ffmpeg('-i', at('flat.mp4'), '-c', 'copy', '-metadata:s:v', 'rotate=270', at('phone.mp4'));
    const { facts, footage } = await taken(at('phone.mp4'));
    expect(facts.picture).toMatchObject({ width: 192, height: 320, rotation: 90, proxy: { width: 192, height: 320 } });
    ffmpeg('-i', at(`proxy-${footage.id}.mp4`), '-vf', 'transpose=cclock', '-crf', '10', at('turned-back.mp4'));
    expect(readNumbers(at('turned-back.mp4'))).toEqual(upTo(10));
  });

  test('pixels that are not square are right from import on', async () => {
    const { facts, numbers } = await taken(
      await makeNumberedClip({
        file: at('wide.mp4'),
        frames: 12,
        rate: '25',
        options: [...H264, '-vf', 'setsar=16/11'],
      }),
    );
    expect(facts.picture).toMatchObject({
      width: 320,
      height: 192,
      pixelAspect: { num: 16, den: 11 },
      proxy: { width: 466, height: 192 },
    });
    expect(numbers).toEqual(upTo(12));
  });

  test('odd sizes', async () => {
    const odd = await makeNumberedClip({
      file: at('odd.mkv'),
      frames: 8,
      rate: '25',
      width: 321,
      height: 193,
      options: ['-c:v', 'ffv1'],
    });
    const { facts, numbers } = await taken(odd);
    expect(facts.picture).toMatchObject({ width: 321, height: 193 });
    expect(numbers).toEqual(upTo(8));
  });

  test('start timecode, drop-frame, and the rate a camera says it shot at', async () => {
    const options = [
      ...H264,
      '-timecode',
      '01:00:00;00',
      '-movflags',
      'use_metadata_tags',
      '-metadata',
      'com.android.capture.fps=240',
    ];
    const { facts } = await taken(
      await makeNumberedClip({ file: at('camera.mov'), frames: 12, rate: '30000/1001', options }),
    );
    expect(facts).toMatchObject({
      startTimecode: '01:00:00;00',
      captureRate: { num: 240, den: 1 },
      picture: { dropFrame: true },
    });
  });

  test('sound that starts late, no sound, sound only, a cover picture', async () => {
    const silent = await makeNumberedClip({ file: at('silent.mp4'), frames: 30, rate: '30', options: H264 });
    expect((await taken(silent)).facts.sound).toBeNull();
    ffmpeg('-i', silent, '-itsoffset', '0.4', ...SINE, '-c:v', 'copy', '-c:a', 'aac', at('late-sound.mkv'));
    expect((await taken(at('late-sound.mkv'))).facts.sound.startSeconds).toBeCloseTo(0.4, 1);
    ffmpeg(...SINE, at('sound.wav'));
    const sound = await server.upload(project, at('sound.wav'));
    const only = await server.prepared(project, sound.id);
    expect(only).toMatchObject({
      status: 'ready',
      facts: { picture: null, sound: { codec: 'pcm_s16le', sampleRate: 44100 } },
    });
    expect((await server.get(`/api/footage/${sound.id}/proxy`)).body.message).toMatch(/has no picture/);
    ffmpeg('-i', silent, '-frames:v', '1', at('cover.png'));
    ffmpeg(
      ...SINE,
      '-i',
      at('cover.png'),
      '-map',
      '0',
      '-map',
      '1',
      '-c:v',
      'copy',
      '-disposition:v',
      'attached_pic',
      at('cover.mp3'),
    );
    const cover = await server.upload(project, at('cover.mp3'));
    expect(await server.prepared(project, cover.id)).toMatchObject({ status: 'ready', facts: { picture: null } });
  });
});

describe('ways in', () => {
  test('an upload in pieces goes on where it stopped', async () => {
    const clip = await makeNumberedClip({ file: at('pieces.mp4'), frames: 60, rate: '60', options: H264 });
    const sent = await server.upload(project, clip, 'ramp ünd ☂.mp4', 5);
    expect(await server.prepared(project, sent.id)).toMatchObject({
      name: 'ramp ünd ☂.mp4',
      status: 'ready',
      facts: { bytes: statSync(clip).size },
    });
  });

  test('the watched folder takes a file once it has stopped growing, and leaves it', async () => {
    const watched = join(server.data, 'watched', project);
    const clip = await makeNumberedClip({ file: at('watch.mp4'), frames: 20, rate: '25', options: H264 });
    copyFileSync(clip, join(watched, 'dropped in.mp4'));
    const found = await server.until(
      () => server.footage(project),
      (all) => all.some((f) => f.name === 'dropped in.mp4'),
    );
    expect(await server.prepared(project, found.find((f) => f.name === 'dropped in.mp4').id)).toMatchObject({
      status: 'ready',
    });
    expect(readdirSync(watched)).toEqual(['dropped in.mp4']);
  });

  test('what was made of a film is not made again for another project’s; a byte that differs makes it another film', async () => {
    const film = at('plain.avi');
    const size = 320 * 192 * 1.5;
    ffmpeg('-f', 'lavfi', '-i', 'testsrc2=s=320x192:r=24:d=2', '-c:v', 'rawvideo', '-pix_fmt', 'yuv420p', film);
    const inProject = async (file: string) => {
      const { id } = await server.newProject('Another');
      const sent = await server.upload(id, file, 'plain.avi');
      const find = async () => (await server.footage(id)).find((f) => f.id === sent.id);
      const made = await server.until(find, (f) => f !== undefined && f.motion !== 'waiting');
      expect(made).toMatchObject({ status: 'ready', motion: 'ready' });
      return { fingerprint: made.fingerprint, folder: join(server.data, 'media', sent.id) };
    };
    const first = await inProject(film);
    // Only a copy of the first one's files can have this.
    const mark = '\n\n';
    for (const name of ['motion.json', 'strip.jpg']) appendFileSync(join(first.folder, name), mark);
    const isMarked = ({ folder }: { folder: string }) =>
      ['motion.json', 'strip.jpg'].map((name) => readFileSync(join(folder, name), 'latin1').endsWith(mark));
    expect(isMarked(await inProject(film))).toEqual([true, true]);

    // Between the parts a fingerprint looks at, in the picture itself.
    const bytes = readFileSync(film);
    bytes[Math.round(size * 13.4)]! ^= 0x40;
    const other = at('other.avi');
    writeFileSync(other, bytes);
    const changed = await inProject(other);
    expect(changed.fingerprint).toBe(first.fingerprint);
    expect(isMarked(changed)).toEqual([false, false]);
  });

  test('a name is a name and not a path', async () => {
    const clip = await makeNumberedClip({ file: at('plain.mp4'), frames: 5, rate: '25', options: H264 });
    const sent = await server.upload(project, clip, '../../../../tmp/out\u0000side.mp4');
    expect((await server.prepared(project, sent.id)).name).toBe('outside.mp4');
    const names = readdirSync(join(server.data, 'media', sent.id)).filter((name) => !name.endsWith('.frames.json'));
    expect(names.sort()).toEqual(['about.json', 'original.mp4', 'proxy.mp4', 'strip.jpg']);
  });

  test('progress is told while a proxy is made', async () => {
    const events = new AbortController();
    const response = await fetch(`${server.url}/api/projects/${project}/events`, { signal: events.signal });
    const clip = await makeNumberedClip({ file: at('told.mp4'), frames: 120, rate: '60', options: H264 });
    const { id } = await server.upload(project, clip);
    let told = '';
    const reader = response.body!.getReader();
    while (!told.includes(`"footage-progress","footageId":"${id}","done":120`))
      told += new TextDecoder().decode((await reader.read()).value);
    events.abort();
    expect(told).toContain('{"kind":"footage"}');
  });

  test('footage in use is not removed; other footage goes without a trace', async () => {
    const clip = await makeNumberedClip({ file: at('gone.mp4'), frames: 5, rate: '25', options: H264 });
    const { id } = await server.upload(project, clip);
    await server.prepared(project, id);
    const { version, document } = (await server.get(`/api/projects/${project}`)).body;
    const used = {
      ...document,
      sources: [
        {
          id,
          name: 'gone',
          frames: 5,
          nativeRate: { num: 25, den: 1 },
          readAs: { num: 25, den: 1 },
          moments: [],
          droppedRepeats: null,
        },
      ],
      reel: {
        ...document.reel,
        items: [
          {
            kind: 'clip',
            id: 'c',
            name: 'the clip',
            sourceId: id,
            method: 'step',
            tuning: null,
            reachMethods: [],
            mends: [],
            end: 'hold',
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
            map: {
              vertices: [
                { t: 0, s: 0 },
                { t: 5, s: 5 },
              ],
              bends: [
                { widthFrames: 0, ease: 'soft' },
                { widthFrames: 0, ease: 'soft' },
              ],
            },
          },
        ],
      },
    };
    await server.send('PUT', `/api/projects/${project}/document`, { version, document: used, by: 'a' });
    expect(await server.send('DELETE', `/api/footage/${id}`)).toMatchObject({
      status: 409,
      body: { message: expect.stringMatching(/used by the clip "the clip"/) },
    });
    await server.send('PUT', `/api/projects/${project}/document`, { version: version + 1, document, by: 'a' });
    expect((await server.send('DELETE', `/api/footage/${id}`)).status).toBe(200);
    expect((await server.footage(project)).map((each) => each.id)).not.toContain(id);
    expect((await server.send('DELETE', `/api/bin/footage/${id}`)).status).toBe(204);
    expect(readdirSync(join(server.data, 'media'))).not.toContain(id);
  });
});

describe('what is made of footage', () => {
  const called = (name: string) =>
    server.until(
      async () => (await server.footage(project)).find((f) => f.name === name),
      (f) => f?.status === 'ready',
    );

  test('numbered pictures, sent one by one in any order, are one clip at the reel’s rate', async () => {
    ffmpeg(
      '-i',
      await makeNumberedClip({ file: at('pictures.mkv'), frames: 12, rate: '24', options: ['-c:v', 'ffv1'] }),
      '-start_number',
      '0',
      at('p%02d.png'),
    );
    const name = 'p[0007-0018].png';
    for (const index of [11, 0, ...upTo(12).slice(1, 11)]) {
      const sent = await server.upload(project, at(`p${String(index).padStart(2, '0')}.png`), name, 1, {
        sequence: 'parade',
        index: String(index),
        count: '12',
      });
      expect(sent.status).toBeLessThan(300);
    }
    const clip = await called('p[0007-0018].mkv');
    expect(clip.facts.picture).toMatchObject({ rate: { num: 24, den: 1 }, frames: 12, codec: 'ffv1' });
    writeFileSync(
      at('sequence.mp4'),
      Buffer.from(await (await fetch(`${server.url}/api/footage/${clip.id}/proxy`)).arrayBuffer()),
    );
    expect(readNumbers(at('sequence.mp4'))).toEqual(upTo(12));
    const wrong = await server.upload(project, at('p00.png'), 'p.gif', 1, { sequence: 'x', index: '0', count: '12' });
    expect(wrong).toMatchObject({ status: 422, text: expect.stringMatching(/is not made of png/) });
  });

  test('fields become frames, as footage of their own; what has none is refused', async () => {
    ffmpeg(
      '-f',
      'lavfi',
      '-i',
      'testsrc2=s=320x192:r=50:d=1,format=yuv420p',
      '-vf',
      'tinterlace=interleave_top',
      '-c:v',
      'ffv1',
      '-field_order',
      'tt',
      at('fields.mkv'),
    );
    const { facts, footage } = await taken(at('fields.mkv'));
    expect(facts.picture).toMatchObject({ interlaced: true, rate: { num: 25, den: 1 } });
    expect((await server.send('POST', `/api/footage/${footage.id}/fields`)).status).toBe(202);
    const made = await called('fields 50p.mkv');
    expect(made.facts.picture).toMatchObject({ interlaced: false, rate: { num: 50, den: 1 }, frames: 50 });
    expect((await server.send('POST', `/api/footage/${made.id}/fields`)).status).toBe(409);
  });

  test('another file stands in under the same name for clips; one without what they need is refused and changes nothing', async () => {
    const first = await taken(await makeNumberedClip({ file: at('take1.mp4'), frames: 20, rate: '25', options: H264 }));
    const longer = await makeNumberedClip({ file: at('take2.mp4'), frames: 30, rate: '50', options: H264 });
    const letter = at('letter.txt');
    writeFileSync(letter, 'Dear editor,');
    expect((await server.upload(project, letter, 'letter.mp4', 1, { replaces: first.footage.id })).status).toBe(422);
    expect((await server.prepared(project, first.footage.id)).facts.picture.frames).toBe(20);
    await server.upload(project, longer, 'take2.mp4', 1, { replaces: first.footage.id });
    const replaced = await server.prepared(project, first.footage.id);
    expect(replaced).toMatchObject({
      name: 'take1.mp4',
      facts: { picture: { frames: 30, rate: { num: 50, den: 1 } } },
    });
    expect(replaced.revision).not.toBe(first.footage.revision);
    expect((await server.send('PATCH', `/api/footage/${first.footage.id}`, { name: 'bell, take 2' })).body.name).toBe(
      'bell, take 2',
    );
  });

  test('a patch of the picture is followed both ways; where it is lost, and beyond the footage, is said', async () => {
    const disc = 'if(lt(hypot(X-60-3*N\\,Y-96)\\,22)\\,150+90*sin((X-3*N)/3)*cos(Y/4)\\,90+40*sin(X/7)*cos(Y/9))';
    ffmpeg(
      '-f',
      'lavfi',
      '-i',
      `nullsrc=s=320x192:r=24:d=2,format=gray,geq=lum='${disc}',format=yuv420p`,
      ...H264,
      '-crf',
      '12',
      at('disc.mp4'),
    );
    const { footage } = await taken(at('disc.mp4'));
    const patch = (n: number) => ({ x: (60 + 3 * n) / 320 - 0.5, y: 0, size: 0.12 });
    for (const to of [0, 40]) {
      const { status, body } = await server.send('POST', `/api/footage/${footage.id}/places`, {
        from: 20,
        to,
        ...patch(20),
      });
      expect(status).toBe(200);
      expect(body.places).toHaveLength(21);
      body.places.forEach(([x, y]: [number, number], i: number) => {
        expect(Math.abs(x - patch(20 + (to < 20 ? -i : i)).x) * 320).toBeLessThan(1.5);
        expect(Math.abs(y) * 320).toBeLessThan(1.5);
      });
    }
    expect(
      await server.send('POST', `/api/footage/${footage.id}/places`, { from: 0, to: 99, ...patch(0) }),
    ).toMatchObject({ status: 404, body: { message: expect.stringMatching(/has frames 0 to 47/) } });
    expect(
      (await server.send('POST', `/api/footage/${footage.id}/places`, { from: 0, to: 9, x: 7, y: 0, size: 0.1 }))
        .status,
    ).toBe(400);
  });
});
