import { findBars } from './bars.js';
import { levelFeatures, likelihood } from './levels.js';
import { type Novelty, noveltyOf } from './novelty.js';
import { findOnsets, type Onset } from './onsets.js';
import { refineBeats } from './refine.js';
import { tempoOf } from './tempo-of.js';
import { pulsePath } from './tempo.js';
import { trackBeats } from './track.js';

/** What was heard in a sound. Times are seconds from its first sample. */
export interface BeatAnalysis {
  /** Beats a minute: the median of the beats' own. */
  readonly tempo: number;
  /** Strictly increasing. */
  readonly beats: readonly number[];
  /** Beats a bar, and the first beat that begins one. */
  readonly bar: { readonly beats: number; readonly first: number };
  readonly onsets: readonly Onset[];
}

export interface TempoRange {
  readonly low: number;
  readonly high: number;
}

export const ANY_TEMPO: TempoRange = { low: 50, high: 215 };

/** A pulse that is a simple multiple of the likeliest one may be the beat instead. */
const RATIOS = [1, 1 / 2, 2, 2 / 3, 3 / 2, 1 / 3, 3] as const;

/**
 * Finds beats, bars and onsets in one channel at `rate` samples a second. `onStep` is told shares done, 0…1, and may throw
 * to give up. Sound without a pulse gets even beats at the likeliest tempo; sound of less than two seconds gets none.
 */
export function analyseBeats(
  samples: Float32Array,
  rate: number,
  range: TempoRange = ANY_TEMPO,
  onStep: (share: number) => void = () => undefined,
): BeatAnalysis {
  onStep(0);
  const novelty = noveltyOf(samples, rate);
  onStep(0.4);
  const onsets = findOnsets(novelty);
  const accents = accentsOf(novelty);
  const beats = findBeats(novelty, accents, range, (share) => onStep(0.4 + 0.55 * share));
  const times = spaced(refineBeats(beats, novelty.sharp, novelty.rate), samples.length / rate);
  const bar = findBars(novelty, beats);
  onStep(1);
  return { tempo: tempoOf(times) ?? 120, beats: times, bar, onsets };
}

/** How much each frame stands out of the fifth of a second around it, in deviations; never below 0. */
function accentsOf({ low, mid, high, sharp, rate, frames }: Novelty): Float32Array {
  const all = Float32Array.from(low, (value, i) => value + mid[i]! + 0.5 * high[i]! + sharp[i]!);
  const around = Math.round(0.2 * rate);
  const sums = new Float64Array(frames + 1);
  for (let i = 0; i < frames; i++) sums[i + 1] = sums[i]! + all[i]!;
  let square = 0;
  const out = all.map((value, i) => {
    const [from, to] = [Math.max(0, i - around), Math.min(frames, i + around + 1)];
    const above = Math.max(0, value - (sums[to]! - sums[from]!) / (to - from));
    square += above * above;
    return above;
  });
  const spread = Math.sqrt(square / frames) + 1e-9;
  return out.map((value) => value / spread);
}

const MIN_SECONDS = 2;

/** What tempo is usual, before anything is heard: ln-normal around 115 a minute. */
const USUAL_PERIOD = 0.52;

const USUAL_SPREAD = 0.7;

function findBeats(
  novelty: Novelty,
  accents: Float32Array,
  range: TempoRange,
  onStep: (share: number) => void,
): number[] {
  const { rate, frames } = novelty;
  if (frames < MIN_SECONDS * rate) return [];
  const path = pulsePath(accents, rate, (period) =>
    Math.exp(-0.5 * (Math.log(period / USUAL_PERIOD) / USUAL_SPREAD) ** 2),
  );
  onStep(0.5);
  const usual = [...path.periods].sort((a, b) => a - b)[path.periods.length >> 1]!;
  const inRange = RATIOS.filter((ratio) => 60 / (usual * ratio) >= range.low && 60 / (usual * ratio) <= range.high);
  // Where no multiple fits, the nearest to the range is all there is.
  const ratios =
    inRange.length > 0
      ? inRange
      : [RATIOS.reduce((a, b) => (outside(60 / (usual * b), range) < outside(60 / (usual * a), range) ? b : a))];
  let best: number[] = [];
  let top = -Infinity;
  ratios.forEach((ratio, i) => {
    const tracked = trackBeats(accents, rate, { hop: path.hop, periods: path.periods.map((period) => period * ratio) });
    // Half way between may be the beat too: a loud off-beat draws all of them.
    for (const beats of [tracked, tracked.slice(1).map((beat, n) => (beat + tracked[n]!) / 2)]) {
      if (beats.length < 4) continue;
      const value = likelihood(levelFeatures(novelty, accents, beats));
      if (value > top) [top, best] = [value, beats];
    }
    onStep(0.5 + (0.5 * (i + 1)) / ratios.length);
  });
  return best;
}

const outside = (tempo: number, { low, high }: TempoRange) =>
  Math.max(0, Math.log(low / tempo), Math.log(tempo / high));

/** Beats within the sound, none nearer than 50 ms to the one before. */
function spaced(times: readonly number[], seconds: number): number[] {
  const kept: number[] = [];
  for (const time of times)
    if (time >= 0 && time <= seconds && (kept.length === 0 || time - kept.at(-1)! > 0.05)) kept.push(time);
  return kept;
}
