import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { parseMapFile, positionAt } from '@idle-bend/core/time-map';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-land-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const file = (name: string, content: unknown) => {
  writeFileSync(join(folder, name), JSON.stringify(content));
  return join(folder, name);
};
const BELL = {
  version: 1,
  sourceRate: '120',
  timelineRate: '24',
  vertices: [
    [0, 0],
    [30, 150],
    [86, 206],
    [128.8, 420],
  ],
  bends: [{ at: 1, width: 14, ease: 'soft' }],
};
const run = (landings: unknown, ...options: string[]) => {
  const args = [
    'bin/idle-bend',
    'land',
    '--map',
    file('map.json', BELL),
    '--landings',
    file('landings.json', landings),
    ...options,
  ];
  const { status, stdout, stderr } = spawnSync(process.execPath, args, {
    encoding: 'utf8',
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  return { status, stderr, answer: stdout ? JSON.parse(stdout) : undefined };
};

describe('idle-bend land', () => {
  test('moves the places where speeds change: every speed stays, and nearly every frame is real', () => {
    const { status, answer } = run([{ moment: 184, cue: 70 }]);
    expect(status).toBe(0);
    expect(answer.landings.map((l: any) => l.drift)).toEqual([0]);
    expect(answer.reaches.map(({ speed, clean }: any) => [Number(speed.toFixed(9)), clean])).toEqual([
      [1, true],
      [0.2, true],
      [1, true],
    ]);
    expect(answer.change).toBe('places');
    const { before, after, of } = answer.real;
    expect([of, after >= 0.9 * before]).toEqual([129, true]);
    expect(answer.gaveUp).toEqual({});
    expect(answer.map.vertices.at(-1)).toEqual([128.8, 420]);
    const speeds = run([{ moment: 184, cue: 70 }], '--change', 'speeds').answer;
    expect([speeds.change, speeds.gaveUp]).toEqual(['speeds', { speeds: true }]);
    expect(speeds.real.after).toBeLessThan(after / 4);
  });

  test('a moment in the first reach has the in point trimmed, if it may be, and says so', () => {
    const { answer } = run([{ moment: 60, cue: 14 }]);
    expect([answer.change, answer.gaveUp]).toEqual(['places', { in: -10 }]);
    const held = run([{ moment: 60, cue: 14 }], '--trim', '0').answer;
    expect(held.landings[0].drift).toBe(0);
    expect(held.gaveUp.in).toBeUndefined();
  });

  test('--change in slips the map, cut moves it by frames', () => {
    const [slipped, moved] = ['in', 'cut'].map((change) => run([{ moment: 184, cue: 70 }], '--change', change).answer);
    expect(slipped.landings).toEqual([{ moment: 184, cue: 70, drift: 0 }]);
    expect(slipped.map.vertices[0]).toEqual([0, -6]);
    expect(moved.landings).toEqual([{ moment: 184, cue: 64, drift: 0 }]);
    expect(moved.map.vertices).toEqual(BELL.vertices);
  });

  test('bends a map so that moments show on their cues', () => {
    const { status, answer } = run(
      [
        { moment: 184, cue: 74 },
        { moment: 60, cue: 14 },
      ],
      '--limits',
      '10-800',
      '--change',
      'speeds',
    );
    expect(status).toBe(0);
    expect(answer.conflicts).toEqual([]);
    expect(answer.landings.map((l: any) => l.drift)).toEqual([0, 0]);
    const { map } = parseMapFile(JSON.stringify(answer.map));
    expect(positionAt(map, 74)).toBeCloseTo(184, 6);
    expect(positionAt(map, 14)).toBeCloseTo(60, 6);
    expect(map.vertices.at(-1)).toEqual({ t: 128.8, s: 420 });
  });

  test('what cannot be met is told, with an offer, and exit code 1', () => {
    const { status, answer } = run(
      [
        { moment: 184, cue: 64 },
        { moment: 100, cue: 80 },
      ],
      '--limits',
      '5-900',
    );
    expect(status).toBe(1);
    expect(answer.conflicts).toHaveLength(1);
    expect(answer.conflicts[0]).toMatchObject({
      landings: [0, 1],
      frames: expect.any(Number),
      offer: { cues: [expect.any(Number), expect.any(Number)] },
    });
  });

  test('--free-end lets the last vertex move', () => {
    const { answer } = run([{ moment: 184, cue: 74 }], '--free-end', '--change', 'speeds');
    expect(answer.map.vertices.at(-1)[1]).toBe(420);
    expect(answer.map.vertices.at(-1)[0]).toBeGreaterThan(128.8);
  });

  test.each<[unknown, string[], number, RegExp]>([
    [[{ moment: 1 }], [], 1, /landings\.json\[0\]\.cue: must be a finite number/],
    [{}, [], 1, /landings\.json: must be a list/],
    [[{ moment: 1, cue: 900 }], [], 1, /frame 900 is not in the map/],
    [[], ['--change', 'all'], 2, /--change: "all" is not one of places, speeds, in, cut/],
    [[], ['--trim', 'x3'], 2, /--trim: "x3" is not a number of frames/],
    [[], ['--limits', 'wide'], 2, /--limits: "wide" is not a range/],
  ])('%j %j is refused by name', (landings, options, status, message) => {
    const result = run(landings, ...options);
    expect(result.stderr).toMatch(message);
    expect(result.status).toBe(status);
  });
});
