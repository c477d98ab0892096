import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { H264, makeNumberedClip } from '../../test/numbered-clip.js';
import { listedByReading } from '../../test/listed-by-reading.js';
import { indexFrames } from './frame-index.js';
import { indexFromHeaders } from './header-index.js';
import { probe } from './probe.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-headers-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);
const path = (name: string) => join(folder, name);

const coded = await makeNumberedClip({
  file: path('rail.mp4'),
  frames: 150,
  rate: '60',
  options: [...H264, '-bf', '3', '-g', '25', '-x264-params', 'open-gop=1'],
});
const copied = (name: string, ...options: string[]) => {
  ffmpeg('-i', coded, '-c', 'copy', ...options, path(name));
  return path(name);
};
const withSound = (name: string, ...options: string[]) => {
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    'sine=duration=2',
    '-i',
    coded,
    '-map',
    '0',
    '-map',
    '1',
    '-c:v',
    'copy',
    ...options,
    path(name),
  );
  return path(name);
};

const FILES: readonly (readonly [string, () => string])[] = [
  ['its index behind the pictures', () => coded],
  ['its index before them', () => copied('front.mp4', '-movflags', '+faststart')],
  ['QuickTime', () => copied('rail.mov')],
  ['fragments', () => copied('parts.mp4', '-movflags', '+frag_keyframe+empty_moov')],
  ['fragments of its first frames in the movie box', () => copied('mixed.mp4', '-movflags', '+frag_keyframe')],
  ['fragments with an index each', () => copied('indexed.mp4', '-movflags', '+dash+frag_keyframe')],
  ['negative offsets', () => copied('negative.mp4', '-movflags', '+negative_cts_offsets')],
  [
    'an edit that begins amid a group',
    () => {
      ffmpeg('-ss', '1.13', '-i', coded, '-c', 'copy', path('begun.mp4'));
      return path('begun.mp4');
    },
  ],
  ['no edit list', () => copied('none.mp4', '-use_editlist', '0')],
  ['sound first, and a timecode', () => withSound('take.mov', '-timecode', '01:00:00:00')],
  [
    'a late picture',
    () => {
      ffmpeg(
        '-f',
        'lavfi',
        '-i',
        'sine=duration=3',
        '-itsoffset',
        '0.5',
        '-i',
        coded,
        '-map',
        '0',
        '-map',
        '1',
        '-c:v',
        'copy',
        path('late.mp4'),
      );
      return path('late.mp4');
    },
  ],
  [
    'key frames alone',
    () => {
      ffmpeg('-i', coded, '-an', '-c:v', 'prores_ks', '-profile:v', '0', path('keys.mov'));
      return path('keys.mov');
    },
  ],
  [
    'a rate of 1001',
    () => {
      ffmpeg('-r', '30000/1001', '-i', coded, '-c:v', 'libx264', '-preset', 'ultrafast', '-bf', '2', path('drop.mp4'));
      return path('drop.mp4');
    },
  ],
  [
    'HEVC with leading pictures',
    () => {
      ffmpeg(
        '-i',
        coded,
        '-c:v',
        'libx265',
        '-preset',
        'ultrafast',
        '-x265-params',
        'log-level=none:open-gop=1:keyint=20',
        '-tag:v',
        'hvc1',
        path('hevc.mp4'),
      );
      return path('hevc.mp4');
    },
  ],
  [
    'a varying rate',
    () => {
      ffmpeg(
        '-i',
        coded,
        '-vf',
        "select='mod(n,7)'",
        '-fps_mode',
        'vfr',
        '-c:v',
        'libx264',
        '-preset',
        'ultrafast',
        path('varying.mp4'),
      );
      return path('varying.mp4');
    },
  ],
];

describe('the frames of a file from its headers', () => {
  test.each(FILES)('are those that reading all of it lists: %s', async (_, make) => {
    const file = make();
    const facts = await probe(file);
    const found = await indexFromHeaders(file, facts);
    expect(found?.packets).toEqual(listedByReading(file, facts.video!.stream));
    expect(found!.packets.length).toBeGreaterThan(80);
  });

  test('take a few bytes of a long file', async () => {
    const list = path('list.txt');
    writeFileSync(list, `file '${coded}'\n`.repeat(40));
    ffmpeg('-f', 'concat', '-safe', '0', '-i', list, '-c', 'copy', path('long.mp4'));
    const facts = await probe(path('long.mp4'));
    const { packets, bytesRead } = (await indexFromHeaders(path('long.mp4'), facts))!;
    expect(packets).toHaveLength(6000);
    expect(bytesRead).toBeLessThan(16 * packets.length + 4000);
    expect(bytesRead).toBeLessThan(0.2 * statSync(path('long.mp4')).size);
  });

  test('other containers, and files cut short, are left to those who read all', async () => {
    ffmpeg('-i', coded, '-c', 'copy', path('rail.mkv'));
    expect(await indexFromHeaders(path('rail.mkv'), await probe(path('rail.mkv')))).toBeUndefined();
    const front = copied('short.mp4', '-movflags', '+faststart');
    const facts = await probe(front);
    truncateSync(front, Math.round(statSync(front).size * 0.6));
    expect(await indexFromHeaders(front, facts)).toBeUndefined();
    await expect(indexFrames(front, facts)).rejects.toThrow(/short\.mp4 is cut short/);
  });

  test('several edits of one track, or tables that lie, are too', async () => {
    const facts = await probe(coded);
    const bytes = readFileSync(coded);
    const at = bytes.indexOf('elst');
    const two = path('two.mp4');
    // One more edit in the same box says it is longer than its box: no table to be believed.
    writeFileSync(two, Buffer.concat([bytes.subarray(0, at + 8), Buffer.from([0, 0, 0, 2]), bytes.subarray(at + 12)]));
    expect(await indexFromHeaders(two, facts)).toBeUndefined();
    const still = path('still.mp4');
    const frozen = Buffer.from(bytes);
    // An edit at half speed.
    frozen.writeUInt16BE(0, at + 20);
    frozen.writeUInt16BE(0x8000, at + 22);
    writeFileSync(still, frozen);
    expect(await indexFromHeaders(still, facts)).toBeUndefined();
  });
});
