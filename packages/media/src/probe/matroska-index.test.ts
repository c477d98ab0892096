import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdtempSync, readFileSync, rmSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { H264, makeNumberedClip } from '../../test/numbered-clip.js';
import { listedByReading } from '../../test/listed-by-reading.js';
import { indexFrames, quickIndex } from './frame-index.js';
import { indexFromBlocks } from './matroska-index.js';
import { probe } from './probe.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-blocks-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);
const path = (name: string) => join(folder, name);

const coded = await makeNumberedClip({
  file: path('rail.mkv'),
  frames: 150,
  rate: '60',
  options: [...H264, '-bf', '3', '-g', '25', '-x264-params', 'open-gop=1'],
});
const made = (name: string, ...options: string[]) => {
  ffmpeg('-i', coded, ...options, path(name));
  return path(name);
};
const SINE = ['-f', 'lavfi', '-i', 'sine=duration=2.5'];
const withSound = (name: string, ...options: string[]) => {
  ffmpeg(...SINE, '-i', coded, '-map', '0', '-map', '1', '-c:v', 'copy', ...options, path(name));
  return path(name);
};

const FILES: readonly (readonly [string, () => string])[] = [
  ['reordered frames', () => coded],
  ['sound before the picture, and small clusters', () => withSound('sound.mkv', '-cluster_time_limit', '200')],
  ['clusters whose length nobody knows', () => withSound('live.mkv', '-c:a', 'libopus', '-live', '1')],
  [
    'written to a pipe',
    () => {
      writeFileSync(path('pipe.mkv'), ffmpeg('-i', coded, '-c', 'copy', '-f', 'matroska', 'pipe:1'));
      return path('pipe.mkv');
    },
  ],
  [
    'HEVC',
    () => made('hevc.mkv', '-c:v', 'libx265', '-preset', 'ultrafast', '-x265-params', 'log-level=none:keyint=20'),
  ],
  ['VP9 in WebM', () => made('nine.webm', '-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-cpu-used', '8', '-g', '30')],
  ['AV1', () => made('one.webm', '-c:v', 'libaom-av1', '-cpu-used', '8', '-usage', 'realtime', '-g', '30')],
  ['key frames alone', () => made('keys.mkv', '-c:v', 'mjpeg')],
  ['a late picture', () => made('late.mkv', '-c', 'copy', '-output_ts_offset', '1.5')],
  ['a varying rate', () => made('varying.mkv', '-vf', "select='mod(n,7)'", '-fps_mode', 'vfr', '-c:v', 'libx264')],
  [
    'a cover',
    () => {
      ffmpeg('-i', coded, '-frames:v', '1', path('cover.png'));
      return made('covered.mkv', '-c', 'copy', '-attach', path('cover.png'), '-metadata:s:t', 'mimetype=image/png');
    },
  ],
];

describe('the frames of a Matroska file from its blocks', () => {
  test.each(FILES)('are those that reading all of it lists: %s', async (_, make) => {
    const file = make();
    const { video } = await probe(file);
    const found = indexFromBlocks(file, video!);
    expect(found?.packets).toEqual(listedByReading(file, video!.stream));
    expect(found!.packets.length).toBeGreaterThan(120);
  });

  test('take few bytes of a long file, and make the list that decoding goes by', async () => {
    const heavy = path('heavy.mkv');
    ffmpeg(
      ...['-f', 'lavfi', '-i', 'testsrc2=size=1920x1080:rate=60', ...SINE, '-t', '2.5'],
      ...[
        '-c:v',
        'libx264',
        '-preset',
        'ultrafast',
        '-b:v',
        '40M',
        '-minrate',
        '40M',
        '-maxrate',
        '40M',
        '-bufsize',
        '8M',
        '-nal-hrd',
        'cbr',
        heavy,
      ],
    );
    const facts = await probe(heavy);
    const { index, bytesRead } = (await quickIndex(heavy, facts))!;
    expect(index.times).toHaveLength(150);
    expect(bytesRead).toBeLessThan(0.02 * statSync(heavy).size);
  });

  test('several pictures, codecs that give their own times, packed content and files cut short are left to those who read all', async () => {
    const { video } = await probe(coded);
    const two = path('two.mkv');
    ffmpeg('-i', coded, '-i', coded, '-map', '0', '-map', '1', '-c', 'copy', two);
    expect(indexFromBlocks(two, video!)).toBeUndefined();
    const old = made('old.mkv', '-c:v', 'ffv1');
    expect(indexFromBlocks(old, (await probe(old)).video!)).toBeUndefined();
    const short = path('short.mkv');
    copyFileSync(coded, short);
    truncateSync(short, Math.round(statSync(coded).size * 0.6));
    expect(indexFromBlocks(short, video!)).toBeUndefined();
    await expect(indexFrames(short, await probe(short))).rejects.toThrow(/short\.mkv is cut short/);
    // A block that says it is laced.
    const bytes = readFileSync(coded);
    const block = bytes.indexOf(Buffer.from([0x81, 0x00, 0x00, 0x80]));
    expect(block).toBeGreaterThan(0);
    bytes[block + 3] = 0x82;
    writeFileSync(path('laced.mkv'), bytes);
    expect(indexFromBlocks(path('laced.mkv'), video!)).toBeUndefined();
  });

  test('whatever is wrong with a file, an answer comes, and none that has a frame beyond its end', async () => {
    const { video } = await probe(coded);
    const whole = readFileSync(coded);
    const file = path('broken.mkv');
    let answers = 0;
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 1, max: whole.length }),
        (changes, length) => {
          const bytes = Buffer.from(whole.subarray(0, length));
          for (const [at, value] of changes) if (at < length) bytes[at] = value;
          writeFileSync(file, bytes);
          const found = indexFromBlocks(file, video!);
          if (!found) return;
          answers++;
          expect(found.packets.reduce((sum, packet) => sum + packet.bytes, 0)).toBeLessThan(length);
        },
      ),
      { numRuns: 300, examples: [[[[whole.length - 1, whole.at(-1)!]], whole.length]] },
    );
    expect(answers).toBeGreaterThan(0);
  });
});
