// node bench/sequences/fit-choice.mjs [--check]
// Finds the weights by which Flow chooses between motion and the plain blend, block by block: those that make the squared error of
// drawn sequences least, each frame's taken as a share of the lesser error of the two ways. Every family is judged by weights that
// were found without it. Writes packages/kernels/src/flow/choice-weights.ts; with --check it only judges.
import { writeFileSync } from 'node:fs';
import { BLOCK, choiceFeatures, FEATURES, isCut } from '@idle-bend/kernels';
import { loadFlow } from '@idle-bend/media';
import { format, resolveConfig } from 'prettier';
import { FAILURES } from './failures.mjs';
import { seeded } from './paint.mjs';
import { grayFrame } from './gray-frame.mjs';
import { FRAMES, sequence } from './render.mjs';
import { SCENES } from './scenes.mjs';
import { TRAPS } from './traps.mjs';

const OUT = 'packages/kernels/src/flow/choice-weights.ts';
const [WIDTH, HEIGHT] = [480, 270];
const SEEDS = [71, 72, 73, 74];
const STEPS = [2, 4];
const ROUNDS = 12;
/** A frame's error is never taken for less than this a sample: better than that nobody sees. */
const UNSEEN = 0.15;
/** What each weight costs, so that those that say little stay small. */
const DECAY = 1e-4;

const families = Object.keys({ ...SCENES, ...FAILURES, ...TRAPS }).filter((name) => name !== 'cut');
const flow = loadFlow();
const gray = (data) => grayFrame(data, WIDTH, HEIGHT);

/** Families are judged in groups, so that not each needs weights of its own. */
const GROUPS = 10;

/** Every frame taken out of a family's sequences: for each block its features, and what both ways are off by. */
function framesOf(family) {
  return SEEDS.flatMap((seed) => {
    const frames = sequence(family, { width: WIDTH, height: HEIGHT, seed });
    return STEPS.flatMap((step) => {
      const pairs = [];
      for (let k = 0; k + step < FRAMES; k += step)
        pairs.push(flow.pair(gray(frames[k]), gray(frames[k + step]), 'default'));
      return pairs.flatMap((pair, i) => {
        if (isCut(pair)) return [];
        const [a, b] = [frames[i * step], frames[(i + 1) * step]];
        const around = { before: pairs[i - 1], after: pairs[i + 1] };
        return Array.from({ length: step - 1 }, (_, n) => {
          const fraction = (n + 1) / step;
          const options = { around, byMotionAlone: true };
          const made = flow.between(gray(a), gray(b), pair, fraction, new Uint8Array(a.length), options);
          const blocks = flow.blocks(gray(a), gray(b), pair, fraction, options);
          const off = errors(made, a, b, fraction, frames[i * step + n + 1], blocks, BLOCK << pair[0].shift);
          const least = Math.min(off.byMotion, off.byBlend);
          return {
            ...{ family, step, features: choiceFeatures(blocks), ...off },
            share: 1 / (least + UNSEEN * WIDTH * HEIGHT),
          };
        });
      });
    });
  });
}

/** For every block the sums of m², m·p and p²: m what motion is off by at a sample, p what the plain blend is. */
function errors(made, a, b, fraction, truth, { columns, rows }, side) {
  const sums = new Float64Array(columns * rows * 3);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const k = y * WIDTH + x;
      const at = (Math.floor(y / side) * columns + Math.floor(x / side)) * 3;
      const m = made[k] - truth[k];
      const p = a[k] + (b[k] - a[k]) * fraction - truth[k];
      sums[at] += m * m;
      sums[at + 1] += m * p;
      sums[at + 2] += p * p;
    }
  const total = (i) => sums.reduce((sum, value, k) => sum + (k % 3 === i ? value : 0), 0);
  return { sums, byMotion: total(0), byBlend: total(2) };
}

const shareOf = (weights, features, k) => {
  let sum = weights[FEATURES];
  for (let i = 0; i < FEATURES; i++) sum += weights[i] * features[k * FEATURES + i];
  return 1 / (1 + Math.exp(-sum));
};

/** Stochastic descent with moments (D. Kingma and J. Ba, "Adam", 2015), a frame at a time. */
function fit(frames) {
  const random = seeded(7);
  const size = FEATURES + 1;
  const [weights, slope, mean, spread] = Array.from({ length: 4 }, () => new Float64Array(size));
  weights[FEATURES] = 1.5;
  const steps = ROUNDS * frames.length;
  for (let n = 1; n <= steps; n++) {
    const { features, sums, share } = frames[Math.floor(random() * frames.length)];
    slope.fill(0);
    for (let k = 0; k * 3 < sums.length; k++) {
      const [motion, both, blend] = sums.subarray(3 * k, 3 * k + 3);
      if (motion + blend - 2 * both < 64) continue;
      const w = shareOf(weights, features, k);
      const d = 2 * (w * motion + (1 - 2 * w) * both - (1 - w) * blend) * share * w * (1 - w);
      for (let i = 0; i < FEATURES; i++) slope[i] += d * features[k * FEATURES + i];
      slope[FEATURES] += d;
    }
    const rate = 0.01 * (1 - n / steps) + 0.0002;
    for (let i = 0; i < size; i++) {
      const s = slope[i] + (i < FEATURES ? DECAY * weights[i] : 0);
      mean[i] += 0.1 * (s - mean[i]);
      spread[i] += 0.01 * (s * s - spread[i]);
      weights[i] -= (rate * (mean[i] / (1 - 0.9 ** n))) / (Math.sqrt(spread[i] / (1 - 0.99 ** n)) + 1e-8);
    }
  }
  return weights;
}

const decibels = (error) => 10 * Math.log10((255 * 255 * WIDTH * HEIGHT) / Math.max(1, error));
function judged(weights, { features, sums }) {
  let error = 0;
  for (let k = 0; k * 3 < sums.length; k++) {
    const w = shareOf(weights, features, k);
    error += w * w * sums[3 * k] + 2 * w * (1 - w) * sums[3 * k + 1] + (1 - w) ** 2 * sums[3 * k + 2];
  }
  return error;
}

const all = families.map((family) => {
  process.stderr.write(`${family}\n`);
  return framesOf(family);
});
const mean = (values) => values.reduce((sum, value) => sum + value, 0) / values.length;
const tell = (what, frames) => {
  const [blend, motion, chosen] = [
    frames.map((f) => decibels(f.byBlend)),
    frames.map((f) => decibels(f.byMotion)),
    frames.map((f) => decibels(f.chosen)),
  ];
  const worse = (values) => mean(values.map((value, i) => Number(value < blend[i] - 0.3)));
  const least = (values) => Math.min(...values.map((value, i) => value - blend[i]));
  console.log(
    what.padEnd(24),
    `blend ${mean(blend).toFixed(2)}, motion ${mean(motion).toFixed(2)}, chosen ${mean(chosen).toFixed(2)} dB;`,
    `worse than the blend by 0.3 dB: ${worse(motion).toFixed(3)} → ${worse(chosen).toFixed(3)};`,
    `at worst ${least(motion).toFixed(1)} → ${least(chosen).toFixed(1)} dB`,
  );
};
for (let group = 0; group < GROUPS; group++) {
  const weights = fit(all.filter((_, i) => i % GROUPS !== group).flat());
  for (const frame of all.filter((_, i) => i % GROUPS === group).flat()) frame.chosen = judged(weights, frame);
}
all.forEach((frames, i) => {
  for (const step of STEPS)
    tell(
      `${families[i]}, 1 of ${step} left`,
      frames.filter((f) => f.step === step),
    );
});
for (const step of STEPS)
  tell(
    `all, 1 of ${step} left`,
    all.flat().filter((f) => f.step === step),
  );

if (!process.argv.includes('--check')) {
  const weights = fit(all.flat());
  const text = `// Made by bench/sequences/fit-choice.mjs of drawn sequences; not edited by hand.
export const BIAS = ${weights[FEATURES].toFixed(3)};
export const WEIGHTS: readonly number[] = [${[...weights.subarray(0, FEATURES)].map((w) => w.toFixed(3)).join(', ')}];
`;
  writeFileSync(OUT, await format(text, { ...(await resolveConfig(OUT)), parser: 'typescript' }));
}
