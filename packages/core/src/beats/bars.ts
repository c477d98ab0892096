import { meanChroma, type Novelty } from './novelty.js';

/** Which beats begin bars. */
export interface Bars {
  /** Beats a bar. */
  readonly beats: number;
  /** The first beat that begins one. */
  readonly first: number;
}

const mean = (list: readonly number[]) => (list.length > 0 ? list.reduce((a, b) => a + b, 0) / list.length : 0);

/** Every number less the mean, over the deviation. */
function standard(list: readonly number[]): number[] {
  const middle = mean(list);
  const spread = Math.sqrt(mean(list.map((v) => (v - middle) ** 2))) + 1e-6;
  return list.map((v) => (v - middle) / spread);
}

/**
 * Bars of 2, 3 or 4 beats by what changes with them: the harmony, what is low (bass and kick come on the first beat), what is
 * middle (the snare does not). `beats` in frames, with the period's share either side of each they own.
 */
export function findBars(novelty: Novelty, beats: readonly number[]): Bars {
  const { low, mid, sharp, rate } = novelty;
  const at = (curve: Float32Array) =>
    standard(beats.map((beat) => most(curve, Math.round(beat), Math.round(0.02 * rate))));
  const harmony = standard(harmonyChanges(novelty, beats));
  const [lows, mids, alls] = [at(low), at(mid), at(sharp)];
  const evidence = beats.map(
    (_, i) => WEIGHTS.harmony * harmony[i]! + WEIGHTS.low * lows[i]! + WEIGHTS.mid * mids[i]! + WEIGHTS.all * alls[i]!,
  );
  let best: Bars = { beats: 4, first: 0 };
  let top = -Infinity;
  for (const [size, prior] of [
    [2, WEIGHTS.two],
    [3, WEIGHTS.three],
    [4, 0],
  ] as const) {
    const classes = Array.from({ length: size }, (_, c) => mean(evidence.filter((_v, i) => i % size === c)));
    for (let first = 0; first < size; first++) {
      const others = classes.filter((_, c) => c !== first);
      // The first beat stands out from each other one, most of all from the strongest of them.
      const score =
        (classes[first]! - mean(others)) * Math.sqrt(size - 1) * 0.5 +
        (classes[first]! - Math.max(...others)) * WEIGHTS.clear +
        prior;
      if (score > top) [top, best] = [score, { beats: size, first }];
    }
  }
  return best;
}

/** How much each speaks for a beat that begins a bar, and what bars of two and three are worth before anything is heard. */
const WEIGHTS = { harmony: 1, low: 0.6, mid: -0.3, all: 0.1, clear: 0.3, two: -0.3, three: -0.1 };

function most(curve: Float32Array, at: number, near: number): number {
  let top = 0;
  for (let i = Math.max(0, at - near); i <= Math.min(curve.length - 1, at + near); i++)
    if (curve[i]! > top) top = curve[i]!;
  return top;
}

/** For each beat how unlike the harmony after it is to that before, 0…2. */
function harmonyChanges({ chroma, frames }: Novelty, beats: readonly number[]): number[] {
  const spans = beats.map((beat, i) =>
    meanChroma(chroma, beat, beats[i + 1] ?? Math.min(frames, 2 * beat - (beats[i - 1] ?? beat))),
  );
  return spans.map((span, i) => {
    const before = spans[i - 1];
    return before ? span.reduce((sum, v, c) => sum + (v - before[c]!) ** 2, 0) : 0;
  });
}
