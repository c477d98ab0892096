import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';

/** `retime --frames flow` on real footage of which every second frame was taken away, through real ffmpeg. */

const [WIDTH, HEIGHT] = [320, 180];
const SIZE = WIDTH * HEIGHT * 1.5;
let folder: string;
const at = (name: string) => join(folder, name);

function ffmpeg(...args: string[]): void {
  const { status, stderr } = spawnSync('ffmpeg', ['-v', 'error', '-y', ...args], { encoding: 'utf8' });
  if (status !== 0) throw new Error(stderr);
}

function decoded(file: string): Buffer {
  return spawnSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 'rawvideo', '-pix_fmt', 'yuv420p', 'pipe:1'], {
    maxBuffer: 2 ** 30,
  }).stdout;
}

function frames(file: string): Uint8Array[] {
  const stdout = decoded(file);
  return Array.from(
    { length: stdout.length / SIZE },
    (_, k) => new Uint8Array(stdout.subarray(k * SIZE, (k + 1) * SIZE)),
  );
}

function retime(source: string, out: string, ...options: string[]): Uint8Array[] {
  const { status, stderr } = spawnSync(
    process.execPath,
    ['bin/idle-bend', 'retime', at(source), '-o', at(out), '--sound', 'none', ...options],
    {
      encoding: 'utf8',
      env: { ...process.env, NODE_OPTIONS: '' },
    },
  );
  if (status !== 0) throw new Error(stderr);
  return frames(at(out));
}

const equal = (a: Uint8Array, b: Uint8Array) => Buffer.compare(a, b) === 0;

function psnr(a: Uint8Array, b: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < WIDTH * HEIGHT; i++) sum += (a[i]! - b[i]!) ** 2;
  return 10 * Math.log10((255 * 255 * WIDTH * HEIGHT) / Math.max(1, sum));
}

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'idle-bend-flow-'));
  const scaled = `scale=${WIDTH}:${HEIGHT},format=yuv420p`;
  // The marble comes down to the bell at 120 fps; the whirligig turns.
  ffmpeg(
    '-ss',
    '1',
    '-i',
    'demo/footage/marble-bell.mp4',
    '-frames:v',
    '25',
    '-an',
    '-vf',
    scaled,
    '-c:v',
    'ffv1',
    at('whole.mkv'),
  );
  ffmpeg(
    '-i',
    at('whole.mkv'),
    '-vf',
    `select='not(mod(n,2))',setpts=N/60/TB`,
    '-r',
    '60',
    '-c:v',
    'ffv1',
    at('half.mkv'),
  );
  ffmpeg(
    '-i',
    'demo/footage/whirligig.mp4',
    '-frames:v',
    '6',
    '-an',
    '-vf',
    `${scaled},fps=60,setpts=N/60/TB`,
    '-r',
    '60',
    '-c:v',
    'ffv1',
    at('other.mkv'),
  );
  ffmpeg(
    '-i',
    at('half.mkv'),
    '-i',
    at('other.mkv'),
    '-filter_complex',
    '[0:v]trim=end_frame=6[a];[a][1:v]concat=n=2',
    '-r',
    '60',
    '-c:v',
    'ffv1',
    at('cut.mkv'),
  );
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('retime --frames flow', () => {
  test('source frames pass bit for bit; made ones are nearer to what was filmed than a blend', () => {
    const truth = frames(at('whole.mkv'));
    const [made, mixed] = [
      retime('half.mkv', 'flow.mkv', '--fps', '120', '--frames', 'flow'),
      retime('half.mkv', 'mix.mkv', '--fps', '120', '--frames', 'mix'),
    ];
    expect(made).toHaveLength(25);
    let [ofFlow, ofMix] = [0, 0];
    made.forEach((frame, k) => {
      if (k % 2 === 0) expect(equal(frame, truth[k]!)).toBe(true);
      else {
        ofFlow += psnr(frame, truth[k]!) / 12;
        ofMix += psnr(mixed[k]!, truth[k]!) / 12;
      }
    });
    expect(ofFlow).toBeGreaterThan(ofMix);
  });

  test('the same bytes on one thread, two and three, at every level', () => {
    for (const level of ['quick', 'default', 'best']) {
      const [one, ...more] = ['1', '2', '3'].map((threads) =>
        retime(
          'half.mkv',
          `t${threads}.mkv`,
          '--fps',
          '240',
          '--out-point',
          '8f',
          '--frames',
          'flow',
          '--level',
          level,
          '--threads',
          threads,
        ),
      );
      for (const other of more) expect(other.every((frame, k) => equal(frame, one![k]!))).toBe(true);
    }
  });

  test('across a cut every made frame is one side or the other, and motion is not carried over it', () => {
    const source = frames(at('cut.mkv'));
    const made = retime('cut.mkv', 'cut-flow.mkv', '--fps', '240', '--frames', 'flow');
    for (let k = 21; k < 24; k++) expect(equal(made[k]!, source[k < 22 ? 5 : 6]!)).toBe(true);
  });

  test('a picture too small for motion is blended', () => {
    ffmpeg('-i', at('half.mkv'), '-vf', 'scale=14:10', '-frames:v', '4', '-c:v', 'ffv1', at('tiny.mkv'));
    for (const method of ['flow', 'mix']) retime('tiny.mkv', `tiny-${method}.mkv`, '--fps', '120', '--frames', method);
    expect(decoded(at('tiny-flow.mkv'))).toHaveLength(7 * 14 * 10 * 1.5);
    expect(decoded(at('tiny-flow.mkv')).equals(decoded(at('tiny-mix.mkv')))).toBe(true);
  });
});

describe('repeated frames', () => {
  test('are left out: motion goes on past them, and the frames that are left pass bit for bit', () => {
    // Every fifth frame is shown once more in place of the next.
    const stutter = `select='not(eq(mod(n,5),4))',fps=60`;
    for (const [name, ...codec] of [
      ['stutter.mkv', '-c:v', 'ffv1', '-g', '1'],
      ['stutter.mp4', '-c:v', 'libx264', '-crf', '8'],
    ] as const) {
      ffmpeg('-i', at('half.mkv'), '-vf', stutter, '-r', '60', ...codec, at(name));
      const source = frames(at(name));
      const repeats = source.flatMap((frame, n) => (n > 0 && psnr(frame, source[n - 1]!) > 48 ? [n] : []));
      expect(repeats.length).toBeGreaterThan(1);
      const made = retime(name, `made-${name}.mkv`, '--fps', '60', '--frames', 'flow');
      const held = retime(name, `held-${name}.mkv`, '--fps', '60', '--frames', 'step');
      source.forEach((frame, n) => {
        expect(equal(held[n]!, frame)).toBe(true);
        // After the last frame that is left there is nothing to move towards.
        if (n < source.length - 1) expect(equal(made[n]!, frame)).toBe(!repeats.includes(n));
      });
    }
  });
});

describe('the report of a Flow render', () => {
  const report = (source: string, ...options: string[]) => {
    retime(source, 'reported.mkv', '--report', at('report.json'), ...options);
    return (
      JSON.parse(readFileSync(at('report.json'), 'utf8')) as {
        frames: { made: boolean; confidence: number | null; rough: boolean | null }[];
      }
    ).frames;
  };

  test('says of every made frame how sure it is, of real ones nothing', () => {
    const lines = report('half.mkv', '--fps', '120', '--frames', 'flow');
    expect(lines).toHaveLength(25);
    lines.forEach(({ made, confidence, rough }, k) => {
      expect(made).toBe(k % 2 === 1);
      expect(typeof confidence).toBe(made ? 'number' : 'object');
      expect(rough).toBe(made ? confidence! < 0.5 : null);
    });
    expect(lines.filter(({ made, rough }) => made && !rough).length).toBeGreaterThan(8);
  });

  test('flags what is shown across a cut, and changes no picture', () => {
    const lines = report('cut.mkv', '--fps', '240', '--frames', 'flow');
    expect(lines[22]!.rough).toBe(true);
    const plain = retime('cut.mkv', 'plain.mkv', '--fps', '240', '--frames', 'flow');
    frames(at('reported.mkv')).forEach((frame, k) => expect(equal(frame, plain[k]!)).toBe(true));
  });

  test('has nothing to say of Mix', () => {
    expect(
      report('half.mkv', '--fps', '120', '--frames', 'mix').every(
        ({ confidence, rough }) => confidence === null && rough === null,
      ),
    ).toBe(true);
  });
});

describe('a shutter', () => {
  const sharpness = (frame: Uint8Array) => {
    let sum = 0;
    for (let y = 10; y < HEIGHT - 10; y++)
      for (let x = 10; x < WIDTH - 10; x++) sum += Math.abs(frame[y * WIDTH + x]! - frame[y * WIDTH + x + 1]!);
    return sum;
  };
  test('blurs what is sped up, centred where the frame is, and leaves normal speed alone', () => {
    const whip = (out: string, ...options: string[]) => retime('whip.mkv', out, '--fps', '60', ...options);
    ffmpeg(
      '-i',
      'demo/footage/whip-out.mp4',
      '-an',
      '-vf',
      `scale=${WIDTH}:${HEIGHT},format=yuv420p`,
      '-frames:v',
      '60',
      '-c:v',
      'ffv1',
      at('whip.mkv'),
    );
    const [sharp, blurred] = [
      whip('sharp.mkv', '--speed', '800'),
      whip('blurred.mkv', '--speed', '800', '--shutter', '180'),
    ];
    expect(blurred).toHaveLength(sharp.length);
    // The camera whips in the end: there it is drawn out, and most of its detail goes.
    expect(sharpness(blurred.at(-1)!)).toBeLessThan(0.75 * sharpness(sharp.at(-1)!));
    expect(whip('plain.mkv', '--shutter', '180').every((frame, k) => equal(frame, frames(at('whip.mkv'))[k]!))).toBe(
      true,
    );
  });

  test('is refused beyond two frames', () => {
    expect(() => retime('whole.mkv', 'x.mkv', '--shutter', '800')).toThrow(/"800" is not a number from 0 to 720/);
  });
});

describe('the sound of a clip', () => {
  const pitch = (file: string): number => {
    const { stdout } = spawnSync(
      'ffmpeg',
      ['-v', 'error', '-i', at(file), '-map', '0:a:0', '-ac', '1', '-ar', '48000', '-f', 'f32le', 'pipe:1'],
      { maxBuffer: 2 ** 28 },
    );
    const all = new Float32Array(
      stdout.buffer.slice(stdout.byteOffset, stdout.byteOffset + stdout.length - (stdout.length % 4)),
    );
    const samples = all.subarray(12_000, all.length - 12_000);
    return (
      (samples.reduce((n, v, i) => n + (i > 0 && samples[i - 1]! < 0 && v >= 0 ? 1 : 0), 0) / samples.length) * 48000
    );
  };
  test('follows the speed, or keeps its pitch, as long as the picture either way', () => {
    ffmpeg(
      '-i',
      at('whole.mkv'),
      '-f',
      'lavfi',
      '-i',
      'sine=1000:r=48000:d=3',
      '-vf',
      'loop=3:25,setpts=N/30/TB',
      '-r',
      '30',
      '-frames:v',
      '60',
      '-c:v',
      'ffv1',
      '-c:a',
      'flac',
      '-t',
      '2',
      at('tone.mkv'),
    );
    const run = (out: string, sound: string) =>
      spawnSync(
        process.execPath,
        ['bin/idle-bend', 'retime', at('tone.mkv'), '-o', at(out), '--speed', '50', '--sound', sound],
        { encoding: 'utf8', env: { ...process.env, NODE_OPTIONS: '' } },
      );
    expect(run('follows.mkv', 'follow')).toMatchObject({ status: 0 });
    expect(run('keeps.mkv', 'keep')).toMatchObject({ status: 0 });
    expect(pitch('follows.mkv')).toBeCloseTo(500, -1);
    expect(pitch('keeps.mkv')).toBeCloseTo(1000, -2);
  });
});
