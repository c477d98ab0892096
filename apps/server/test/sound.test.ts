import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { OWN_SOUND, type ClipSound, type Project, type Sound } from '@idle-bend/core/model';
import { plainClip } from '@idle-bend/core/reel';
import { PEAKS_PER_SECOND } from '@idle-bend/core/sound';
import { straightMap, HARD } from '@idle-bend/core/time-map';
import { beatsAt, rockOn } from '../../../packages/core/src/beats/test-drums.js';
import { firstLoud, leftChannel, makeDrumFile } from '../../../packages/media/test/drum-file.js';
import { H264, makeNumberedClip, readNumbers } from '../../../packages/media/test/numbered-clip.js';
import { RunningServer } from './running-server.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-sound-'));
const at = (name: string) => join(folder, name);
const BEATS = beatsAt(112, 0.4, 10);

let server: RunningServer;
beforeAll(async () => {
  server = await RunningServer.start();
});
afterAll(async () => {
  await server.discard();
  rmSync(folder, { recursive: true, force: true });
});

async function withSound(file: string) {
  const { id, version, document } = await server.newProject();
  const { id: footage, text } = await server.upload(id, file);
  expect(text).toBe('');
  return { id, version, document, footage };
}
const find = async (id: string, footage: string) => (await server.footage(id)).find((f) => f.id === footage);
const listened = (id: string, footage: string) =>
  server.until(
    () => find(id, footage),
    (f) => f?.sound === 'ready' || f?.sound === 'failed',
  );

describe('a sound that comes in', () => {
  test('is listened to: beats, waveform, and a sound that browsers play', async () => {
    const { id, footage } = await withSound(makeDrumFile(at('tune.mp3'), rockOn(BEATS), 10, ['-b:a', '192k']));
    expect(await find(id, footage)).toMatchObject({ status: 'ready', facts: { picture: null } });
    expect(await listened(id, footage)).toMatchObject({ sound: 'ready' });
    const { body } = await server.get(`/api/footage/${footage}/heard`);
    expect(body.seconds).toBeCloseTo(10, 1);
    expect(Math.abs(body.tempo / 112 - 1)).toBeLessThan(0.01);
    for (const beat of BEATS)
      expect(Math.min(...body.beats.map((b: number) => Math.abs(b - beat)))).toBeLessThan(0.012);
    const peaks = new Int8Array(await (await fetch(`${server.url}/api/footage/${footage}/peaks`)).arrayBuffer());
    expect(Math.abs(peaks.length / 2 - 10 * PEAKS_PER_SECOND)).toBeLessThan(10);
    const loudest = (from: number, to: number) =>
      Math.max(...peaks.subarray(2 * Math.round(from * PEAKS_PER_SECOND), 2 * Math.round(to * PEAKS_PER_SECOND)));
    expect(loudest(BEATS[4]!, BEATS[4]! + 0.05)).toBeGreaterThan(30);
    expect(loudest(0.05, BEATS[0]! - 0.05)).toBeLessThan(5);
    writeFileSync(
      at('played.flac'),
      Buffer.from(await (await fetch(`${server.url}/api/footage/${footage}/sound`)).arrayBuffer()),
    );
    expect(firstLoud(leftChannel(at('played.flac')), 0.05)).toBeCloseTo(BEATS[0]!, 2);
  });

  test('the sound of a picture is listened to as well; a silent one has none', async () => {
    const silent = await makeNumberedClip({ file: at('silent.mp4'), frames: 24, rate: '24', options: H264 });
    const { id, footage } = await withSound(silent);
    expect(await find(id, footage)).toMatchObject({ sound: 'none' });
    expect(await server.get(`/api/footage/${footage}/heard`)).toMatchObject({
      status: 404,
      body: { message: '"silent.mp4" has no sound.' },
    });
    expect(await server.send('POST', `/api/footage/${footage}/listening`)).toMatchObject({ status: 409 });
  });

  test('listening is stopped and begun again, and survives a crash', async () => {
    const { id, footage } = await withSound(makeDrumFile(at('long.wav'), [], 400));
    await server.send('DELETE', `/api/footage/${footage}/listening`);
    const after = await listened(id, footage);
    // It may have been done before it was told to stop.
    if (after.sound === 'failed') {
      expect((await server.send('POST', `/api/footage/${footage}/listening`)).status).toBe(202);
      expect(await find(id, footage)).toMatchObject({ sound: 'waiting' });
    }
    await server.kill();
    server = await RunningServer.start(server.data);
    expect(await listened(id, footage)).toMatchObject({ sound: 'ready' });
  });
});

describe('sounds on a reel', () => {
  const laid = async (change: Partial<Sound>, container: 'mp4' | 'mkv', range: Project['reel']['range'] = null) => {
    const { id, version, document, footage } = await withSound(
      makeDrumFile(
        at('one.wav'),
        [
          { time: 0.5, drum: 'snare' },
          { time: 2, drum: 'snare' },
        ],
        3,
      ),
    );
    const clip = await makeNumberedClip({ file: at('clip.mp4'), frames: 72, rate: '24', options: H264 });
    const { id: picture } = await server.upload(id, clip);
    const rate = { num: 24, den: 1 };
    const sound: Sound = {
      id: 's',
      footageId: footage,
      name: 'one',
      startSeconds: 0,
      fromSeconds: 0,
      toSeconds: 3,
      gainDb: 0,
      fadeInSeconds: 0,
      fadeOutSeconds: 0,
      beats: null,
      ...change,
    };
    const changed: Project = {
      ...document,
      sources: [
        { id: picture, name: 'clip', frames: 72, nativeRate: rate, readAs: rate, moments: [], droppedRepeats: null },
      ],
      reel: {
        ...document.reel,
        width: 320,
        height: 192,
        sounds: [sound],
        range,
        cues: [{ id: 'pinned', frame: 30, name: '', beat: null }],
        items: [
          {
            kind: 'clip',
            id: 'a',
            name: 'a',
            sourceId: picture,
            map: { ...straightMap(40, 0, 40), bends: [HARD, HARD] },
            method: 'step',
            end: 'hold',
            tuning: null,
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
          {
            kind: 'clip',
            id: 'b',
            name: 'b',
            sourceId: picture,
            map: { ...straightMap(30, 0, 30), bends: [HARD, HARD] },
            method: 'step',
            end: 'hold',
            tuning: null,
            reachMethods: [],
            mends: [],
            ties: [],
            locks: [],
            limits: null,
            versions: [],
            pin: 'pinned',
            fills: false,
            framing: null,
            blur: null,
            steady: null,
            sound: OWN_SOUND,
          },
        ],
      },
    };
    const kept = await server.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'a' });
    expect(kept).toMatchObject({ status: 200 });
    await server.prepared(id, picture);
    const asked = (
      await server.send('POST', `/api/projects/${id}/renders`, {
        format: container === 'mp4' ? 'h264' : 'ffv1',
        part: range ? 'range' : 'reel',
      })
    ).body[0];
    const done = await server.until(
      async () => (await server.get<any[]>(`/api/projects/${id}/renders`)).body.find((r) => r.id === asked.id),
      (r) => !['queued', 'running', 'joining'].includes(r.status),
    );
    expect(done).toMatchObject({ status: 'done', problem: null, frames: range ? range.to - range.from : 60 });
    const file = at(`reel.${container}`);
    writeFileSync(file, Buffer.from(await (await fetch(`${server.url}/api/renders/${asked.id}/file`)).arrayBuffer()));
    return { file, samples: leftChannel(file), id, footage };
  };

  test('are in the render, to a fraction of a frame, under a picture cut where it is pinned', async () => {
    for (const container of ['mkv', 'mp4'] as const) {
      const { file, samples } = await laid({ startSeconds: 0.25, fromSeconds: 0.3, toSeconds: 2.9 }, container);
      expect(firstLoud(samples, 0.05)).toBeCloseTo(0.45, 2);
      expect(firstLoud(samples, 0.05, 1.2)).toBeCloseTo(1.95, 2);
      expect(samples.length / 48000).toBeCloseTo(60 / 24, 1);
      const upTo = (n: number) => Array.from({ length: n }, (_, k) => k);
      expect(readNumbers(file)).toEqual([...upTo(30), ...upTo(30)]);
    }
  });

  test('begin before the reel does, are as loud as asked, and fade', async () => {
    const plain = (await laid({}, 'mkv')).samples;
    const changed = (await laid({ startSeconds: -0.1, gainDb: -12, fadeOutSeconds: 2, toSeconds: 2.6 }, 'mkv')).samples;
    expect(firstLoud(changed, 0.01)).toBeCloseTo(0.4, 2);
    const most = (samples: Float32Array, from: number) =>
      samples.subarray(from * 48000, (from + 0.05) * 48000).reduce((a, b) => Math.max(a, Math.abs(b)), 0);
    expect(most(changed, 0.4) / most(plain, 0.5)).toBeCloseTo(10 ** (-12 / 20), 1);
    // The second snare comes 0.6 s before the end of a fade of 2 s.
    expect(most(changed, 1.9) / most(plain, 2)).toBeCloseTo(10 ** (-12 / 20) * 0.3, 1);
  });

  test('of a range of the reel are heard where they are in it', async () => {
    const { file, samples } = await laid({}, 'mkv', { from: 6, to: 54 });
    expect(firstLoud(samples, 0.05)).toBeCloseTo(0.5 - 6 / 24, 2);
    expect(samples.length).toBe(2 * 48000);
    expect(readNumbers(file).slice(0, 3)).toEqual([6, 7, 8]);
  });

  test('keep their footage from being removed', async () => {
    const { footage } = await laid({}, 'mkv');
    expect(await server.send('DELETE', `/api/footage/${footage}`)).toMatchObject({
      status: 409,
      body: { message: expect.stringMatching(/heard on the reel as "one"/) },
    });
  });
});

describe('the sound of the clips', () => {
  /** A second of it: 1000 Hz at half scale, under numbered pictures. */
  const filmed = async () => {
    const silent = await makeNumberedClip({ file: at('unheard.mp4'), frames: 96, rate: '24', options: H264 });
    const file = at('heard.mp4');
    const { status } = spawnSync('ffmpeg', [
      '-v',
      'error',
      '-y',
      '-i',
      silent,
      '-f',
      'lavfi',
      '-i',
      'aevalsrc=0.5*sin(2*PI*1000*t):s=48000:d=4',
      '-map',
      '0:v',
      '-map',
      '1:a',
      '-c:v',
      'copy',
      '-c:a',
      'aac',
      '-b:a',
      '192k',
      file,
    ]);
    expect(status).toBe(0);
    return file;
  };
  const rate = { num: 24, den: 1 };
  const pitch = (samples: Float32Array) =>
    (samples.reduce((n, v, i) => n + (i > 0 && samples[i - 1]! < 0 && v >= 0 ? 1 : 0), 0) / samples.length) * 48000;
  const most = (samples: Float32Array) => samples.reduce((a, b) => Math.max(a, Math.abs(b)), 0);

  const rendered = async (sound: Partial<ClipSound>, change: Partial<Project['reel']> = {}) => {
    const { id, version, document, footage } = await withSound(await filmed());
    const source = {
      id: footage,
      name: 'heard',
      frames: 96,
      nativeRate: rate,
      readAs: rate,
      moments: [],
      droppedRepeats: null,
    };
    // Half as fast for two seconds, then twice as fast.
    const map = {
      vertices: [
        { t: 0, s: 0 },
        { t: 48, s: 24 },
        { t: 72, s: 72 },
      ],
      bends: [HARD, HARD, HARD],
    };
    const clip = { ...plainClip('c', source, rate), map, sound: { ...OWN_SOUND, ...sound } };
    const changed: Project = {
      ...document,
      sources: [source],
      reel: { ...document.reel, rate, width: 320, height: 192, items: [clip], ...change },
    };
    expect(
      await server.send('PUT', `/api/projects/${id}/document`, { version, document: changed, by: 'a' }),
    ).toMatchObject({ status: 200 });
    await server.prepared(id, footage);
    const asked = (await server.send('POST', `/api/projects/${id}/renders`, { format: 'ffv1' })).body[0];
    const done = await server.until(
      async () => (await server.get<any[]>(`/api/projects/${id}/renders`)).body.find((r) => r.id === asked.id),
      (r) => !['queued', 'running', 'joining'].includes(r.status),
    );
    expect(done).toMatchObject({ status: 'done', problem: null });
    const file = at('clips.mkv');
    writeFileSync(file, Buffer.from(await (await fetch(`${server.url}/api/renders/${asked.id}/file`)).arrayBuffer()));
    return { render: done, file };
  };

  test('falls and rises with the speed, exactly as long as the picture; its loudness is told', async () => {
    const { render, file } = await rendered({});
    const samples = leftChannel(file);
    expect(samples.length).toBe(3 * 48000);
    expect(pitch(samples.subarray(9600, 86_400))).toBeCloseTo(500, -1);
    expect(pitch(samples.subarray(105_600, 134_400))).toBeCloseTo(2000, -1);
    // One channel at −6 dBFS is −9 on each of two; a sine there on both is near −9 LUFS (K weighting lifts it above 1 kHz).
    expect(render.loudness.integrated).toBeGreaterThan(-11);
    expect(render.loudness.integrated).toBeLessThan(-6);
    expect(render.loudness.peak).toBeGreaterThan(-9.1);
    expect(render.loudness.peak).toBeLessThan(-7.5);
  });

  test('or keeps its pitch, or is not heard', async () => {
    const samples = leftChannel((await rendered({ mode: 'keep' })).file);
    expect(pitch(samples.subarray(9600, 86_400))).toBeCloseTo(1000, -2);
    expect(pitch(samples.subarray(105_600, 134_400))).toBeCloseTo(1000, -2);
    const { render } = await rendered({ mode: 'mute' });
    expect(render.loudness).toBeNull();
  });

  test('is held under a true peak only when asked', async () => {
    expect(most(leftChannel((await rendered({ gainDb: 8 })).file))).toBeGreaterThan(0.85);
    const { render, file } = await rendered({ gainDb: 8 }, { ceiling: -6 });
    expect(render.loudness.peak).toBeLessThanOrEqual(-5.7);
    expect(most(leftChannel(file))).toBeGreaterThan(0.45);
  });
});
