import FFT from 'fft.js';
import { vertexOf } from './onsets.js';

/** The periods, in seconds, of a regular pulse: PERIODS of them, each 1.5 % longer than the one before. */
const SHORTEST = 60 / 240;

const STEP = 0.015;

const PERIODS = Float64Array.from({ length: 125 }, (_, i) => SHORTEST * Math.exp(STEP * i));

const WINDOW_SECONDS = 6;

const HOP_SECONDS = 0.5;

/** What a sudden change of tempo costs, and each step of a gradual one, in window scores. */
const JUMP = 1.2;

const GLIDE = 0.06;

/**
 * The pulse's period over time: autocorrelation of the novelty in windows, weighed at the period and its multiples (a comb:
 * E. Scheirer, JASA 103, 1998), and the likeliest path through it (Viterbi), where a gradual change costs little and a
 * jump much. Entry n stands for frame n · `hop`.
 */
export interface PulsePath {
  /** Frames between two entries. */
  readonly hop: number;
  /** Period in seconds. */
  readonly periods: Float64Array;
}

export function pulsePath(novelty: Float32Array, rate: number, prior: (period: number) => number): Pulses {
  const hop = Math.round(HOP_SECONDS * rate);
  const half = Math.round((WINDOW_SECONDS / 2) * rate);
  const count = Math.max(1, Math.ceil(novelty.length / hop));
  const correlate = correlator(2 * half);
  const scores = Array.from({ length: count }, (_, w) =>
    windowScores(novelty, w * hop - half, 2 * half, rate, correlate, prior),
  );
  return { hop, periods: likeliestPath(scores), steady: steadyPulses(scores) };
}

/** The likeliest pulse, and the steady ones that are most regular over all. */
export interface Pulses extends PulsePath {
  /** Periods in seconds, the most regular first. */
  readonly steady: readonly number[];
}

/** So many steady pulses are told. */
const STEADY = 4;

/** The periods at which the windows together are most regular. */
function steadyPulses(scores: readonly Float64Array[]): number[] {
  const sums = PERIODS.map((_, p) => scores.reduce((sum, window) => sum + window[p]!, 0));
  return [...sums.keys()]
    .filter((p) => sums[p]! > 0 && sums[p]! >= (sums[p - 1] ?? 0) && sums[p]! > (sums[p + 1] ?? 0))
    .sort((a, b) => sums[b]! - sums[a]!)
    .slice(0, STEADY)
    .map((p) => PERIODS[p]! * Math.exp(STEP * vertexOf(sums[p - 1] ?? sums[p]!, sums[p]!, sums[p + 1] ?? sums[p]!)));
}

/** Viterbi over the windows: a period in seconds for each. */
function likeliestPath(scores: readonly Float64Array[]): Float64Array {
  const count = scores.length;
  const n = PERIODS.length;
  const best = scores.map(() => new Float64Array(n));
  const from = scores.map(() => new Int16Array(n));
  best[0]!.set(scores[0]!);
  for (let w = 1; w < count; w++) {
    const before = best[w - 1]!;
    let top = 0;
    for (let p = 1; p < n; p++) if (before[p]! > before[top]!) top = p;
    for (let p = 0; p < n; p++) {
      let value = before[top]! - JUMP;
      let at = top;
      for (let d = -2; d <= 2; d++) {
        const q = p + d;
        if (q >= 0 && q < n && before[q]! - GLIDE * Math.abs(d) > value)
          [value, at] = [before[q]! - GLIDE * Math.abs(d), q];
      }
      best[w]![p] = value + scores[w]![p]!;
      from[w]![p] = at;
    }
  }
  const periods = new Float64Array(count);
  let p = best[count - 1]!.reduce((top, value, i, all) => (value > all[top]! ? i : top), 0);
  for (let w = count - 1; w >= 0; w--) {
    const s = scores[w]!;
    periods[w] = PERIODS[p]! * Math.exp(STEP * vertexOf(s[p - 1] ?? s[p]!, s[p]!, s[p + 1] ?? s[p]!));
    p = from[w]![p]!;
  }
  return periods;
}

/** For every period how regular the window is at it, about 0…1, times the prior. */
function windowScores(
  novelty: Float32Array,
  start: number,
  length: number,
  rate: number,
  correlate: (x: Float64Array) => Float64Array,
  prior: (period: number) => number,
): Float64Array {
  const from = Math.max(0, start);
  const to = Math.min(novelty.length, start + length);
  const size = to - from;
  const x = new Float64Array(size);
  let mean = 0;
  for (let i = 0; i < size; i++) mean += novelty[from + i]! / size;
  for (let i = 0; i < size; i++) x[i] = novelty[from + i]! - mean;
  const r = correlate(x);
  const at = (lag: number) => {
    const i = Math.floor(lag);
    return i + 1 < r.length ? r[i]! + (lag - i) * (r[i + 1]! - r[i]!) : 0;
  };
  // Around multiples the peak is as wide as the drums are loose.
  const near = (lag: number) => Math.max(at(lag - 1), at(lag), at(lag + 1));
  return PERIODS.map((period) => {
    const lag = period * rate;
    return (
      prior(period) * Math.max(0, (near(lag) + 0.7 * near(2 * lag) + 0.4 * near(3 * lag) + 0.5 * near(4 * lag)) / 2.6)
    );
  });
}

/** Autocorrelation of up to `most` numbers, 1 at lag 0, by the power spectrum (Wiener and Khinchin). */
function correlator(most: number): (x: Float64Array) => Float64Array {
  let size = 16;
  while (size < 2 * most) size *= 2;
  const fft = new FFT(size);
  const input = new Float64Array(size);
  const spectrum = new Float64Array(2 * size);
  return (x) => {
    input.fill(0).set(x);
    fft.realTransform(spectrum, input);
    // A real, even spectrum: its transform is its inverse but for the scale.
    for (let i = 0; i <= size / 2; i++)
      input[i] = input[(size - i) % size] =
        spectrum[2 * i]! * spectrum[2 * i]! + spectrum[2 * i + 1]! * spectrum[2 * i + 1]!;
    fft.realTransform(spectrum, input);
    const energy = spectrum[0]! + 1e-12;
    // Far lags have few products: what they say counts less.
    return Float64Array.from(x, (_, lag) => ((spectrum[2 * lag]! / energy) * x.length) / (1.15 * x.length - lag));
  };
}
