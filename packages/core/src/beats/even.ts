import { vertexOf } from './onsets.js';

/** How far from a tempo that is about right the even one is looked for, as a share of it. */
const AROUND = 0.012;

/** Beats are divided into halves and quarters: so many times the tempo stand out as well, and the higher ones say it more exactly. */
const MULTIPLES = [1, 2, 4] as const;

/**
 * The even beats, in frames, that the sound keeps to best of those whose period is about `period` frames. Their tempo is the one at which
 * the Fourier coefficients of what stands out in `accents` are greatest (P. Grosche & M. Müller, "Extracting Predominant Local Pulse
 * Information from Music Recordings", IEEE TASLP 19, 2011, with one window over the whole sound); they begin where they are strongest.
 */
export function evenBeatsNear(accents: Float32Array, period: number): number[] {
  const tempo = bestTempo(accents, 1 / period);
  const start = strongestStart(accents, 1 / tempo);
  const count = Math.max(0, Math.floor((accents.length - 1 - start) * tempo) + 1);
  return Array.from({ length: count }, (_, i) => start + i / tempo);
}

/** Beats a frame. */
function bestTempo(accents: Float32Array, about: number): number {
  // Over the whole sound, a quarter of a turn of the highest multiple.
  const step = 1 / (4 * Math.max(...MULTIPLES) * accents.length);
  const steps = Math.ceil((AROUND * about) / step) + 1;
  const first = about - steps * step;
  const values = new Float64Array(2 * steps + 1);
  for (const multiple of MULTIPLES)
    coefficients(accents, multiple * first, multiple * step, values.length).forEach(
      (value, n) => (values[n]! += value),
    );
  let top = 1;
  for (let n = 2; n + 1 < values.length; n++) if (values[n]! > values[top]!) top = n;
  return first + step * (top + vertexOf(values[top - 1]!, values[top]!, values[top + 1]!));
}

/** How great the Fourier coefficient of the curve's peaks is at each of `count` frequencies, in turns a frame, from `first` on. */
function coefficients(accents: Float32Array, first: number, step: number, count: number): Float64Array {
  const [xs, ys] = [new Float64Array(count), new Float64Array(count)];
  for (let i = 1; i + 1 < accents.length; i++) {
    const height = accents[i]!;
    if (height <= 0 || height < accents[i - 1]! || height <= accents[i + 1]!) continue;
    let [x, y] = [height * Math.cos(2 * Math.PI * first * i), height * Math.sin(2 * Math.PI * first * i)];
    // From one frequency to the next every peak turns on by the same angle.
    const [turnX, turnY] = [Math.cos(2 * Math.PI * step * i), Math.sin(2 * Math.PI * step * i)];
    for (let n = 0; n < count; n++) {
      xs[n]! += x;
      ys[n]! += y;
      [x, y] = [x * turnX - y * turnY, x * turnY + y * turnX];
    }
  }
  return xs.map((x, n) => Math.hypot(x, ys[n]!));
}

/** The first frame from which beats a period apart are strongest together. */
function strongestStart(accents: Float32Array, period: number): number {
  const at = (i: number) => accents[i] ?? 0;
  let [best, most] = [0, -1];
  for (let start = 0; start < period; start++) {
    let sum = 0;
    for (let place = start; place < accents.length; place += period) {
      const i = Math.round(place);
      sum += at(i) + (at(i - 1) + at(i + 1)) / 2;
    }
    if (sum > most) [best, most] = [start, sum];
  }
  return best;
}
