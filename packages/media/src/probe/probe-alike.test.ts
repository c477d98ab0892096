import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { readTables } from './header-index.js';
import { AlikeProbe } from './probe-alike.js';
import { probe } from './probe.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-alike-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const path = (name: string) => join(folder, name);
const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);

let films = 0;

/** Films of one camera, so many seconds each. */
function card(ending: string, lengths: readonly number[], ...options: readonly string[]): string[] {
  return lengths.map((seconds, i) => {
    const file = path(`film-${films++}.${ending}`);
    const picture = ['-f', 'lavfi', '-i', `testsrc2=size=320x180:rate=60,hue=h=${40 * i}`];
    const sound = ['-f', 'lavfi', '-i', `sine=frequency=${200 + 100 * i}:sample_rate=48000`];
    const coding = ['-t', String(seconds), '-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p'];
    ffmpeg(...picture, ...sound, ...coding, ...options, file);
    return file;
  });
}

/** A film of 60 fps with a timecode that counts at 30. */
function countingPairs(film: string, i: number): string {
  const [clock, pairs] = [path(`clock-${i}.mov`), path(`pairs-${i}.mov`)];
  ffmpeg('-f', 'lavfi', '-i', 'testsrc2=size=64x64:rate=30:duration=1', '-timecode', `10:00:0${i}:15`, clock);
  const tracks = ['-map', '0:v', '-map', '0:a', '-map', '1:d', '-c', 'copy', '-copy_unknown'];
  ffmpeg('-i', film, '-i', clock, ...tracks, pairs);
  return pairs;
}

const LENGTHS = [2.5, 3.1, 0.6, 4];
/** Which of the others differ from the first in more than their lengths, and so are asked about. */
const CARDS: readonly (readonly [string, () => string[], number])[] = [
  ['MP4', () => card('mp4', LENGTHS, '-bf', '2'), 1],
  [
    'QuickTime with timecodes',
    () => [
      ...card('mov', [2.5, 3.1], '-timecode', '01:00:00:00', '-c:a', 'pcm_s16le'),
      ...card('mov', [4], '-timecode', '10:59:58:31', '-c:a', 'pcm_s16le'),
    ],
    1,
  ],
  [
    'drop-frame timecodes',
    () => [
      ...card('mov', [5], '-r', '30000/1001', '-timecode', '00:00:59;28'),
      ...card('mov', [4.5], '-r', '30000/1001', '-timecode', '01:10:00;02'),
    ],
    1,
  ],
  ['timecodes that count pairs of frames', () => card('mp4', [2.5, 3.1]).map(countingPairs), 1],
  [
    'turned and late',
    () => {
      const films = card('mp4', [2.5, 3.1], '-map', '0:v');
      return films.map((film, i) => {
        const turned = path(`turned-${i}.mp4`);
        ffmpeg('-itsoffset', '0.4', '-i', film, '-c', 'copy', '-metadata:s:v', 'rotate=90', turned);
        return turned;
      });
    },
    1,
  ],
  [
    'another rate, size, range or sound',
    () => [
      ...card('mp4', [2.5], '-bf', '2'),
      ...card('mp4', [2.5], '-bf', '2', '-r', '50'),
      ...card('mp4', [2.5], '-bf', '2', '-vf', 'scale=352:180'),
      ...card('mp4', [2.5], '-bf', '2', '-color_range', 'pc', '-colorspace', 'bt709'),
      ...card('mp4', [2.5], '-bf', '2', '-ac', '2', '-ar', '44100'),
    ],
    5,
  ],
  [
    'short ones, fragments, other containers',
    () => [
      ...card('mp4', [0.3, 0.4]),
      ...card('mp4', [2.5, 3.1], '-movflags', '+frag_keyframe+empty_moov'),
      ...card('mkv', [2.5, 3.1]),
    ],
    6,
  ],
  ['interlaced', () => card('mp4', [2.5, 3.1], '-flags', '+ilme+ildct', '-x264-params', 'tff=1'), 2],
];

describe('facts of many files', () => {
  test.each(CARDS)('are those of each, by as few questions as it takes: %s', async (_, make, questions) => {
    const alike = new AlikeProbe();
    for (const file of make()) {
      const name = file.slice(folder.length + 1);
      expect(await alike.probe(file, name, readTables(file))).toEqual(await probe(file, name));
    }
    expect(alike.asked).toBe(questions);
  });

  test('a start timecode that counts pairs of frames is said in single ones', async () => {
    const [film] = card('mp4', [2.5]);
    expect(await probe(countingPairs(film!, 7), 'pairs.mov')).toMatchObject({ startTimecode: '10:00:07:30' });
  });

  test('a file that is no footage is refused, as it is when it is asked about alone', async () => {
    ffmpeg('-f', 'lavfi', '-i', 'color=black:size=32x32', '-frames:v', '1', path('still.png'));
    const alike = new AlikeProbe();
    const file = path('still.png');
    await expect(alike.probe(file, 'still.png', readTables(file))).rejects.toThrow('still.png');
  });
});
