import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { describeRepeats } from '@idle-bend/core/health';
import { inspectHealth } from './inspect-health.js';
import { openSource } from '../probe/source.js';

const WIDTH = 384;
const HEIGHT = 216;
const FRAMES = 96;

// Taken once: looking a global up in a test's own context is slow, and there are pictures to draw.
const { exp, hypot, imul, round, sin } = Math;

/** Camera noise, and wood grain that is uneven everywhere: tables, so that a picture is quick to draw. */
const NOISE = Int8Array.from({ length: 65536 }, (_, i) => ((imul(i ^ (i >>> 7), 0x9e3779b1) >>> 24) % 5) - 2);
const LONG = 16384;
const GRAIN = Array.from({ length: HEIGHT }, (_, y) =>
  Uint8Array.from(
    { length: y % 8 === 0 ? LONG : 0 },
    (_, x) => 96 + 22 * sin(x * 0.09 + 2 * sin(y * 0.05)) + 14 * sin(y * 0.31 + sin(x * 0.013) * 4),
  ),
);

interface Scene {
  /** Where the marble is at a time, pixels; and how far the camera has panned. */
  readonly marble: (time: number) => readonly [x: number, y: number];
  readonly pan?: (time: number) => number;
  readonly light?: (time: number) => number;
}

/** One shot: the bench, a marble, and the camera's own noise, new in every shot. */
function shoot({ marble, pan, light }: Scene, time: number): Buffer {
  const picture = new Uint8Array((WIDTH * HEIGHT * 3) / 2).fill(128);
  const [mx, my] = marble(time);
  const shift = round((pan?.(time) ?? 0) * 2) / 2;
  const dark = light?.(time) ?? 0;
  const whole = shift | 0;
  const half = shift - whole;
  let noise = round(time * 997) * 7919;
  for (let y = 0; y < HEIGHT; y++) {
    const wood = GRAIN[y & ~7]!;
    for (let x = 0; x < WIDTH; x++) {
      const at = x + whole;
      const d = hypot(x - mx, y - my);
      const value = d < 22 ? 220 - d * 3 : wood[at]! + (wood[at + 1]! - wood[at]!) * half + (y & 7) * 2 + dark;
      picture[y * WIDTH + x] = value + NOISE[(noise += 31) & 65535]!;
    }
  }
  return Buffer.from(picture.buffer);
}

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'idle-bend-health-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Films a scene: frame n of the file shows the shot taken at `times[n]`. */
async function film(name: string, scene: Scene, times: readonly number[], crf: number): Promise<string> {
  const file = join(folder, `${name}-${crf}.mp4`);
  const options = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', String(crf), '-g', '25', '-pix_fmt', 'yuv420p'];
  const child = spawn(
    'ffmpeg',
    [
      '-v',
      'error',
      '-y',
      '-f',
      'rawvideo',
      '-pix_fmt',
      'yuv420p',
      '-s',
      `${WIDTH}x${HEIGHT}`,
      '-framerate',
      '24',
      '-i',
      'pipe:0',
      ...options,
      file,
    ],
    { stdio: ['pipe', 'ignore', 'inherit'] },
  );
  const closed = once(child, 'close');
  const shots = new Map<number, Buffer>();
  for (const time of times) {
    if (!shots.has(time)) shots.set(time, shoot(scene, time));
    if (!child.stdin.write(shots.get(time)!)) await once(child.stdin, 'drain');
  }
  child.stdin.end();
  await closed;
  return file;
}

const everyTime = Array.from({ length: FRAMES }, (_, n) => n);
const rolling: Scene = { marble: (t) => [20 + t * 3.6, 110 + 24 * sin(t / 15)] };
const slow: Scene = { marble: (t) => [120 + t * 0.8, 90 + t * 0.3] };
const panned: Scene = { marble: (t) => [190 + 40 * sin(t / 9), 120], pan: (t) => t * 2.3 };
const thrown: Scene = { marble: (t) => [60 + t * 0.02, 40 + (t - 47.5) ** 2 * 0.07] };
const stopping: Scene = { marble: (t) => [50 + 240 * (1 - exp(-t / 12)), 108] };
const stuttered = [9, 23, 24, 41, 60, 77];
/** The camera missed these shots and wrote the one before once more. */
const missed = (at: readonly number[]) =>
  everyTime.reduce<number[]>((times, n) => [...times, at.includes(n) ? times.at(-1)! : n], []);
/** The recorder wrote these shots twice; none is missing. */
const doubled = (at: readonly number[]) => {
  let lost = 0;
  return everyTime.map((n) => (at.includes(n) ? n - ++lost : n - lost));
};

const cases: readonly [name: string, scene: Scene, times: readonly number[]][] = [
  ['a rolling marble', rolling, everyTime],
  ['a marble in slow motion', slow, everyTime],
  ['a pan', panned, everyTime],
  ['a marble thrown up, still for an instant at the top', thrown, everyTime],
  ['a marble coming to rest', stopping, everyTime],
  [
    'a marble that waits in the middle for a second',
    rolling,
    everyTime.map((n) => (n < 40 ? n : n < 64 ? 40 : n - 24)),
  ],
  ['animation on twos', rolling, everyTime.map((n) => n - (n % 2))],
  ['animation on threes', rolling, everyTime.map((n) => n - (n % 3))],
  ['a pan on twos', panned, everyTime.map((n) => n - (n % 2))],
  ['a pan on fours', panned, everyTime.map((n) => n - (n % 4))],
  ['missed shots', rolling, missed(stuttered)],
  ['missed shots in a pan', panned, missed(stuttered)],
  ['shots written twice in slow motion', slow, doubled(stuttered)],
];

describe('health of generated footage', () => {
  test.each(cases.flatMap((c) => [18, 23, 28].map((crf) => [...c, crf] as const)))(
    '%s: every repeat, no false one (%#)',
    async (name, scene, times, crf) => {
      const source = await openSource(await film(name.replace(/\W+/g, '-'), scene, times, crf));
      const { repeats, cuts } = await inspectHealth(source);
      const same = times.flatMap((t, n) => (n > 0 && t === times[n - 1] ? [n] : []));
      // A second of stillness is a picture that waits, not a stutter.
      const expected = same.length > 12 && times.filter((t) => t === 40).length > 12 ? [] : same;
      expect(repeats).toEqual(expected);
      expect(cuts).toEqual([]);
    },
  );

  test('scenes that follow one another, and what a missed shot is made up with', async () => {
    const lit: Scene = {
      ...panned,
      light: (t) => (t < 30 ? 0 : t < 70 ? 45 : -30),
      pan: (t) => t * 2 + (t < 30 ? 0 : t < 70 ? 4000 : 900),
    };
    const source = await openSource(await film('scenes', lit, missed([50]), 23));
    expect(await inspectHealth(source)).toMatchObject({ repeats: [50], cuts: [30, 70], drops: [50] });
  });

  test('are spoken of as an animator would', () => {
    const hold = (n: number) => everyTime.filter((f) => f % n !== 0);
    expect(describeRepeats(hold(2), FRAMES)).toBe('animated on twos: each picture stands for 2 frames');
    expect(describeRepeats(hold(3), FRAMES)).toMatch(/on threes/);
    expect(describeRepeats(stuttered, FRAMES)).toBe('6 repeated frames');
    expect(describeRepeats([], FRAMES)).toBeUndefined();
  });
});
