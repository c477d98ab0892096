import { spawnSync } from 'node:child_process';
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
