import { evenBeatsNear } from './even.js';
import { PLACES } from './level-features.js';
import type { Novelty } from './novelty.js';
import { pulsePath, type PulsePath } from './tempo.js';
import type { TempoRange } from './tempo-range.js';
import { changesSuddenly, isSteady, trackBeats } from './track.js';

/** What may be the beats: those of a pulse, or as many places (of `PLACES` a beat) after them. */
export interface Candidate {
  /** The pulse's beats in frames, strictly increasing, at least `FEWEST`. */
  readonly pulse: readonly number[];
  readonly phase: number;
}

/** With fewer beats nothing can be said about them. */
export const FEWEST = 4;

/** A pulse that is a simple multiple of a likely one may be the beat instead. */
const RATIOS = [1, 1 / 2, 2, 2 / 3, 3 / 2, 3 / 4, 4 / 3, 1 / 3, 3] as const;

/** A pulse may be found at what is strong, not at the beat: half a beat off, a third, a quarter. */
const PHASES = [0, 6, 3, 9, 4, 8] as const;

/** Two pulses whose periods differ by less than this share are one. */
const SAME = 0.03;

/** Beats that are never further apart than this share of a period are the same ones. */
const SAME_BEATS = 0.1;

/** Parts of a beat that tracked beats slip to, and how near to one of them they lie then. */
const PARTS = [0, 1 / 4, 1 / 3, 1 / 2] as const;
const NEAR_PART = 0.04;

/**
 * With a larger share at such parts tracked beats have slipped; with a smaller one the tempo is not even. In the 1105 tracks of
 * `bench/tracks` it was 0.84 and more for the 15 pulses where only even beats were right, 0.73 and less for the 6 where only tracked ones were.
 */
const SLIPS_ABOVE = 0.85;
const UNEVEN_BELOW = 0.72;

/** What tempo is usual, before anything is heard: ln-normal around 115 a minute. */
const USUAL_PERIOD = 0.52;

const USUAL_SPREAD = 0.7;

const usual = (period: number) => Math.exp(-0.5 * (Math.log(period / USUAL_PERIOD) / USUAL_SPREAD) ** 2);

/**
 * Everything that may be the beats: the likeliest pulse and the most regular steady ones, their simple multiples within `range`, tracked
 * and even, and the places half way between. `accents` is never below 0, its mean square 1. `onStep` is told shares done.
 */
export function candidatesOf(
  { rate }: Novelty,
  accents: Float32Array,
  range: TempoRange,
  onStep: (share: number) => void,
): Candidate[] {
  const path = pulsePath(accents, rate, usual);
  onStep(0.4);
  // A steady pulse within a tempo that goes up and down is the same, kept to less well.
  const steady = path.steady
    .filter((period) => isSteady(path) || !isWithin(period, path))
    .map((period) => ({ hop: path.hop, periods: path.periods.map(() => period) }));
  const families: PulsePath[] = [path, ...steady];
  const paths: PulsePath[] = [];
  families.forEach((pulse, i) => {
    // Beside the likeliest one, only its own half and double.
    for (const ratio of i === 0 ? RATIOS : RATIOS.slice(0, 3)) {
      const each = { hop: pulse.hop, periods: pulse.periods.map((period) => period * ratio) };
      if (!paths.some((known) => Math.abs(Math.log(middle(known) / middle(each))) < SAME)) paths.push(each);
    }
  });
  const inRange = paths.filter((each) => outside(60 / middle(each), range) === 0);
  // Where no multiple fits, the nearest to the range is all there is.
  const tried = inRange.length > 0 ? inRange : [nearest(paths, range)];
  return tried.flatMap((each, i) => {
    const tracked = trackBeats(accents, rate, each);
    const even = evenBeatsNear(accents, middle(each) * rate);
    onStep(0.4 + (0.6 * (i + 1)) / tried.length);
    return likelier(each, tracked, even)
      .filter((pulse) => pulse.length >= FEWEST)
      .flatMap((pulse) => PHASES.map((phase) => ({ pulse, phase })));
  });
}

/**
 * Tracked beats follow a tempo that moves, but where something between the beats is stronger for a while they slip over to it; even beats
 * do neither. Beats that slipped lie at simple parts of the even ones for long, those of a tempo that moves drift through all of them.
 */
function likelier(path: PulsePath, tracked: readonly number[], even: readonly number[]): (readonly number[])[] {
  if (even.length < FEWEST) return [tracked];
  const period = even[1]! - even[0]!;
  const parts = tracked.map((beat) => (beat - even[0]!) / period).map((place) => Math.abs(place - Math.round(place)));
  if (parts.every((part) => part < SAME_BEATS)) return [tracked];
  if (changesSuddenly(path)) return [tracked, even];
  const slipped = parts.filter((part) => PARTS.some((simple) => Math.abs(part - simple) < NEAR_PART)).length;
  const share = slipped / parts.length;
  return share > SLIPS_ABOVE ? [even] : share < UNEVEN_BELOW ? [tracked] : [tracked, even];
}

/** The beats of a candidate, in frames. */
export function beatsOf({ pulse, phase }: Candidate): number[] {
  if (phase === 0) return [...pulse];
  return pulse.slice(1).map((beat, i) => pulse[i]! + (phase / PLACES) * (beat - pulse[i]!));
}

const middle = ({ periods }: PulsePath) => [...periods].sort((a, b) => a - b)[periods.length >> 1]!;

const isWithin = (period: number, { periods }: PulsePath) =>
  period > Math.min(...periods) && period < Math.max(...periods);

const nearest = (paths: readonly PulsePath[], range: TempoRange) =>
  paths.reduce((a, b) => (outside(60 / middle(b), range) < outside(60 / middle(a), range) ? b : a));

const outside = (tempo: number, { low, high }: TempoRange) =>
  Math.max(0, Math.log(low / tempo), Math.log(tempo / high));
