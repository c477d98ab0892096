import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { highRangeOf } from '@idle-bend/core/colour';
import { appendClip, addSource } from '@idle-bend/core/edit';
import { emptyProject, type Project } from '@idle-bend/core/model';
import { rate } from '@idle-bend/core/time';
import { joinPieces, writePieces } from '../encode/proxy-pieces.js';
import { openSource } from '../probe/source.js';
import { writeStill } from '../encode/still.js';
import { writeReel } from '../encode/write-reel.js';

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'idle-bend-range-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);

function ffmpeg(...args: string[]): void {
  const { status, stderr } = spawnSync('ffmpeg', ['-v', 'error', '-y', ...args]);
  if (status !== 0) throw new Error(stderr.toString());
}
const facts = (file: string) =>
  JSON.parse(spawnSync('ffprobe', ['-v', 'error', '-of', 'json', '-show_streams', file]).stdout.toString())
    .streams[0] as Record<string, string>;
/** Mean luma of a file's first picture, as an 8-bit level. */
const brightness = (file: string) => {
  const { stdout } = spawnSync('ffmpeg', [
    '-v',
    'error',
    '-i',
    file,
    '-frames:v',
    '1',
    '-pix_fmt',
    'gray',
    '-f',
    'rawvideo',
    'pipe:1',
  ]);
  return stdout.reduce((a, b) => a + b, 0) / stdout.length;
};
const TAGS = { pq: 'smpte2084', hlg: 'arib-std-b67' } as const;

/** A plain grey of a 10-bit code, tagged as high dynamic range. */
function grey(kind: keyof typeof TAGS, code: number): string {
  const file = at(`${kind}-${code}.mkv`);
  const tags = [
    '-color_range',
    'tv',
    '-colorspace',
    'bt2020nc',
    '-color_primaries',
    'bt2020',
    '-color_trc',
    TAGS[kind],
  ];
  const level = (code / 1023).toFixed(6);
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    'color=black:s=192x108:r=24:d=0.5',
    '-vf',
    `format=yuv420p10le,geq=lum=${level}*1023:cb=512:cr=512,setparams=range=tv:colorspace=bt2020nc:color_primaries=bt2020:color_trc=${TAGS[kind]}`,
    '-c:v',
    'ffv1',
    ...tags,
    file,
  );
  return file;
}

function reelOf(frames: number): Project {
  const source = {
    id: 's',
    name: 'marble',
    frames,
    nativeRate: rate(24),
    readAs: rate(24),
    moments: [],
    droppedRepeats: null,
  };
  const project = addSource(emptyProject(rate(24), 192, 108), source);
  return appendClip(project, 'c', 's');
}

describe('high dynamic range', () => {
  test.each(['pq', 'hlg'] as const)(
    '%s: known by its tags, tone-mapped in proxy and still, brighter code brighter picture',
    async (kind) => {
      const levels: number[] = [];
      for (const code of [300, 450, 600, 750]) {
        const source = await openSource(grey(kind, code));
        expect(highRangeOf(source.facts.video!.format.colour)).toBe(kind);
        await writePieces(source, at('pieces'), { from: 0, onFrame: () => undefined });
        await joinPieces(source, at('pieces'), at('proxy.mp4'));
        expect(facts(at('proxy.mp4'))).toMatchObject({
          pix_fmt: 'yuv420p',
          color_transfer: 'bt709',
          color_primaries: 'bt709',
          color_space: 'bt709',
        });
        levels.push(brightness(at('proxy.mp4')));
      }
      expect(levels).toEqual(levels.toSorted((a, b) => a - b));
      expect(new Set(levels.map(Math.round)).size).toBe(4);
      expect(
        (await writeStill(await openSource(grey(kind, 600)), { kind: 'source', frame: 0 })).subarray(1, 4).toString(),
      ).toBe('PNG');
    },
  );

  test('a render keeps tags, depth and every level, or converts when asked', async () => {
    const source = await openSource(grey('pq', 520));
    const project = reelOf(source.index.grid.frames);
    await writeReel(project, () => Promise.resolve(source), at('kept.mkv'), { muxer: 'matroska', codec: 'ffv1' });
    expect(facts(at('kept.mkv'))).toMatchObject({
      pix_fmt: 'yuv420p10le',
      color_transfer: 'smpte2084',
      color_primaries: 'bt2020',
      color_space: 'bt2020nc',
    });
    const planes = (file: string) =>
      spawnSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 'rawvideo', 'pipe:1']).stdout;
    expect(planes(at('kept.mkv')).equals(planes(grey('pq', 520)))).toBe(true);
    await writeReel(project, () => Promise.resolve(source), at('kept.mp4'), { muxer: 'mp4', codec: 'h264' });
    expect(facts(at('kept.mp4'))).toMatchObject({ pix_fmt: 'yuv420p10le', color_transfer: 'smpte2084' });
    await writeReel(
      project,
      () => Promise.resolve(source),
      at('standard.mp4'),
      { muxer: 'mp4', codec: 'h264' },
      { toneMap: true },
    );
    expect(facts(at('standard.mp4'))).toMatchObject({
      color_transfer: 'bt709',
      color_primaries: 'bt709',
      color_space: 'bt709',
    });
  });
});

describe('transparency', () => {
  test('is carried by a lossless render and refused in a sentence where it would be lost', async () => {
    ffmpeg(
      '-f',
      'lavfi',
      '-i',
      'testsrc2=s=192x108:r=24:d=0.5',
      '-vf',
      'format=yuva444p,geq=lum=lum(X\\,Y):cb=128:cr=128:a=X',
      '-c:v',
      'ffv1',
      at('clear.mkv'),
    );
    const source = await openSource(at('clear.mkv'));
    const project = reelOf(source.index.grid.frames);
    await writeReel(project, () => Promise.resolve(source), at('carried.mkv'), { muxer: 'matroska', codec: 'ffv1' });
    const alpha = (file: string) =>
      spawnSync('ffmpeg', [
        '-v',
        'error',
        '-i',
        file,
        '-vf',
        'alphaextract',
        '-pix_fmt',
        'gray',
        '-f',
        'rawvideo',
        'pipe:1',
      ]).stdout;
    expect(alpha(at('carried.mkv')).equals(alpha(at('clear.mkv')))).toBe(true);
    const lossy = writeReel(project, () => Promise.resolve(source), at('lost.mp4'), { muxer: 'mp4', codec: 'h264' });
    await expect(lossy).rejects.toThrow('clear.mkv has transparency: h264 cannot carry it; render lossless (MKV).');
  });
});
