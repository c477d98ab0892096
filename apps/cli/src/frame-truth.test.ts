import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { parseMapFile, positionAt } from '@idle-bend/core/time-map';
import { H264, makeNumberedClip, readNumbers } from '../../../packages/media/test/numbered-clip.js';

const folder = mkdtempSync(join(tmpdir(), 'frame-truth-'));
const at = (name: string) => join(folder, name);
const run = (...args: string[]) => {
  const { status, stdout, stderr } = spawnSync(process.execPath, ['bin/idle-bend', ...args], {
    encoding: 'utf8',
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  return { status, stdout, stderr };
};
const mapFile = (name: string, content: object) => {
  writeFileSync(at(name), JSON.stringify({ version: 1, ...content }));
  return at(name);
};

/** Every output frame's number against the map; Step shows floor(s + 1e-6). */
function expectFrames(input: string, options: readonly string[], expected: readonly number[], extension = 'mkv') {
  const out = at(`out.${extension}`);
  const result = run('retime', input, '-o', out, '--sound', 'none', ...options);
  expect(result.stderr.replace(/\d+ of \d+ frames\n/g, '').replace(/.*variable rate.*\n/, '')).toBe('');
  expect(result.status).toBe(0);
  expect(readNumbers(out)).toEqual(expected);
}
const range = (count: number, f: (k: number) => number) =>
  Array.from({ length: count }, (_, k) => Math.floor(f(k) + 1e-6));

let sixty: string;
let openGop: string;
let hfr: string;
let ntsc: string;

beforeAll(async () => {
  sixty = await makeNumberedClip({
    file: at('60.mp4'),
    frames: 300,
    rate: '60',
    options: [...H264, '-g', '100', '-bf', '3'],
  });
  hfr = await makeNumberedClip({ file: at('120.mp4'), frames: 360, rate: '120', options: [...H264, '-g', '12'] });
  ntsc = await makeNumberedClip({
    file: at('2997.mov'),
    frames: 200,
    rate: '30000/1001',
    options: [...H264, '-bf', '2'],
  });
  openGop = await makeNumberedClip({
    file: at('open.mp4'),
    frames: 240,
    rate: '24',
    options: [...H264, '-x264-params', 'open-gop=1:keyint=16:min-keyint=16:bframes=3:b-adapt=0:scenecut=0'],
  });
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('one speed', () => {
  test('60 → 24 at 100 %', () =>
    expectFrames(
      sixty,
      ['--fps', '24'],
      range(120, (k) => k * 2.5),
    ));
  test('60 → 24 at 40 %: every frame once', () =>
    expectFrames(
      sixty,
      ['--fps', '24', '--speed', '40'],
      range(300, (k) => k),
    ));
  test('29.97 → 23.976', () =>
    expectFrames(
      ntsc,
      ['--fps', '23.976'],
      range(160, (k) => k * 1.25),
    ));
  test('29.97 → 24 does not drift', () =>
    expectFrames(
      ntsc,
      ['--fps', '24'],
      range(Math.floor(199 / (30000 / 1001 / 24)) + 1, (k) => (k * 30000) / 1001 / 24),
    ));
  test('120 → 24 at 33.3 %', () =>
    expectFrames(
      hfr,
      ['--fps', '24', '--speed', '33.3'],
      range(Math.floor(359 / 1.665) + 1, (k) => k * 1.665),
    ));
  test('fast: 730 %', () =>
    expectFrames(
      sixty,
      ['--fps', '24', '--speed', '730'],
      range(Math.floor(299 / 18.25) + 1, (k) => k * 18.25),
    ));
  test('slow: 5 % of a second', () =>
    expectFrames(
      sixty,
      ['--fps', '24', '--speed', '5', '--in', '60f', '--out-point', '120f'],
      range(488, (k) => 60 + k * 0.125),
    ));
  test('read as 24: 60 fps footage plays at 40 %', () =>
    expectFrames(
      sixty,
      ['--fps', '24', '--read-as', '24'],
      range(300, (k) => k),
    ));
  test('non-integer speed in reverse', () =>
    expectFrames(
      sixty,
      ['--fps', '24', '--speed', '37', '--reverse'],
      range(Math.floor(299 / 0.925) + 1, (k) => 299 - k * 0.925),
    ));
  test('in and out points, both included, in reverse', () =>
    expectFrames(
      sixty,
      ['--reverse', '--in', '00:00:01:00', '--out-point', '3s'],
      range(121, (k) => 180 - k),
    ));
  test('fit: the last frame shows the out point', () => {
    expectFrames(
      sixty,
      ['--fps', '24', '--fit', '100f', '--in', '10f', '--out-point', '201f'],
      range(100, (k) => 10 + (k * 191) / 99),
    );
    expectFrames(
      sixty,
      ['--fps', '30', '--fit', '2s', '--reverse'],
      range(60, (k) => 299 - (k * 299) / 59),
    );
  });
});

describe('time maps', () => {
  const bent = {
    sourceRate: '120',
    timelineRate: '24',
    vertices: [
      [0, 10],
      [30, 160],
      [60, 180.5],
      [72, 180.5],
      [100, 320],
    ],
    bends: [
      { at: 1, width: 14, ease: 'soft' },
      { at: 2, width: 6, ease: [0.3, 0, 0.4, 1] },
      { at: 3, width: 5.5, ease: 'late' },
    ],
  };
  test('ramped, with a freeze', () => {
    const map = mapFile('bent.json', bent);
    const truth = parseMapFile(JSON.stringify({ version: 1, ...bent })).map;
    expectFrames(
      hfr,
      ['--map', map],
      range(100, (k) => positionAt(truth, k)),
    );
  });
  test('there and back', () => {
    const bounce = {
      timelineRate: '30',
      vertices: [
        [0, 5],
        [40, 205.3],
        [80.25, 12],
      ],
      bends: [{ at: 1, width: 20, ease: 'silk' }],
    };
    const truth = parseMapFile(JSON.stringify({ version: 1, ...bounce })).map;
    expectFrames(
      sixty,
      ['--map', mapFile('bounce.json', bounce)],
      range(81, (k) => positionAt(truth, k)),
    );
  });
  test('source that is not there is an error until a choice is given', () => {
    const map = mapFile('past.json', {
      timelineRate: '60',
      vertices: [
        [0, 290],
        [20, 310],
      ],
    });
    const refused = run('retime', sixty, '-o', at('refused.mkv'), '--map', map, '--sound', 'none');
    expect(refused).toMatchObject({ status: 1, stdout: '' });
    expect(refused.stderr).toMatch(/frame 10: asks for source position 300\.000.*hold, loop or black/);
    expect(existsSync(at('refused.mkv'))).toBe(false);
    expectFrames(
      sixty,
      ['--map', map, '--end', 'hold'],
      range(20, (k) => Math.min(299, 290 + k)),
    );
    expectFrames(
      sixty,
      ['--map', map, '--end', 'loop'],
      range(20, (k) => (290 + k) % 300),
    );
    expectFrames(
      sixty,
      ['--map', map, '--end', 'black'],
      range(20, (k) => (k < 10 ? 290 + k : 0)),
    );
  });
});

describe('sources of every kind', () => {
  test('open groups of pictures, from anywhere, forward and back', () => {
    for (const start of [15, 16, 17, 29, 30, 31, 33, 100])
      expectFrames(
        openGop,
        ['--in', `${start}f`, '--out-point', `${start + 20}f`],
        range(21, (k) => start + k),
      );
    expectFrames(
      openGop,
      ['--reverse'],
      range(240, (k) => 239 - k),
    );
    expectFrames(
      openGop,
      ['--speed', '310'],
      range(78, (k) => k * 3.1),
    );
  });

  test('variable rate: frames keep their time on the grid', async () => {
    const gone = (n: number) => n % 9 === 4 || (n > 40 && n < 61);
    const vfr = await makeNumberedClip({
      file: at('vfr.mp4'),
      frames: 180,
      rate: '60',
      options: [
        '-vf',
        "select='not(eq(mod(n,9),4)+between(n,41,60))'",
        '-fps_mode',
        'vfr',
        ...H264,
        '-enc_time_base',
        '1/60000',
        '-video_track_timescale',
        '60000',
      ],
    });
    const shown = (n: number) => {
      while (gone(n)) n--;
      return n;
    };
    const facts = JSON.parse(run('inspect', vfr, '--json').stdout).video;
    expect(facts).toMatchObject({ rate: '60', frames: 180, variable: true, droppedFrames: 0 });
    expectFrames(
      vfr,
      ['--fps', '24'],
      range(Math.floor(179 / 2.5) + 1, (k) => shown(Math.floor(k * 2.5))),
    );
    expectFrames(
      vfr,
      ['--reverse'],
      range(180, (k) => shown(179 - k)),
    );
  });

  test.each<[string, string, string[]]>([
    [
      'HEVC',
      'hevc.mp4',
      [
        '-c:v',
        'libx265',
        '-preset',
        'ultrafast',
        '-crf',
        '20',
        '-pix_fmt',
        'yuv420p',
        '-x265-params',
        'log-level=error:keyint=20',
      ],
    ],
    ['VP9', 'vp9.webm', ['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-cpu-used', '8', '-g', '25', '-b:v', '2M']],
    ['ProRes', 'prores.mov', ['-c:v', 'prores_ks', '-pix_fmt', 'yuv422p10le']],
    [
      'MPEG transport stream, first time not zero',
      'late.ts',
      [...H264, '-g', '24', '-bf', '2', '-output_ts_offset', '7.3'],
    ],
    ['Matroska, first time not zero', 'late.mkv', [...H264, '-g', '24', '-output_ts_offset', '3']],
    ['AVI, whose packets have no times', 'old.avi', ['-c:v', 'mpeg4', '-q:v', '2', '-g', '20']],
    ['ten bits', 'ten.mkv', ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '18', '-pix_fmt', 'yuv420p10le']],
    ['a packed RGB codec', 'rgb.mov', ['-c:v', 'png', '-pix_fmt', 'rgb24']],
  ])('%s', async (_, name, options) => {
    const clip = await makeNumberedClip({ file: at(name), frames: 90, rate: '30', options });
    expectFrames(
      clip,
      ['--in', '31f', '--out-point', '70f'],
      range(40, (k) => 31 + k),
    );
    expectFrames(
      clip,
      ['--reverse', '--speed', '140'],
      range(Math.floor(89 / 1.4) + 1, (k) => 89 - k * 1.4),
    );
  });

  test('an edit list that cuts the beginning off', async () => {
    const clip = await makeNumberedClip({
      file: at('whole.mp4'),
      frames: 90,
      rate: '30',
      options: [...H264, '-g', '30', '-bf', '2'],
    });
    spawnSync('ffmpeg', ['-v', 'error', '-y', '-ss', '0.5', '-i', clip, '-c', 'copy', at('edit.mp4')]);
    const seen = readNumbers(at('edit.mp4'));
    expectFrames(at('edit.mp4'), [], seen);
    expectFrames(at('edit.mp4'), ['--reverse'], seen.toReversed());
  });
});

describe('outputs', () => {
  test.each(['mp4', 'webm', 'mov'])('.%s holds the same frames', (extension) => {
    expectFrames(
      sixty,
      ['--fps', '24', '--speed', '130', '--out-point', '120f'],
      range(38, (k) => k * 3.25),
      extension,
    );
  });

  test('numbered pictures', () => {
    const result = run('retime', sixty, '-o', at('frames/%05d.png'), '--out-point', '4f', '--sound', 'none');
    expect(result.status).toBe(0);
    expect(readdirSync(at('frames'))).toEqual(['00000.png', '00001.png', '00002.png', '00003.png', '00004.png']);
    expect(readNumbers(at('frames/%05d.png'))).toEqual([0, 1, 2, 3, 4]);
  });

  test('a whole position passes through bit for bit, and Mix is the blend of its two frames', () => {
    const lossless = at('lossless.mkv');
    spawnSync('ffmpeg', ['-v', 'error', '-y', '-i', sixty, '-frames:v', '40', '-c:v', 'ffv1', lossless]);
    const planes = (file: string) =>
      spawnSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 'rawvideo', 'pipe:1'], { maxBuffer: 2 ** 30 }).stdout;
    const before = planes(lossless);
    const report = at('report.json');
    expect(
      run(
        'retime',
        lossless,
        '-o',
        at('mix.mkv'),
        '--speed',
        '80',
        '--frames',
        'mix',
        '--sound',
        'none',
        '--report',
        report,
      ).status,
    ).toBe(0);
    const after = planes(at('mix.mkv'));
    const size = 320 * 192 * 1.5;
    const { frames } = JSON.parse(readFileSync(report, 'utf8')) as {
      frames: { frame: number; source: number; made: boolean }[];
    };
    expect(frames).toHaveLength(after.length / size);
    for (const { frame, source, made } of frames) {
      expect(source).toBeCloseTo(frame * 0.8, 12);
      expect(made).toBe(frame % 5 !== 0);
      const a = before.subarray(Math.floor(source + 1e-6) * size, (Math.floor(source + 1e-6) + 1) * size);
      const shown = after.subarray(frame * size, (frame + 1) * size);
      if (!made) expect(shown.equals(a)).toBe(true);
      else {
        const b = before.subarray((Math.floor(source) + 1) * size, (Math.floor(source) + 2) * size);
        const weight = Math.round((source - Math.floor(source)) * 32768);
        let wrong = 0;
        for (let i = 0; i < size; i++)
          if (shown[i] !== (a[i]! * (32768 - weight) + b[i]! * weight + 16384) >> 15) wrong++;
        expect(wrong).toBe(0);
      }
    }
  });

  test('colour tags and pixel aspect are carried', async () => {
    const tagged = await makeNumberedClip({
      file: at('tagged.mp4'),
      frames: 5,
      rate: '25',
      options: [
        ...H264,
        '-vf',
        'setsar=4/3',
        '-colorspace',
        'smpte170m',
        '-color_primaries',
        'smpte170m',
        '-color_trc',
        'bt709',
        '-color_range',
        'tv',
      ],
    });
    for (const extension of ['mp4', 'mkv']) {
      expect(run('retime', tagged, '-o', at(`tags.${extension}`), '--sound', 'none').status).toBe(0);
      expect(JSON.parse(run('inspect', at(`tags.${extension}`), '--json').stdout).video).toMatchObject({
        pixelAspect: '4:3',
        colour: { range: 'limited', matrix: 'smpte170m', primaries: 'smpte170m', transfer: 'bt709' },
      });
    }
  });

  test('another size keeps the shape, and the frames', () => {
    expectFrames(
      sixty,
      ['--size', '640x384', '--out-point', '20f'],
      range(21, (k) => k),
    );
    expect(JSON.parse(run('inspect', at('out.mkv'), '--json').stdout).video).toMatchObject({ width: 640, height: 384 });
  });

  test('Ctrl-C leaves nothing', async () => {
    const { spawn } = await import('node:child_process');
    const child = spawn(
      process.execPath,
      ['bin/idle-bend', 'retime', sixty, '-o', at('stop/out.mp4'), '--speed', '1'],
      {
        env: { ...process.env, NODE_OPTIONS: '' },
      },
    );
    let seen = '';
    await new Promise<void>((resolve) =>
      child.stderr.on('data', (d: Buffer) => (seen += d.toString()).includes('frames') && resolve()),
    );
    child.kill('SIGINT');
    const code = await new Promise((resolve) => child.once('close', resolve));
    expect(code).toBe(130);
    expect(readdirSync(at('stop'))).toEqual([]);
  });
});

describe('wrong usage', () => {
  test.each<[string[], number, RegExp]>([
    [['retime'], 2, /IN is missing/],
    [['retime', 'a.mp4'], 2, /-o OUT is missing/],
    [['retime', 'a.mp4', '-o', 'b.xyz'], 2, /ends in none of/],
    [['retime', 'a.mp4', '-o', 'b.mp4', '--frames', 'mix', '--level', 'best'], 2, /--level is for --frames flow/],
    [['retime', 'a.mp4', '-o', 'b.mp4', '--sound', 'loud'], 2, /"loud" is not one of follow, keep, none/],
    [['retime', 'a.mp4', '-o', 'b.mp4', '--speed', '0'], 2, /--speed: must be above 0/],
    [['retime', 'a.mp4', '-o', 'b.mp4', '--map', 'm', '--in', '3f'], 2, /--in and --map exclude/],
    [['retime', 'a.mp4', '-o', 'b.mp4', '--smooth'], 2, /--smooth/],
    [['retime', 'gone.mp4', '-o', 'b.mp4'], 1, /gone\.mp4: there is no such file/],
    [['map', '--speed', '50'], 2, /--source-fps is missing/],
    [['render', 'x'], 2, /-o OUT is missing/],
    [['juggle'], 2, /no command "juggle"/],
  ])('%j', (args, status, message) => {
    const result = run(...args);
    expect(result.stderr).toMatch(message);
    expect(result.status).toBe(status);
  });

  test('a rate given twice and differing', () => {
    const map = mapFile('rated.json', {
      sourceRate: '120',
      timelineRate: '24',
      vertices: [
        [0, 0],
        [9, 9],
      ],
    });
    expect(run('retime', sixty, '-o', at('x.mkv'), '--map', map, '--fps', '25').stderr).toMatch(
      /--fps: is 25\/1, but the map says 24\/1/,
    );
    expect(run('map', '--map', map, '--source-fps', '60', '--fps', '24', '--count', '3').stderr).toMatch(
      /--source-fps/,
    );
    const json = JSON.parse(run('map', '--map', map, '--count', '3', '--json').stdout);
    expect(json.frames[1]).toEqual({ frame: 1, source: 1, speed: 0.2, made: false });
  });
});
