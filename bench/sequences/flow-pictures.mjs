// node bench/sequences/flow-pictures.mjs [FAMILY …]
// The pictures of docs/flow.md: of every family of traps, or of those named, the frame that comes out worst against the plain blend, and of the three worst
// of these four views about the block that is off most: the frame as it was, the plain blend, motion alone, and what Flow makes.
import { spawnSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { isCut } from '@idle-bend/kernels';
import { loadFlow } from '@idle-bend/media';
import { grayFrame } from './gray-frame.mjs';
import { FRAMES, sequence } from './render.mjs';
import { TRAPS } from './traps.mjs';

const OUT = 'docs/flow';
const [WIDTH, HEIGHT] = [480, 270];
/** A seed that no weight was fitted on. */
const SEED = 75;
/** Pixels of a view. */
const [WIDE, HIGH] = [240, 180];

const flow = loadFlow();
const gray = (data) => grayFrame(data, WIDTH, HEIGHT);

const worst = (process.argv.length > 2 ? process.argv.slice(2) : Object.keys(TRAPS))
  .flatMap(worstFrame)
  .sort((a, b) => a.margin - b.margin);
console.log('worst frame against the plain blend, dB, 1 in 2 made, default');
for (const { family, margin, alone } of worst)
  console.log(
    `${family.padEnd(12)} ${margin.toFixed(1).padStart(6)}   by motion alone ${alone.toFixed(1).padStart(6)}`,
  );
mkdirSync(OUT, { recursive: true });
worst.slice(0, 3).forEach(draw);

/** The frame of a family that is most below the plain blend, with all ways to make it. */
function worstFrame(family) {
  const frames = sequence(family, { width: WIDTH, height: HEIGHT, seed: SEED });
  const pairs = [];
  for (let k = 0; k + 2 < FRAMES; k += 2) pairs.push(flow.pair(gray(frames[k]), gray(frames[k + 2]), 'default'));
  const made = pairs.flatMap((pair, i) => {
    if (isCut(pair)) return [];
    const [a, truth, b] = [0, 1, 2].map((n) => frames[2 * i + n]);
    const around = { before: pairs[i - 1], after: pairs[i + 1] };
    const between = (options) => flow.between(gray(a), gray(b), pair, 0.5, new Uint8Array(a.length), options);
    const views = {
      truth,
      blend: a.map((value, at) => Math.round((value + b[at]) / 2)),
      alone: between({ around, byMotionAlone: true }),
      chosen: between({ around }),
    };
    const blend = decibels(views.blend, truth);
    return [
      { family, views, margin: decibels(views.chosen, truth) - blend, alone: decibels(views.alone, truth) - blend },
    ];
  });
  // A family that is cut everywhere has none.
  return made.sort((one, other) => one.margin - other.margin).slice(0, 1);
}

function decibels(made, truth) {
  const sum = made.reduce((total, value, at) => total + (value - truth[at]) ** 2, 0);
  return 10 * Math.log10(255 ** 2 / Math.max(1e-6, sum / made.length));
}

/** The four views beside each other, cut out where the chosen one is off most. */
function draw({ family, views }) {
  const { left, top } = place(views);
  const data = new Uint8Array(4 * WIDE * HIGH);
  Object.values(views).forEach((view, n) => {
    for (let y = 0; y < HIGH; y++)
      for (let x = 0; x < WIDE; x++)
        data[y * 4 * WIDE + n * WIDE + x] = x === WIDE - 1 ? 255 : view[(top + y) * WIDTH + left + x];
  });
  const raw = ['-f', 'rawvideo', '-pix_fmt', 'gray', '-s', `${4 * WIDE}x${HIGH}`, '-i', 'pipe:0'];
  const { status, stderr } = spawnSync('ffmpeg', ['-v', 'error', '-y', ...raw, `${OUT}/${family}.png`], {
    input: data,
  });
  if (status !== 0) throw new Error(String(stderr));
}

/** The corner of the part where the chosen view is off most. */
function place({ chosen, truth }) {
  const step = 30;
  let best = { left: 0, top: 0, sum: -1 };
  for (let top = 0; top + HIGH <= HEIGHT; top += step)
    for (let left = 0; left + WIDE <= WIDTH; left += step) {
      let sum = 0;
      for (let y = top; y < top + HIGH; y++)
        for (let x = left; x < left + WIDE; x++) sum += (chosen[y * WIDTH + x] - truth[y * WIDTH + x]) ** 2;
      if (sum > best.sum) best = { left, top, sum };
    }
  return best;
}
