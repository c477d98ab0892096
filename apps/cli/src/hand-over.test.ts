import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { putAccents } from '@idle-bend/core/accent';
import { addCue, addSource, appendClip, updateClip, withMap } from '@idle-bend/core/edit';
import { groupItems } from '@idle-bend/core/group';
import { emptyProject, type Project } from '@idle-bend/core/model';
import { rate } from '@idle-bend/core/time';
import type { Ease } from '@idle-bend/core/time-map';
import { placesInEdl, placesInOtio, rowsOfMap } from '../../../packages/core/test/hand-over-readers.js';
import { H264, makeNumberedClip, readNumbers } from '../../../packages/media/test/numbered-clip.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-hand-over-'));
const at = (...names: string[]) => join(folder, ...names);
const env = { ...process.env, NODE_OPTIONS: '' };
const run = (args: readonly string[], input?: string | Buffer) =>
  spawnSync(process.execPath, ['bin/idle-bend', ...args], {
    encoding: 'utf8',
    env,
    ...(input !== undefined && { input }),
  });

const SOFT: Ease = 'soft';
const bends = (...widths: number[]) => widths.map((widthFrames) => ({ widthFrames, ease: SOFT }));

/** Everything at once: a bend, a group bent as one, closed-up repeats, an end that loops, a stutter, reverse. */
function everything(): Project {
  const source = (id: string, name: string, frames: number, fps: number) => ({
    id,
    name,
    frames,
    nativeRate: rate(fps),
    readAs: rate(fps),
    moments: [],
    droppedRepeats: null,
  });
  const sources = [
    source('1', 'marble-bell', 240, 120),
    { ...source('2', 'paper-boat', 60, 24), droppedRepeats: { mode: 'close' as const, repeats: [5, 6, 20] } },
  ];
  let project = sources.reduce(addSource, emptyProject(rate(24), 320, 192));
  project = appendClip(appendClip(appendClip(project, 'a', '1', 0, 239), 'b', '2', 0, 40), 'c', '1', 0, 100);
  project = updateClip(project, 'a', (c) =>
    withMap(c, {
      vertices: [
        { t: 0, s: 0 },
        { t: 12, s: 60 },
        { t: 40, s: 90 },
      ],
      bends: bends(0, 10, 0),
    }),
  );
  project = updateClip(project, 'b', (c) => ({
    ...withMap(c, {
      vertices: [
        { t: 0, s: 40 },
        { t: 40, s: 80 },
      ],
      bends: bends(0, 0),
    }),
    end: 'loop' as const,
  }));
  project = updateClip(project, 'c', (c) =>
    withMap(c, {
      vertices: [
        { t: 0, s: 200 },
        { t: 30, s: 50 },
      ],
      bends: bends(0, 0),
    }),
  );
  project = groupItems(project, ['a', 'b'], { clipId: 'g', sourceId: 'gs', name: 'bound' });
  project = updateClip(project, 'g', (c) =>
    withMap(c, {
      vertices: [
        { t: 0, s: 0 },
        { t: 30, s: 45 },
        { t: 60, s: 79 },
      ],
      bends: bends(0, 8, 0),
    }),
  );
  project = addCue(project, { id: 'q', frame: 20, name: 'bell' });
  return putAccents(project, {
    id: 's',
    name: 'stutter',
    look: { kind: 'stutter', frames: 3 },
    strength: 1,
    on: { kind: 'cues', cueIds: ['q'] },
  });
}

let shown: number[];
beforeAll(async () => {
  mkdirSync(at('media'));
  await makeNumberedClip({ file: at('media', 'marble-bell.mp4'), frames: 240, rate: '120', options: H264 });
  await makeNumberedClip({
    file: at('media', 'paper-boat.mov'),
    frames: 60,
    rate: '24',
    options: H264,
    numberOf: (n) => n + 500,
  });
  writeFileSync(at('all.json'), JSON.stringify(everything()));
  expect(run(['render', at('all.json'), '-o', at('all.mkv'), '--media', at('media')])).toMatchObject({ status: 0 });
  shown = readNumbers(at('all.mkv'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** The number a frame of a source carries. */
const numberOf = (source: string, frame: number) => frame + (source === 'paper-boat' ? 500 : 0);

describe('hand-over files against the render of the same reel', () => {
  test('the frame map has the number every frame of the file carries', () => {
    expect(run(['export', at('all.json'), '--as', 'csv', '-o', at('all.csv')]).status).toBe(0);
    const rows = rowsOfMap(readFileSync(at('all.csv'), 'utf8'));
    expect(rows.map((row) => numberOf(row[2]!, Number(row[4])))).toEqual(shown);
  });

  test('OpenTimelineIO is within a frame of what is rendered: half of its own, and what Step takes off', () => {
    expect(run(['export', at('all.json'), '--as', 'otio', '-o', at('all.otio')]).status).toBe(0);
    const places = placesInOtio(JSON.parse(readFileSync(at('all.otio'), 'utf8')));
    expect(places).toHaveLength(shown.length);
    places.forEach((place, k) => {
      const off = numberOf(place!.source, place!.at) - shown[k]!;
      expect(off).toBeGreaterThanOrEqual(-0.5 - 1e-6);
      // Frames that repeat the one before show the same.
      expect(off).toBeLessThan(place!.source === 'paper-boat' ? 3.5 : 1.5);
    });
  });

  test('the edit decision list is within half a frame of the reel, and what Step takes off', () => {
    expect(run(['export', at('all.json'), '--as', 'edl', '-o', at('all.edl')]).status).toBe(0);
    const places = placesInEdl([readFileSync(at('all.edl'), 'utf8')], 24, 24);
    expect(places).toHaveLength(shown.length);
    places.forEach((place, k) => {
      const perFrame = place!.source === 'paper-boat' ? 1 : 5;
      const off = numberOf(place!.source, place!.at * perFrame) - shown[k]!;
      expect(off).toBeGreaterThanOrEqual(-0.5 * perFrame - 1e-6);
      expect(off).toBeLessThan(0.5 * perFrame + (place!.source === 'paper-boat' ? 3 : 1));
    });
  });

  test('footage with a timecode: labels count as its own do unless it is said, times begin there, files are named in full', () => {
    mkdirSync(at('tape'));
    const picture = ['-f', 'lavfi', '-i', 'testsrc2=size=320x192:rate=60000/1001', '-frames:v', '60'];
    const made = spawnSync('ffmpeg', [...picture, '-timecode', '00:59:58;00', ...H264, at('tape', 'dominoes.mov')]);
    expect(made.status).toBe(0);
    const fast = rate(60000, 1001);
    const source = { id: '1', name: 'dominoes', frames: 60, nativeRate: fast, readAs: fast };
    const empty = addSource(emptyProject(rate(30000, 1001), 320, 192), {
      ...source,
      moments: [],
      droppedRepeats: null,
    });
    writeFileSync(at('tape.json'), JSON.stringify(appendClip(empty, 'a', '1', 20, 59)));
    const exported = (as: string, ...more: string[]) =>
      run(['export', at('tape.json'), '--as', as, '-o', '-', '--media', at('tape'), ...more]);
    // Ten frames of the list after 00:59:58;00, and what 215 664 + 20 frames of 59.94 are when every one is counted.
    const dropped = exported('edl').stdout;
    expect(dropped).toMatch(/^TITLE.*\r\nFCM: DROP FRAME\r\n[\s\S]* 00:59:58;10 00:59:59;00 01:00:00;00 01:00:00;20/);
    expect(dropped).toContain('* SOURCE FILE: dominoes.mov');
    expect(exported('edl', '--drop').stdout).toBe(dropped);
    expect(exported('edl', '--no-drop').stdout).toMatch(
      /FCM: NON-DROP FRAME[\s\S]* 00:59:54:22 00:59:55:12 01:00:00:00/,
    );
    expect(exported('edl', '--drop', '--no-drop').status).toBe(2);
    const [clip] = JSON.parse(exported('otio').stdout).tracks.children[0].children;
    expect(clip.media_reference.available_range.start_time.value).toBe(215_664);
    expect(clip.source_range.start_time.value).toBe(215_664 + 20);
  });
});

describe('the command line as a whole', () => {
  test('tells its version, and a command’s help both ways', () => {
    expect(run(['--version'])).toMatchObject({ status: 0, stdout: expect.stringMatching(/^\d+\.\d+\.\d+\n$/) });
    expect(run(['help', 'retime']).stdout).toBe(run(['retime', '--help']).stdout);
    expect(run(['help', 'melt']).status).toBe(2);
  });

  test.each([
    ['retime'],
    ['retime', 'x', '--speed', 'fast', '-o', 'y.mp4'],
    ['map', '--speed', '40'],
    ['melt'],
    ['export', 'x'],
    ['cues', 'x'],
    ['completion', 'csh'],
    ['inspect', '--loud', 'x'],
    ['land', 'x', 'y'],
    [],
  ])('wrong usage is exit code 2: %j', (...args) => expect(run(args).status).toBe(2));

  test('completes its commands and options', () => {
    for (const shell of ['bash', 'zsh', 'fish'])
      expect(run(['completion', shell]).stdout).toMatch(/retime[\s\S]*shutter/);
    const completed = spawnSync(
      'bash',
      [
        '-c',
        `eval "$(${process.execPath} bin/idle-bend completion bash)"; COMP_WORDS=(idle-bend retime --sh) COMP_CWORD=2; _idle_bend; echo "\${COMPREPLY[@]}"`,
      ],
      { encoding: 'utf8', env },
    );
    expect(completed.stdout.trim()).toBe('--shutter');
  });

  test('cues go through the pipe: out of a project, from one kind to another, and into a project', () => {
    const vtt = run(['cues', at('all.json'), '--as', 'vtt', '-o', '-']);
    expect(vtt.stdout).toMatch(/^WEBVTT[\s\S]*00:00:00\.833 --> [\s\S]*bell/);
    expect(run(['cues', '-', '--as', 'csv', '-o', '-'], vtt.stdout).stdout).toMatch(/0\.833,[\d.]+,bell/);
    const into = run(['import', '-', '--project', at('all.json'), '-o', '-'], 'seconds,name\n1.5,drum\n');
    expect((JSON.parse(into.stdout) as Project).reel.cues).toMatchObject([{ frame: 20 }, { frame: 36, name: 'drum' }]);
    expect(run(['import', at('x.csv'), '-o', at('x.json')]).status).toBe(2);
    writeFileSync(
      at('map.json'),
      JSON.stringify({
        version: 1,
        sourceRate: '120',
        timelineRate: '24',
        vertices: [
          [0, 0],
          [10, 20],
        ],
        bends: [],
      }),
    );
    expect(run(['map', '--map', '-', '--count', '3'], readFileSync(at('map.json'))).stdout).toBe(
      'frame,source,speed,made\n0,0,0.4,false\n1,2,0.4,false\n2,4,0.4,false\n',
    );
  });

  test.each([
    [
      'retime',
      [
        at('media', 'marble-bell.mp4'),
        '-o',
        at('out', 'a.mp4'),
        '--speed',
        '5',
        '--frames',
        'flow',
        '--level',
        'quick',
      ],
    ],
    ['render', [at('all.json'), '-o', at('out', 'b.mkv'), '--media', at('media'), '--size', '2560x1536']],
  ])('%s that is interrupted leaves nothing behind, and says so with 130', async (command, args) => {
    mkdirSync(at('out'), { recursive: true });
    const child = spawn(process.execPath, ['bin/idle-bend', command, ...args], {
      env,
      stdio: ['ignore', 'ignore', 'pipe'],
    });
    const ended = new Promise<number | null>((resolve) => child.once('close', resolve));
    const end = Date.now() + 60_000;
    while (readdirSync(at('out')).length === 0 && Date.now() < end)
      await new Promise((resolve) => setTimeout(resolve, 20));
    expect(readdirSync(at('out')).length).toBeGreaterThan(0);
    child.kill('SIGINT');
    expect(await ended).toBe(130);
    expect(readdirSync(at('out'))).toEqual([]);
  });
});
