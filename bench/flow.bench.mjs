import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { isCut, sideOfCut } from '@idle-bend/kernels';
import { loadFlow } from '@idle-bend/media';
import { median } from './measure.mjs';
import { psnr, ssim } from './sequences/quality.mjs';
import { grayFrame } from './sequences/gray-frame.mjs';
import { FRAMES, sequence, sequenceFile } from './sequences/render.mjs';
import { SCENES } from './sequences/scenes.mjs';

export const about =
  'Flow: frames taken out of sequences with exact truth (640 × 360) are made again; and what that costs at 1280 × 720';

const [WIDTH, HEIGHT] = [640, 360];
const NAMES = Object.keys(SCENES);
const REMOVALS = [
  { step: 2, words: '1 in 2' },
  { step: 4, words: '3 in 4' },
];
const frameOf = (data, width = WIDTH, height = HEIGHT) => grayFrame(data, width, height);

export async function run() {
  const folder = mkdtempSync(join(tmpdir(), 'idle-bend-bench-'));
  try {
    return [...quality(folder), ...cost(folder)];
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Every missing frame of a sequence by `make(frames, step)` → made frames in order, as mean PSNR and SSIM. */
function scored(frames, step, made) {
  let [signal, similar, n] = [0, 0, 0];
  for (let k = 0; k < FRAMES - 1; k++) {
    if (k % step === 0) continue;
    signal += psnr(made[k], frames[k]);
    similar += ssim(made[k], frames[k], WIDTH, HEIGHT);
    n++;
  }
  return { psnr: signal / n, ssim: similar / n };
}

function byFlow(frames, step, level, flow) {
  const made = [...frames];
  const pairs = [];
  for (let k = 0; k + step < FRAMES; k += step)
    pairs.push(flow.pair(frameOf(frames[k]), frameOf(frames[k + step]), level));
  pairs.forEach((pair, i) => {
    const [a, b] = [frames[i * step], frames[(i + 1) * step]];
    for (let j = 1; j < step; j++) {
      const around = { before: pairs[i - 1], after: pairs[i + 1] };
      made[i * step + j] = isCut(pair)
        ? [a, b][sideOfCut(j / step, around)]
        : flow.between(frameOf(a), frameOf(b), pair, j / step, new Uint8Array(a.length), { around });
    }
  });
  return made;
}

const byMix = (frames, step) =>
  frames.map((frame, k) => {
    const [a, t] = [k - (k % step), (k % step) / step];
    return t === 0 ? frame : frames[a].map((value, i) => Math.round(value * (1 - t) + frames[a + step][i] * t));
  });

/** ffmpeg's own filter. It drops the last frames of a stream, so the last picture is given twice more. */
function byFilter(frames, step, folder) {
  const kept = frames.filter((_, k) => k % step === 0);
  const file = join(folder, 'kept.gray');
  writeFileSync(file, Buffer.concat([...kept, kept.at(-1), kept.at(-1)]));
  const raw = ['-f', 'rawvideo', '-pix_fmt', 'gray', '-s', `${WIDTH}x${HEIGHT}`];
  const filter = `format=yuv420p,minterpolate=fps=${24 * step}:mi_mode=mci:mc_mode=aobmc:me_mode=bidir:vsbmc=1,extractplanes=y`;
  const { stdout } = spawnSync(
    'ffmpeg',
    [
      '-v',
      'error',
      ...raw,
      '-framerate',
      '24',
      '-i',
      file,
      '-vf',
      filter,
      '-f',
      'rawvideo',
      '-pix_fmt',
      'gray',
      'pipe:1',
    ],
    { maxBuffer: 2 ** 30 },
  );
  return frames.map((frame, k) => new Uint8Array(stdout.subarray(k * WIDTH * HEIGHT, (k + 1) * WIDTH * HEIGHT)));
}

function quality(folder) {
  const flow = loadFlow();
  const mean = (values) => values.reduce((sum, v) => sum + v, 0) / values.length;
  const sequences = NAMES.map((name) => sequence(name));
  const yardstick = denseInverseSearch();
  const rows = [];
  for (const { step, words } of REMOVALS) {
    const all = (make) => sequences.map((frames) => scored(frames, step, make(frames)));
    const mix = all((frames) => byMix(frames, step));
    const line = (what, scores, more = {}) =>
      rows.push({
        what: `${words}: ${what}`,
        value: `${mean(scores.map((s) => s.psnr)).toFixed(2)} dB, SSIM ${mean(scores.map((s) => s.ssim)).toFixed(4)}`,
        ...more,
      });
    line('baseline: Mix', mix);
    line(
      'baseline: ffmpeg’s minterpolate',
      all((frames) => byFilter(frames, step, folder)),
    );
    for (const preset of ['fast', 'medium'])
      rows.push({
        what: `${words}: baseline: dense inverse search, ${preset}`,
        value: yardstick ? `${mean(yardstick[`${preset} ${step}`]).toFixed(2)} dB` : 'OpenCV is not installed',
      });
    for (const [level, preset, above] of [
      ['quick', 'fast', 0],
      ['default', 'medium', 0],
      ['best', 'medium', 0.5],
    ]) {
      const scores = all((frames) => byFlow(frames, step, level, flow));
      const wanted = yardstick && mean(yardstick[`${preset} ${step}`]) + above;
      line(
        `Flow, ${level}`,
        scores,
        wanted && { limit: `≥ ${wanted.toFixed(2)} dB`, holds: mean(scores.map((s) => s.psnr)) >= wanted },
      );
      const least = Math.min(...scores.map((s, i) => s.psnr - mix[i].psnr));
      rows.push({
        what: `${words}: Flow, ${level}, against Mix where that is nearest`,
        value: `${least.toFixed(2)} dB (${NAMES[scores.findIndex((s, i) => s.psnr - mix[i].psnr === least)]})`,
        limit: '≥ −0.3 dB',
        holds: least >= -0.3,
      });
    }
  }
  return rows;
}

/** The yardstick's PSNR of every sequence, when some Python here has OpenCV. */
function denseInverseSearch() {
  const script = new URL('./sequences/dense-inverse-search.py', import.meta.url).pathname;
  for (const python of ['python3', '/usr/bin/python3']) {
    const { status, stdout } = spawnSync(
      python,
      [script, String(WIDTH), String(HEIGHT), ...NAMES.map((name) => sequenceFile(name))],
      { encoding: 'utf8' },
    );
    if (status === 0) return JSON.parse(stdout);
  }
  return undefined;
}

/** CPU seconds of a command and all it starts. */
function cpuSeconds(command, args) {
  const { status, stdout, stderr } = spawnSync(
    'sh',
    ['-c', '"$@" > /dev/null 2>&1 || exit 1; times', 'sh', command, ...args],
    {
      encoding: 'utf8',
      env: { ...process.env, NODE_OPTIONS: '' },
    },
  );
  if (status !== 0) throw new Error(stderr || `${command} failed`);
  // The second line is the children's user and system time, as 0m1.234s.
  return stdout
    .trim()
    .split('\n')[1]
    .split(' ')
    .reduce((sum, text) => sum + Number(text.split('m')[0]) * 60 + parseFloat(text.split('m')[1]), 0);
}

function cost(folder) {
  const half = join(folder, 'half.mkv');
  const made = 59;
  const filter = `select='not(mod(n,2))',setpts=N/60/TB`;
  spawnSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-i',
    'demo/footage/marble-bell.mp4',
    '-an',
    '-vf',
    filter,
    '-r',
    '60',
    '-frames:v',
    String(made + 1),
    '-c:v',
    'ffv1',
    half,
  ]);
  const out = join(folder, 'out.mkv');
  const megapixels = (made * 1280 * 720) / 1e6;
  const ours = (level) =>
    cpuSeconds(process.execPath, [
      'bin/idle-bend',
      'retime',
      half,
      '-o',
      out,
      '--fps',
      '120',
      '--frames',
      'flow',
      '--level',
      level,
      '--sound',
      'none',
      '--threads',
      '1',
    ]);
  const theirs = () =>
    cpuSeconds('ffmpeg', [
      '-v',
      'error',
      '-y',
      '-i',
      half,
      '-vf',
      'minterpolate=fps=120:mi_mode=mci:mc_mode=aobmc:me_mode=bidir:vsbmc=1',
      '-c:v',
      'ffv1',
      '-level',
      '3',
      '-g',
      '1',
      '-slicecrc',
      '1',
      '-threads',
      '1',
      out,
    ]);
  const baseline = theirs();
  const rows = [
    {
      what: 'baseline: minterpolate, whole process, per made megapixel',
      value: `${(baseline / megapixels).toFixed(3)} CPU s`,
    },
  ];
  for (const [level, share] of [
    ['quick', 8],
    ['default', 4],
    ['best', 1],
  ]) {
    const seconds = median([ours(level), ours(level), ours(level)]);
    rows.push({
      what: `Flow, ${level}, whole process, empty cache`,
      value: `${(seconds / megapixels).toFixed(3)} CPU s, 1/${(baseline / seconds).toFixed(1)} of it`,
      limit: `≤ 1/${share}`,
      holds: seconds * share <= baseline,
    });
  }
  const flow = loadFlow();
  const raw = spawnSync(
    'ffmpeg',
    ['-v', 'error', '-i', half, '-frames:v', '2', '-f', 'rawvideo', '-pix_fmt', 'gray', 'pipe:1'],
    { maxBuffer: 2 ** 27 },
  ).stdout;
  const [a, b] = [0, 1].map((n) => frameOf(new Uint8Array(raw.subarray(n * 921600, (n + 1) * 921600)), 1280, 720));
  const pair = [];
  for (let i = 0; i < 15; i++) {
    const start = performance.now();
    flow.pair(a, b, 'quick');
    pair.push(performance.now() - start);
  }
  rows.push({
    what: 'motion of a 1280 × 720 pair, quick, one direction, one thread',
    value: `${(median(pair) / 2).toFixed(1)} ms`,
    limit: '≤ 45 ms',
    holds: median(pair) / 2 <= 45,
  });
  return rows;
}
