import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { probe } from '../probe/probe.js';
import { readMono, writeSoundProxy } from './read-sound.js';
import { timeZero } from './sound-clock.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-clock-'));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function ffmpeg(...args: string[]): Buffer {
  const { status, stdout, stderr } = spawnSync('ffmpeg', ['-v', 'error', '-y', ...args], { maxBuffer: 2 ** 28 });
  if (status !== 0) throw new Error(stderr.toString());
  return stdout;
}

describe('where a source’s time begins', () => {
  test('is its first picture, whatever the sound does; sound before it is left out, silence stands for what is missing', async () => {
    for (const start of [-0.5, 0, 0.4]) {
      const file = at(`at${start}.mov`);
      const tone = ['-itsoffset', String(start), '-f', 'lavfi', '-i', `sine=1000:d=${2 - start}`];
      ffmpeg('-f', 'lavfi', '-i', 'testsrc2=s=64x36:r=25:d=2', ...tone, '-c:v', 'libx264', '-c:a', 'pcm_s16le', file);
      const facts = await probe(file);
      const samples = await readMono(file, facts, 48_000);
      const first = samples.findIndex((v) => Math.abs(v) > 0.01) / 48_000;
      expect(Math.abs(first - Math.max(0, start))).toBeLessThan(0.001);
    }
  });

  test('of sound alone is its first sample', async () => {
    ffmpeg('-f', 'lavfi', '-i', 'sine=1000:d=1', '-c:a', 'libmp3lame', at('tone.mp3'));
    const facts = await probe(at('tone.mp3'));
    expect(await timeZero(at('tone.mp3'), facts)).toBeUndefined();
    const samples = await readMono(at('tone.mp3'), facts, 48_000);
    expect(samples.findIndex((v) => Math.abs(v) > 0.01) / 48_000).toBeLessThan(0.003);
  });
});

test('six channels at full scale are folded to two without clipping one sample', async () => {
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    'aevalsrc=sin(2*PI*440*t):d=1:s=48000',
    '-filter_complex',
    '[0:a]pan=5.1|c0=c0|c1=c0|c2=c0|c3=c0|c4=c0|c5=c0',
    '-c:a',
    'pcm_f32le',
    at('six.wav'),
  );
  await writeSoundProxy(at('six.wav'), await probe(at('six.wav')), at('two.flac'));
  const out = ffmpeg('-i', at('two.flac'), '-f', 'f32le', 'pipe:1');
  const samples = new Float32Array(out.buffer.slice(out.byteOffset, out.byteOffset + out.length));
  const peak = samples.reduce((most, v) => Math.max(most, Math.abs(v)), 0);
  expect(peak).toBeGreaterThan(0.9);
  // A sine touches its peak; a clipped one stays there.
  expect(samples.filter((v) => Math.abs(v) > 0.9999).length).toBeLessThan(samples.length * 0.01);
});

test('a picture that takes more than there is for one is refused with its size', async () => {
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    'color=black:s=16384x8192:r=1:d=1,format=yuv422p10le',
    '-frames:v',
    '1',
    '-c:v',
    'ffv1',
    at('large.mkv'),
  );
  await expect(probe(at('large.mkv'))).rejects.toThrow(
    'large.mkv: one of its pictures (16384 × 8192) takes 512 MiB; 256 MiB is the most that is read.',
  );
});
