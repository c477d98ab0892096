import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync } from 'node:fs';

export const about =
  'a ten-minute 1920 × 1080 clip with one key frame in 250, reversed at 400 %: all of it is decoded, every fourth frame kept; takes some minutes';

const SOURCE = '.cache/bench/ten-minutes.mp4';
const OUT = '.cache/bench/reversed.mkv';
const GIB = 1024 ** 3;

/** Made once and kept: 14,400 frames at 24 fps. */
function makeSource() {
  if (existsSync(SOURCE)) return;
  mkdirSync('.cache/bench', { recursive: true });
  const args = [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    'testsrc2=size=1920x1080:rate=24:duration=600',
    '-pix_fmt',
    'yuv420p',
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-crf',
    '30',
    '-g',
    '250',
    '-keyint_min',
    '250',
    '-sc_threshold',
    '0',
    `${SOURCE}.part.mp4`,
  ];
  const { status, stderr } = spawnSync('ffmpeg', args, { encoding: 'utf8' });
  if (status !== 0) throw new Error(stderr);
  renameSync(`${SOURCE}.part.mp4`, SOURCE);
}

/** Resident memory of a process and all it started, bytes. */
function residentTree(root) {
  const parents = new Map();
  for (const name of readdirSync('/proc')) {
    if (!/^\d+$/.test(name)) continue;
    try {
      parents.set(
        Number(name),
        Number(
          readFileSync(`/proc/${name}/stat`, 'utf8')
            .replace(/^.*\) /, '')
            .split(' ')[1],
        ),
      );
    } catch {
      continue;
    }
  }
  const belongs = (pid) => pid === root || (parents.has(pid) && parents.get(pid) > 1 && belongs(parents.get(pid)));
  let bytes = 0;
  for (const pid of parents.keys())
    if (belongs(pid))
      try {
        bytes += Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) * 1024;
      } catch {
        continue;
      }
  return bytes;
}

export async function run() {
  makeSource();
  const start = performance.now();
  const child = spawn(
    process.execPath,
    [
      'bin/idle-bend',
      'retime',
      SOURCE,
      '-o',
      OUT,
      '--reverse',
      '--speed',
      '400',
      '--frames',
      'step',
      '--sound',
      'none',
    ],
    {
      stdio: ['ignore', 'ignore', 'pipe'],
      env: { ...process.env, NODE_OPTIONS: '' },
    },
  );
  let complaint = '';
  child.stderr.on('data', (chunk) => (complaint = chunk.toString()));
  let peak = 0;
  const watch = setInterval(() => (peak = Math.max(peak, residentTree(child.pid))), 200);
  const code = await new Promise((resolve) => child.once('close', resolve));
  clearInterval(watch);
  if (code !== 0) throw new Error(complaint);
  const seconds = (performance.now() - start) / 1000;
  const plainStart = performance.now();
  spawnSync('ffmpeg', ['-v', 'error', '-i', SOURCE, '-f', 'null', '-']);
  const decode = (performance.now() - plainStart) / 1000;
  rmSync(OUT, { force: true });
  const whole = (14_400 * 1920 * 1080 * 1.5) / GIB;
  return [
    {
      what: 'peak memory, decoder and encoder included',
      value: `${(peak / GIB).toFixed(2)} GiB`,
      limit: '< 1 GiB',
      holds: peak < GIB,
    },
    { what: 'baseline: all decoded frames at once', value: `${whole.toFixed(1)} GiB` },
    { what: 'reversed to lossless FFV1', value: `${seconds.toFixed(0)} s` },
    { what: 'baseline: ffmpeg decoding the clip once, forward', value: `${decode.toFixed(0)} s` },
  ];
}
