import { BAR_NETWORKS } from './bar-networks.js';
import { PLACES, type PulseTable } from './level-features.js';
import { meanScoreOf } from './network.js';

/** Which beats begin bars. */
export interface Bars {
  /** Beats a bar. */
  readonly beats: number;
  /** The first beat that begins one. */
  readonly first: number;
  /** How likely that is, 0…1. */
  readonly confidence: number;
}

/** Beats a bar that are looked for. */
const METERS = [2, 3, 4, 5, 7] as const;

/** How much a score counts, in nats: chosen so that what is said to be sure is. */
const WEIGHT = 1;

/**
 * Bars by what changes with them: the harmony, what is low (bass and kick come on the first beat), what is middle (the snare does not).
 * `table` is what was heard at the beats.
 */
export function findBars(table: PulseTable): Bars {
  const candidates = barCandidates(table);
  const scores = candidates.map(({ input }) => WEIGHT * meanScoreOf(BAR_NETWORKS, input));
  const top = scores.reduce((best, score, i) => (score > scores[best]! ? i : best), 0);
  const all = scores.reduce((sum, score) => sum + Math.exp(score - scores[top]!), 0);
  const { beats, first } = candidates[top]!;
  return { beats, first, confidence: 1 / all };
}

/** Every way to count bars, and what speaks for it in the order the network was fitted with: numbers of about −3 … 3. */
export function barCandidates(
  table: PulseTable,
): { readonly beats: number; readonly first: number; readonly input: number[] }[] {
  const curves = evidenceOf(table);
  const gap =
    table.beats.length > 1 ? (table.beats.at(-1)! - table.beats[0]!) / (table.beats.length - 1) / table.rate : 0.5;
  const tempo = Math.log(gap / 0.5);
  return METERS.flatMap((beats) => {
    const means = curves.map((curve) => classMeans(curve, beats));
    // Harmonies change every second bar, and songs go in fours.
    const longer = curves.map((curve) => classMeans(curve, 2 * beats));
    return Array.from({ length: beats }, (_, first) => ({
      ...{ beats, first },
      input: [
        ...means.flatMap((of) => standingOut(of, first)),
        ...longer.map(
          (of) => Math.max(of[first]!, of[first + beats]!) - Math.max(...of.filter((_, c) => c % beats !== first)),
        ),
        ...METERS.flatMap((meter) => (meter === beats ? [1, tempo] : [0, 0])),
        first === 0 ? 1 : 0,
      ],
    }));
  });
}

/** At each beat, less the mean, over the deviation: what rises on it in each band and half way after it, the harmony, how loud it is low. */
function evidenceOf({ beats, rises, levels, harmony }: PulseTable): number[][] {
  const at = (values: Float64Array, place: number) => standard(beats.map((_, i) => values[i * PLACES + place]!));
  return [
    at(rises.low, 0),
    at(rises.mid, 0),
    at(rises.high, 0),
    at(rises.accents, 0),
    at(rises.low, 6),
    at(rises.mid, 6),
    at(harmony, 0),
    at(levels.lowLevel, 0),
    at(levels.midLevel, 0),
  ];
}

function standard(list: readonly number[]): number[] {
  const middle = mean(list);
  const spread = Math.sqrt(mean(list.map((value) => (value - middle) ** 2))) + 1e-6;
  return list.map((value) => (value - middle) / spread);
}

function classMeans(list: readonly number[], size: number): number[] {
  return Array.from({ length: size }, (_, c) => mean(list.filter((_v, i) => i % size === c)));
}

/** How a bar's first beat stands out of the others: of their mean, of the strongest; the one after it; how unlike they all are. */
function standingOut(means: readonly number[], first: number): number[] {
  const size = means.length;
  const own = means[first]!;
  const others = means.filter((_, c) => c !== first);
  const half = size % 2 === 0 ? means[(first + size / 2) % size]! : mean(others);
  return [
    own - mean(others),
    own - Math.max(...others),
    own - means[(first + 1) % size]!,
    own - half,
    mean(means.map((value) => value * value)) - (size - 1) / 60,
  ];
}

const mean = (list: readonly number[]) => (list.length > 0 ? list.reduce((a, b) => a + b, 0) / list.length : 0);
