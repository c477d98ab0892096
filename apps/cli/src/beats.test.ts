import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { beatsAt, rockOn } from '../../../packages/core/src/beats/test-drums.js';
import { makeDrumFile } from '../../../packages/media/test/drum-file.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-beats-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const run = (...args: string[]) =>
  spawnSync(process.execPath, ['bin/idle-bend', ...args], {
    encoding: 'utf8',
    env: { ...process.env, NODE_OPTIONS: '' },
  });

const BEATS = beatsAt(108, 0.35, 12);

const sound = (name: string, ...options: string[]) => makeDrumFile(join(folder, name), rockOn(BEATS), 12, options);

describe('idle-bend beats', () => {
  test.each([
    ['a.wav', []],
    ['a.flac', []],
    ['a.mp3', ['-b:a', '192k']],
    ['a.m4a', []],
    ['a.ogg', ['-c:a', 'libvorbis']],
    ['a.opus', ['-ar', '48000']],
  ])('hears tempo, beats, bars and onsets in %s', (name, options) => {
    const { stdout, stderr, status } = run('beats', sound(name, ...options), '--json');
    expect(stderr).toBe('');
    expect(status).toBe(0);
    const { tempo, beats, downbeats, onsets } = JSON.parse(stdout);
    expect(Math.abs(tempo / 108 - 1)).toBeLessThan(0.005);
    for (const beat of BEATS) expect(Math.min(...beats.map((b: number) => Math.abs(b - beat)))).toBeLessThan(0.012);
    expect(beats.every((b: number, i: number) => i === 0 || b > beats[i - 1])).toBe(true);
    expect(downbeats.every((d: number) => beats.includes(d))).toBe(true);
    expect(new Set(onsets.map((o: { band: string }) => o.band))).toEqual(new Set(['low', 'mid', 'high']));
  });

  test('says it in lines, looks in a range, and says what is wrong', () => {
    const file = sound('b.wav');
    expect(run('beats', file)).toMatchObject({
      status: 0,
      stdout: expect.stringMatching(/^tempo {2}10[78]\.\d\d beats a minute/m),
    });
    expect(JSON.parse(run('beats', file, '--json', '--tempo-range', '50-60').stdout).tempo).toBeCloseTo(54, 0);
    expect(run('beats', file, '--tempo-range', 'fast')).toMatchObject({
      status: 2,
      stderr: expect.stringMatching(/--tempo-range: "fast" is not a range/),
    });
    expect(run('beats', 'package.json')).toMatchObject({
      status: 1,
      stderr: expect.stringMatching(/package\.json is not a video or sound file/),
    });
    expect(run('beats', 'demo/footage/whirligig.mp4')).toMatchObject({
      status: 1,
      stderr: expect.stringMatching(/whirligig\.mp4 has no sound/),
    });
    expect(run('beats')).toMatchObject({ status: 2, stderr: expect.stringMatching(/SOUND is missing/) });
  });
});
