import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';

const run = (...args: string[]) =>
  spawnSync(process.execPath, ['bin/idle-bend', ...args], {
    encoding: 'utf8',
    env: { ...process.env, NODE_OPTIONS: '' },
  });

describe('idle-bend inspect', () => {
  test('says what a file is, in lines for a person', () => {
    const { stdout, status } = run('inspect', 'demo/footage/marble-bell.mp4');
    expect(status).toBe(0);
    expect(stdout).toMatch(/^picture\s+h264/m);
    expect(stdout).toMatch(/^size\s+1280 × 720$/m);
    expect(stdout).toMatch(/^rate\s+120 fps \(120\), constant$/m);
    expect(stdout).toMatch(/^length\s+420 frames, 3\.500 s$/m);
    expect(stdout).toMatch(/^sound\s+aac, 48000 Hz/m);
  });

  test('and as JSON', () => {
    const facts = JSON.parse(run('inspect', 'demo/footage/dominoes.mp4', '--json').stdout);
    expect(facts.video).toMatchObject({
      codec: 'h264',
      width: 1280,
      height: 720,
      rate: '60',
      frames: 300,
      variable: false,
      pixelAspect: '1:1',
      rotation: 0,
      bitDepth: 8,
    });
    expect(facts.video).toMatchObject({ repeats: [], cuts: [], drops: [] });
    // The camera rests, goes along the row to the right, so that what is seen moves left, and rests.
    const { motion } = facts.video;
    expect(motion.map(({ kind }: { kind: string }) => kind)).toEqual(['still', 'shift', 'still']);
    expect(Math.abs(motion[1].degrees - 180)).toBeLessThan(10);
    expect([motion[0].from, motion[2].to]).toEqual([0, 299]);
  });

  test('quickly: facts and the exact frame list from its headers, and how many bytes that took', () => {
    const file = 'demo/footage/marble-bell.mp4';
    const quick = JSON.parse(run('inspect', file, '--quick', '--json').stdout);
    const whole = JSON.parse(run('inspect', file, '--json').stdout);
    const { estimated, timeBase, times, keys, ...facts } = quick.video;
    expect(whole.video).toMatchObject(facts);
    expect(estimated).toBe(false);
    const [num, den] = timeBase.split('/').map(Number);
    const listed = spawnSync('ffprobe', [
      ...['-v', 'error', '-select_streams', 'v:0', '-show_entries', 'frame=pts_time,key_frame', '-of', 'csv=p=0', file],
    ])
      .stdout.toString()
      .trim()
      .split('\n')
      .filter((row) => row !== '')
      .map((row) => row.split(',').map(Number));
    expect(times).toHaveLength(listed.length);
    listed.forEach(([key, time], i) => {
      expect((times[i] * num) / den).toBeCloseTo(time!, 5);
      expect(keys.includes(i)).toBe(key === 1);
    });
    expect(quick.bytesRead).toBeGreaterThan(1000);
    expect(quick.bytesRead).toBeLessThan(quick.bytes);
    expect(run('inspect', file, '--quick').stdout).toMatch(/^frames\s+exact$/m);
  });

  test('quickly, of a container that lists no frames: how many there are is said to be estimated', () => {
    const folder = mkdtempSync(join(tmpdir(), 'idle-bend-inspect-'));
    const file = join(folder, 'bell.ts');
    spawnSync('ffmpeg', ['-v', 'error', '-i', 'demo/footage/marble-bell.mp4', '-c', 'copy', file]);
    const { video } = JSON.parse(run('inspect', file, '--quick', '--json').stdout);
    expect(video.estimated).toBe(true);
    expect(Math.abs(video.frames - 420)).toBeLessThan(4);
    expect(video).not.toHaveProperty('times');
    expect(run('inspect', file, '--quick').stdout).toMatch(/^length\s+about 4\d\d frames/m);
    rmSync(folder, { recursive: true });
  });

  test('a file that is none, and one that is not there', () => {
    expect(run('inspect', 'package.json')).toMatchObject({
      status: 1,
      stderr: expect.stringMatching(/package\.json is not a video or sound file/),
    });
    expect(run('inspect', 'gone.mp4')).toMatchObject({
      status: 1,
      stderr: expect.stringMatching(/gone\.mp4: there is no such file/),
    });
    expect(run('inspect')).toMatchObject({ status: 2, stderr: expect.stringMatching(/FILE is missing/) });
  });
});

describe('idle-bend', () => {
  test('lists its commands, and each its options', () => {
    expect(run('--help')).toMatchObject({
      status: 0,
      stdout: expect.stringMatching(/inspect FILE[\s\S]*retime IN[\s\S]*land --map/),
    });
    for (const command of ['inspect', 'retime', 'map', 'land', 'beats'])
      expect(run(command, '--help')).toMatchObject({ status: 0, stdout: expect.stringMatching(/^idle-bend/) });
    expect(run()).toMatchObject({ status: 2 });
  });
});
