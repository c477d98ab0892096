import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { addSound, addSource, appendClip, insertGap } from '@idle-bend/core/edit';
import { piecesOf } from '@idle-bend/core/exchange';
import { emptyProject, parseProject, type Project } from '@idle-bend/core/model';
import { rate } from '@idle-bend/core/time';
import { H264, makeNumberedClip, readNumbers } from '../../../packages/media/test/numbered-clip.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-files-'));
const at = (...names: string[]) => join(folder, ...names);
const run = (...args: string[]) =>
  spawnSync(process.execPath, ['bin/idle-bend', ...args], {
    encoding: 'utf8',
    env: { ...process.env, NODE_OPTIONS: '' },
  });
const hash = (file: string) => createHash('sha256').update(readFileSync(file)).digest('hex');

/** bell 0–119 at double speed (60 frames), 6 of black, boat 10–49; a tone under it. */
function parade(): Project {
  const source = (id: string, name: string, frames: number, fps: number) => ({
    id,
    name,
    frames,
    nativeRate: rate(fps),
    readAs: rate(fps),
    moments: [],
    droppedRepeats: null,
  });
  const both = addSource(
    addSource(emptyProject(rate(24), 320, 192), source('1', 'marble-bell', 120, 48)),
    source('2', 'paper boat', 60, 24),
  );
  const clips = insertGap(appendClip(appendClip(both, 'a', '1', 0, 119), 'b', '2', 10, 49), 1, 'gap', 6);
  return addSound(clips, {
    id: 's',
    footageId: '3',
    name: 'a tone',
    startSeconds: 0,
    fromSeconds: 0,
    toSeconds: 4,
    gainDb: 0,
    fadeInSeconds: 0,
    fadeOutSeconds: 0,
    beats: null,
  });
}
const SHOWN = [
  ...Array.from({ length: 60 }, (_, k) => 2 * k),
  0,
  0,
  0,
  0,
  0,
  0,
  ...Array.from({ length: 40 }, (_, k) => 510 + k),
];

beforeAll(async () => {
  mkdirSync(at('media'));
  await makeNumberedClip({ file: at('media', 'marble-bell.mp4'), frames: 120, rate: '48', options: H264 });
  await makeNumberedClip({
    file: at('media', 'paper-boat.mov'),
    frames: 60,
    rate: '24',
    options: H264,
    numberOf: (n) => n + 500,
  });
  spawnSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'sine=duration=5', at('media', 'a tone.wav')]);
  writeFileSync(at('parade.json'), JSON.stringify(parade()));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('idle-bend render', () => {
  test('a document with its media, known by their names: every frame, and the sound', () => {
    expect(
      run('render', at('parade.json'), '-o', at('parade.mp4'), '--media', at('media'), '--timecode', 'reel'),
    ).toMatchObject({ status: 0, stdout: `${at('parade.mp4')}: 106 frames at 24 fps\n` });
    expect(readNumbers(at('parade.mp4'))).toEqual(SHOWN);
    const { stdout } = spawnSync(
      'ffprobe',
      [
        '-v',
        'error',
        '-show_entries',
        'stream=codec_name:format_tags=timecode:stream_tags=timecode',
        '-of',
        'csv=p=0',
        at('parade.mp4'),
      ],
      { encoding: 'utf8' },
    );
    expect(stdout).toMatch(/h264[\s\S]*aac[\s\S]*01:00:00:00/);
    expect(readdirSync(folder).filter((name) => name.startsWith('.'))).toEqual([]);
  });

  test('a range, in another format and size; numbered pictures, in a folder or an archive', () => {
    expect(
      run('render', at('parade.json'), '-o', at('part.mkv'), '--media', at('media'), '--range', '50-79').status,
    ).toBe(0);
    expect(readNumbers(at('part.mkv'))).toEqual(SHOWN.slice(50, 80));
    expect(
      run(
        'render',
        at('parade.json'),
        '-o',
        at('frames', '%05d.png'),
        '--media',
        at('media'),
        '--range',
        '50-55',
        '--size',
        '160x96',
      ).status,
    ).toBe(0);
    expect(readNumbers(at('frames', '%05d.png'))).toEqual(SHOWN.slice(50, 56));
    expect(
      run(
        'render',
        at('parade.json'),
        '-o',
        at('part.zip'),
        '--media',
        at('media'),
        '--range',
        '50-55',
        '--format',
        'tiff',
      ).status,
    ).toBe(0);
    expect(readFileSync(at('part.zip')).toString('latin1')).toContain('00000005.tiff');
  });

  test.each([
    [['parade.json', '-o', 'x.mp4'], 1, /The file of "marble-bell" is not there; name its folder with --media/],
    [['parade.json', '-o', 'x.flv'], 2, /-o: .*x\.flv ends in none of/],
    [['parade.json', '-o', 'x.mp4', '--format', 'ffv1'], 2, /--format ffv1 is written as \.mkv/],
    [['parade.json', '-o', 'x.mp4', '--range', '90-200'], 2, /--range: the reel has frames 0 to 105/],
    [['nowhere.json', '-o', 'x.mp4'], 1, /nowhere\.json: cannot be read/],
  ])('says what is wrong: %j', (args, status, message) => {
    const result = run('render', ...args.map((arg) => (/\.(json|mp4|flv)$/.test(arg) ? at(arg) : arg)));
    expect(result.stderr).toMatch(message);
    expect(result.status).toBe(status);
  });
});

describe('bundles', () => {
  test('made of a document and its media, they render the same by themselves, and come apart into the same again', () => {
    expect(
      run('export', at('parade.json'), '--as', 'bundle', '-o', at('parade.zip'), '--media', at('media')),
    ).toMatchObject({ status: 0, stderr: '' });
    expect(run('render', at('parade.zip'), '-o', at('bundle.mkv')).status).toBe(0);
    expect(run('render', at('parade.json'), '-o', at('document.mkv'), '--media', at('media')).status).toBe(0);
    expect(hash(at('bundle.mkv'))).toBe(hash(at('document.mkv')));
    expect(run('import', at('parade.zip'), '-o', at('again.json'), '--media', at('unpacked'))).toMatchObject({
      status: 1,
      stderr: expect.stringMatching(/ENOENT|no such file/),
    });
    mkdirSync(at('unpacked'));
    expect(run('import', at('parade.zip'), '-o', at('again.json'), '--media', at('unpacked')).status).toBe(0);
    expect(JSON.parse(readFileSync(at('again.json'), 'utf8'))).toEqual(parade());
    for (const name of readdirSync(at('media'))) expect(hash(at('unpacked', name))).toBe(hash(at('media', name)));
  });

  test('the sound alone', () => {
    expect(run('export', at('parade.json'), '--as', 'wav', '-o', at('parade.wav'), '--media', at('media')).status).toBe(
      0,
    );
    const { stdout } = spawnSync(
      'ffprobe',
      ['-v', 'error', '-show_entries', 'stream=codec_name,duration', '-of', 'csv=p=0', at('parade.wav')],
      {
        encoding: 'utf8',
      },
    );
    expect(stdout.trim()).toBe('pcm_s24le,4.416667');
  });
});

describe('timelines of other tools', () => {
  test.each(['edl', 'otio'])('%s handed over and taken in again, with the media of a folder', (as) => {
    expect(run('export', at('parade.json'), '--as', as, '-o', at(`parade.${as}`), '--media', at('media')).status).toBe(
      0,
    );
    if (as === 'otio') {
      const timeline = JSON.parse(readFileSync(at('parade.otio'), 'utf8'));
      writeFileSync(at('parade.otio'), JSON.stringify({ ...timeline, metadata: {} }));
    }
    expect(
      run(
        'import',
        at(`parade.${as}`),
        '-o',
        at('taken.json'),
        '--media',
        at('media'),
        ...(as === 'edl' ? ['--fps', '24'] : []),
      ),
    ).toMatchObject({ status: 0, stderr: as === 'otio' ? '1 sound track is left out.\n' : '' });
    const taken = parseProject(JSON.parse(readFileSync(at('taken.json'), 'utf8')));
    const said = (project: Project) =>
      piecesOf(project).map(({ from, to, of }) => [
        from,
        to,
        of && Math.round(of.start),
        of && Math.round(100 * of.speed),
      ]);
    expect(said(taken)).toEqual(said(parade()));
  });
});
