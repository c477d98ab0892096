import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { median, times } from './measure.mjs';

export const about = 'retime --frames step at 1280 × 720, all 420 frames of marble-bell, to H.264';

const CLIP = 'demo/footage/marble-bell.mp4';

function timed(command, args) {
  const start = performance.now();
  const { status, stderr } = spawnSync(command, args, { encoding: 'utf8', env: { ...process.env, NODE_OPTIONS: '' } });
  if (status !== 0) throw new Error(stderr);
  return (performance.now() - start) / 1000;
}

export async function run() {
  const folder = mkdtempSync(join(tmpdir(), 'idle-bend-bench-'));
  const ours = [];
  const plain = [];
  // In turn, so that whatever else the machine does falls on both.
  for (let i = 0; i < 3; i++) {
    plain.push(
      timed('ffmpeg', [
        '-v',
        'error',
        '-y',
        '-r',
        '24',
        '-i',
        CLIP,
        '-an',
        '-c:v',
        'libx264',
        '-preset',
        'medium',
        '-crf',
        '18',
        join(folder, 'plain.mp4'),
      ]),
    );
    ours.push(
      timed(process.execPath, [
        'bin/idle-bend',
        'retime',
        CLIP,
        '-o',
        join(folder, 'ours.mp4'),
        '--fps',
        '24',
        '--speed',
        '20',
        '--frames',
        'step',
        '--sound',
        'none',
      ]),
    );
  }
  rmSync(folder, { recursive: true, force: true });
  const [a, b] = [median(ours), median(plain)];
  return [
    { what: 'retime', value: `${a.toFixed(2)} s` },
    { what: 'baseline: plain ffmpeg, the same frames to the same codec', value: `${b.toFixed(2)} s` },
    { what: 'retime takes, against that baseline', value: times(a, b), limit: '≤ 1.3 ×', holds: a <= b * 1.3 },
  ];
}
