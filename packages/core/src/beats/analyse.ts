import { accentsOf } from './accents.js';
import { findBars } from './bars.js';
import { chooseBeats } from './choose.js';
import { withoutFalseHats } from './hats.js';
import { pulseTable } from './level-features.js';
import { noveltyOf } from './novelty.js';
import { findOnsets, type Onset } from './onsets.js';
import { refineBeats } from './refine.js';
import { ANY_TEMPO, type TempoRange } from './tempo-range.js';
import { tempoOf } from './tempo-of.js';

/** What was heard in a sound. Times are seconds from its first sample. */
export interface BeatAnalysis {
  /** Beats a minute: the median of the beats' own. */
  readonly tempo: number;
  /** Strictly increasing. */
  readonly beats: readonly number[];
  /** Beats a bar, and the first beat that begins one. */
  readonly bar: { readonly beats: number; readonly first: number };
  readonly onsets: readonly Onset[];
  /** How sure that is, stretch by stretch of a few seconds. */
  readonly sections: readonly BeatSection[];
}

/** A stretch of a sound, in seconds, and how sure its beats are. */
export interface BeatSection {
  readonly from: number;
  readonly to: number;
  /** Beats a minute. */
  readonly tempo: number;
  /** How likely each is, 0…1: the tempo; if it is that, that beats are where they are said; that bars begin where they are said. */
  readonly confidence: { readonly tempo: number; readonly phase: number; readonly bar: number };
  /** How likely the beats are half a beat later, 0…1. */
  readonly later: number;
}

/** In less there is no pulse to be found. */
const MIN_SECONDS = 2;

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
  const onsets = withoutFalseHats(findOnsets(novelty), samples, rate);
  const accents = accentsOf(novelty);
  const chosen =
    novelty.frames < MIN_SECONDS * novelty.rate
      ? undefined
      : chooseBeats(novelty, accents, range, (share) => onStep(0.4 + 0.55 * share));
  if (!chosen || chosen.beats.length < 2)
    return { tempo: 120, beats: [], bar: { beats: 4, first: 0 }, onsets, sections: [] };
  const times = spaced(refineBeats(chosen.beats, novelty.sharp, novelty.rate), samples.length / rate);
  const { confidence, ...bar } = findBars(pulseTable(novelty, accents, chosen.beats));
  onStep(1);
  const sections = chosen.windows.map(({ from, to, period, tempo, phase, later }) => ({
    ...{ from: from / novelty.rate, to: to / novelty.rate, tempo: (60 * novelty.rate) / period },
    ...{ confidence: { tempo, phase, bar: confidence }, later },
  }));
  return { tempo: tempoOf(times) ?? 120, beats: times, bar, onsets, sections };
}

/** Beats within the sound, none nearer than 50 ms to the one before. */
function spaced(times: readonly number[], seconds: number): number[] {
  const kept: number[] = [];
  for (const time of times)
    if (time >= 0 && time <= seconds && (kept.length === 0 || time - kept.at(-1)! > 0.05)) kept.push(time);
  return kept;
}
