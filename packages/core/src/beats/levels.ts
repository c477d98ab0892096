import { meanChroma, type Novelty } from './novelty.js';

/** What tells a beat from its half, its double, or the time between two: from beats and the novelty around them. */
export interface LevelFeatures {
  /** ln of the period over half a second, and its square. */
  readonly tempo: number;
  readonly tempoSquare: number;
  /** What happens half way, at thirds and at quarters, as shares of what happens on the beat. */
  readonly halves: number;
  readonly thirds: number;
  readonly quarters: number;
  /** The same of what is low, of what is high. */
  readonly lowHalves: number;
  readonly highHalves: number;
  /** How unlike every other beat is: in all, in what is low, and in what is between. */
  readonly alternate: number;
  readonly lowAlternate: number;
  readonly midAlternate: number;
  /** Low and middle take turns: kick and snare. */
  readonly turns: number;
  /** Low on the beat as a share of low in all. */
  readonly lowOnBeat: number;
  /** An off-beat of every second, of every third, stronger than a beat of every second, every third: the more, the less likely. */
  readonly againstTwo: number;
  readonly againstThree: number;
  /** How much of the harmony changes at beats, of what changes at beats and half way between. */
  readonly harmony: number;
  /** How much more happens on the beat than on average, in deviations. */
  readonly accent: number;
}

/** Seconds either side of a place that still belong to it. */
const NEAR = 0.018;

function peaksAt(curve: Float32Array, places: readonly number[], rate: number): Float64Array {
  const near = Math.max(1, Math.round(NEAR * rate));
  return Float64Array.from(places, (place) => {
    const at = Math.round(place);
    let most = 0;
    for (let i = Math.max(0, at - near); i <= Math.min(curve.length - 1, at + near); i++)
      if (curve[i]! > most) most = curve[i]!;
    return most;
  });
}

const mean = (list: ArrayLike<number>) => {
  let sum = 0;
  for (let i = 0; i < list.length; i++) sum += list[i]!;
  return list.length > 0 ? sum / list.length : 0;
};

const ratio = (a: number, b: number) => (a + 1e-4) / (a + b + 2e-4);

/** `beats` in frames, at least 4; `accents` as they were tracked by. */
export function levelFeatures(novelty: Novelty, accents: Float32Array, beats: readonly number[]): LevelFeatures {
  const { rate, low, mid, high } = novelty;
  const between = (part: number) => beats.slice(1).map((b, i) => beats[i]! + part * (b - beats[i]!));
  const gaps = beats
    .slice(1)
    .map((b, i) => b - beats[i]!)
    .sort((a, b) => a - b);
  const period = gaps[gaps.length >> 1]! / rate;
  const all = (places: readonly number[]) => mean(peaksAt(accents, places, rate));
  const onBeat = all(beats);
  const tempo = Math.log(period / 0.5);
  const parity = (curve: Float32Array) => {
    const values = peaksAt(curve, beats, rate);
    const [even, odd] = [mean(values.filter((_, i) => i % 2 === 0)), mean(values.filter((_, i) => i % 2 === 1))];
    return (even - odd) / (even + odd + 0.02);
  };
  const [lowTurn, midTurn] = [parity(low), parity(mid)];
  const lowBeat = mean(peaksAt(low, beats, rate));
  const lowHalf = mean(peaksAt(low, between(0.5), rate));
  const against = (classes: number) => {
    const of = (values: Float64Array) =>
      Array.from({ length: classes }, (_, c) => mean(values.filter((_v, i) => i % classes === c)));
    const weakest = Math.min(...of(peaksAt(accents, beats, rate)));
    const strongest = Math.max(...of(peaksAt(accents, between(0.5), rate)));
    return Math.max(0, strongest - weakest) / (strongest + weakest + 1e-4);
  };
  return {
    tempo,
    tempoSquare: tempo * tempo,
    halves: ratio(all(between(0.5)), onBeat),
    thirds: ratio((all(between(1 / 3)) + all(between(2 / 3))) / 2, onBeat),
    quarters: ratio((all(between(0.25)) + all(between(0.75))) / 2, onBeat),
    lowHalves: ratio(lowHalf, lowBeat),
    highHalves: ratio(mean(peaksAt(high, between(0.5), rate)), mean(peaksAt(high, beats, rate))),
    alternate: Math.abs(parity(accents)),
    lowAlternate: Math.abs(lowTurn),
    midAlternate: Math.abs(midTurn),
    turns: Math.max(0, -lowTurn * midTurn),
    lowOnBeat: lowBeat / (lowBeat + mean(low) + 1e-4),
    againstTwo: against(2),
    againstThree: against(3),
    harmony: harmonyShare(novelty, beats),
    accent: Math.min(4, onBeat),
  };
}

/** Change of the harmony from the half beat before to the half beat after, at beats against half way between them. */
function harmonyShare({ chroma }: Novelty, beats: readonly number[]): number {
  const change = (at: number, half: number) => {
    const [a, b] = [meanChroma(chroma, at - half, at), meanChroma(chroma, at, at + half)];
    return a.reduce((sum, v, c) => sum + (v - b[c]!) ** 2, 0);
  };
  let [on, off] = [0, 0];
  for (let i = 1; i + 1 < beats.length; i++) {
    const half = (beats[i + 1]! - beats[i]!) / 2;
    on += change(beats[i]!, half);
    off += change(beats[i]! + half, half);
  }
  return (on + 1e-3) / (on + off + 2e-3);
}

/**
 * How much each speaks for a beat: a conditional logit over the candidates of 196 drawn tracks (`bench/tracks`), where those that
 * meet the true beats are to win.
 */
const WEIGHTS: LevelFeatures = {
  tempo: 2.49,
  tempoSquare: -8.09,
  halves: 0.06,
  thirds: -7.18,
  quarters: -6.02,
  lowHalves: -0.38,
  highHalves: 0.8,
  alternate: -4.88,
  lowAlternate: 3.52,
  midAlternate: 0.62,
  turns: 2.32,
  lowOnBeat: 2.91,
  againstTwo: -1.33,
  againstThree: -9.36,
  harmony: 0.48,
  accent: 4.08,
};

/** The more, the likelier these are the beats. */
export const likelihood = (features: LevelFeatures): number =>
  (Object.keys(WEIGHTS) as (keyof LevelFeatures)[]).reduce((sum, name) => sum + WEIGHTS[name] * features[name], 0);
