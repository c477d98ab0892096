import { meanChroma, type Novelty } from './novelty.js';

/** Seconds either side of a place that still belong to it. */
const NEAR = 0.018;

/** A beat is listened to at so many places: halves, thirds and quarters are among them. */
export const PLACES = 12;

const CURVES = ['low', 'mid', 'high', 'sharp', 'accents'] as const;

const LEVELS = ['lowLevel', 'midLevel'] as const;

/** Centres of the bells that a period is described by: ln of seconds over half a second, and how wide they are. */
const BELLS = [-0.75, -0.5, -0.25, 0, 0.25, 0.5, 0.75] as const;

const BELL_WIDTH = 0.25;

/** Beats without this much of an accent, in deviations, are silent. */
const SILENT = 0.5;

type Curve = (typeof CURVES)[number];

/**
 * What was heard in a pulse: at `PLACES` places of every beat. Places go on over the beats, so that beats that begin at another place of the
 * pulse are the same table read from there.
 */
export interface PulseTable {
  /** The pulse's beats in frames. */
  readonly beats: readonly number[];
  readonly rate: number;
  /** The strongest rise near each place. */
  readonly rises: Readonly<Record<Curve, Float64Array>>;
  /** How loud it is just after each place. */
  readonly levels: Readonly<Record<(typeof LEVELS)[number], Float64Array>>;
  /** How unlike the harmony of the half beat after each place is to that before. */
  readonly harmony: Float64Array;
  /** Mean of each curve over the whole sound. */
  readonly means: Readonly<Record<Curve, number>>;
}

/** Listens to a pulse of at least two beats, in frames. */
export function pulseTable(novelty: Novelty, accents: Float32Array, beats: readonly number[]): PulseTable {
  const { rate, chroma, low, mid, high, sharp } = novelty;
  const near = Math.max(1, Math.round(NEAR * rate));
  const count = beats.length * PLACES;
  const places = Float64Array.from({ length: count }, (_, n) => {
    const i = Math.floor(n / PLACES);
    return beats[i]! + ((n % PLACES) / PLACES) * gapOf(beats, i);
  });
  const curves = { low, mid, high, sharp, accents };
  const all = <K extends string>(names: readonly K[], of: (name: K) => Float64Array) =>
    Object.fromEntries(names.map((name) => [name, of(name)])) as Record<K, Float64Array>;
  return {
    ...{ beats, rate },
    rises: all(CURVES, (name) => places.map((place) => highest(curves[name], place, near))),
    levels: all(LEVELS, (name) => places.map((place) => meanAfter(novelty[name], place, 2 * near))),
    // Every third place is fine enough for what lasts half a beat.
    harmony: places.map((place, n) =>
      n % 3 === 0 ? change(chroma, place, gapOf(beats, Math.floor(n / PLACES)) / 2) : 0,
    ),
    means: Object.fromEntries(CURVES.map((name) => [name, mean(curves[name])])) as Record<Curve, number>,
  };
}

const gapOf = (beats: readonly number[], i: number) => {
  const next = Math.min(beats.length - 1, i + 1);
  return beats[next]! - beats[next - 1]!;
};

function highest(curve: Float32Array, place: number, near: number): number {
  const at = Math.round(place);
  let most = 0;
  for (let i = Math.max(0, at - near); i <= Math.min(curve.length - 1, at + near); i++)
    if (curve[i]! > most) most = curve[i]!;
  return most;
}

function meanAfter(curve: Float32Array, place: number, length: number): number {
  const from = Math.max(0, Math.min(curve.length - 1, Math.round(place)));
  const to = Math.min(curve.length, from + length);
  let sum = 0;
  for (let i = from; i < to; i++) sum += curve[i]!;
  return sum / (to - from);
}

function change(chroma: Float32Array, at: number, half: number): number {
  const [a, b] = [meanChroma(chroma, at - half, at), meanChroma(chroma, at, at + half)];
  let sum = 0;
  for (let c = 0; c < 12; c++) sum += (a[c]! - b[c]!) ** 2;
  return sum;
}

/** The table as it is read from the beats that begin so many places after the pulse's. */
export interface Reading {
  readonly table: PulseTable;
  readonly phase: number;
  /** What was heard so many places after each of those beats. */
  at(values: Float64Array, place: number): Float64Array;
}

export function readingOf(table: PulseTable, phase: number): Reading {
  const known = new Map<Float64Array, Map<number, Float64Array>>();
  const read = (values: Float64Array, place: number) => {
    const heard = new Float64Array(table.beats.length);
    for (let i = 0, n = phase + place; i < heard.length; i++, n += PLACES)
      heard[i] = values[n < values.length ? n : n - PLACES]!;
    return heard;
  };
  return {
    ...{ table, phase },
    at(values, place) {
      let places = known.get(values);
      if (!places) known.set(values, (places = new Map()));
      let heard = places.get(place);
      if (!heard) places.set(place, (heard = read(values, place)));
      return heard;
    },
  };
}

/**
 * What tells a beat from its half, its double, or a time between: of the reading's beats `from` to before `to`. Numbers of about −3 … 3.
 */
export function levelFeatures(reading: Reading, from: number, to: number): number[] {
  const { table, phase } = reading;
  const { means } = table;
  const count = to - from;
  const at = (values: Float64Array, place: number) => reading.at(values, place).subarray(from, to);
  const features: number[] = [];
  for (const name of CURVES) {
    const rises = table.rises[name];
    const least = 0.02 * means[name] + 1e-6;
    const onBeat = at(rises, 0);
    const half = at(rises, 6);
    const on = mean(onBeat);
    const [quarter, threeQuarters] = [mean(at(rises, 3)), mean(at(rises, 9))];
    features.push(
      Math.max(-3, Math.min(3, Math.log((on + least) / (means[name] + least)))),
      share(mean(half), on, least),
      share((mean(at(rises, 4)) + mean(at(rises, 8))) / 2, on, least),
      share((quarter + threeQuarters) / 2, on, least),
      share(quarter, threeQuarters, least),
      share(mean(at(rises, 8)), threeQuarters, least),
      ...takesTurns(onBeat, least),
      Math.min(3, spreadOf(onBeat) / (on + least)),
      shareAbove(onBeat, half),
    );
  }
  for (const name of LEVELS) {
    const of = [0, 3, 6, 9].map((place) => mean(at(table.levels[name], place)));
    const middle = mean(of);
    const spread = spreadOf(Float64Array.from(of)) + 0.02 * middle + 1e-6;
    features.push(...of.map((value) => (value - middle) / spread), Math.min(3, (2 * spread) / (middle + 1e-6)));
  }
  const [on, quarter, half, threeQuarters] = [0, 3, 6, 9].map((place) => at(table.harmony, place - (phase % 3)));
  features.push(
    share(mean(half!), mean(on!), 1e-3),
    share((mean(quarter!) + mean(threeQuarters!)) / 2, mean(on!), 1e-3),
    Math.min(3, mean(on!)),
    ...takesTurns(on!, 1e-3),
    ...drums(table, at),
    ...ends(at(table.rises.accents, 0), at(table.rises.accents, 6)),
  );
  const gaps = Float64Array.from({ length: Math.max(1, count - 1) }, (_, n) => gapOf(table.beats, from + n));
  const period = [...gaps].sort((a, b) => a - b)[gaps.length >> 1]! / table.rate;
  const tempo = Math.log(period / 0.5);
  features.push(tempo, tempo * tempo, Math.min(3, (20 * spreadOf(gaps)) / mean(gaps)));
  for (const centre of BELLS) features.push(Math.exp(-0.5 * ((tempo - centre) / BELL_WIDTH) ** 2));
  return features;
}

/** What drums do: kicks (low and sharp at once) on the beat against elsewhere; kick and snare by turns; how many beats are silent. */
function drums({ rises, means }: PulseTable, at: (values: Float64Array, place: number) => Float64Array): number[] {
  const kicks = (place: number) => {
    const sharp = at(rises.sharp, place);
    const low = at(rises.low, place);
    let sum = 0;
    for (let i = 0; i < low.length; i++) sum += low[i]! * sharp[i]!;
    return sum / Math.max(1, low.length);
  };
  const least = 0.02 * means.low * means.sharp + 1e-6;
  const parity = (values: Float64Array) => {
    const [even, odd] = classes(at(values, 0), 2);
    return (even! - odd!) / (even! + odd! + 0.02);
  };
  const [low, mid, high] = [parity(rises.low), parity(rises.mid), parity(rises.high)];
  const silent = (place: number) => {
    let count = 0;
    const heard = at(rises.accents, place);
    for (const value of heard) if (value < SILENT) count++;
    return count / Math.max(1, heard.length);
  };
  return [
    share(kicks(6), kicks(0), least),
    share(kicks(3) + kicks(9), kicks(0), least),
    -low * mid,
    -low * high,
    silent(0),
    silent(6),
  ];
}

/** Whether what comes first, and last, is on the beat (1) or half way between (0). */
function ends(on: Float64Array, half: Float64Array): number[] {
  const heard = (value: number) => value > 2 * SILENT;
  const first = [on.findIndex(heard), half.findIndex(heard)];
  const last = [on.findLastIndex(heard), half.findLastIndex(heard)];
  return [first[0]! < 0 ? 0.5 : first[1]! < 0 || first[0]! <= first[1]! ? 1 : 0, last[0]! > last[1]! ? 1 : 0];
}

/** How unlike beats are that come every second, every third, every fourth time: the one that stands out most, against the rest. */
function takesTurns(values: Float64Array, least: number): number[] {
  return [2, 3, 4].map((size) => {
    if (values.length < 2 * size) return 0;
    const of = classes(values, size);
    const top = Math.max(...of);
    const rest = (of.reduce((a, b) => a + b, 0) - top) / (size - 1);
    return (top - rest) / (top + rest + least);
  });
}

/** The means of every `size`th. */
function classes(values: Float64Array, size: number): number[] {
  const sums = new Array<number>(size).fill(0);
  const counts = new Array<number>(size).fill(0);
  values.forEach((value, i) => {
    sums[i % size]! += value;
    counts[i % size]! += 1;
  });
  return sums.map((sum, c) => sum / Math.max(1, counts[c]!));
}

const share = (a: number, b: number, least: number) => (a + least) / (a + b + 2 * least);

function shareAbove(a: Float64Array, b: Float64Array): number {
  let count = 0;
  for (let i = 0; i < a.length; i++) if (a[i]! > b[i]!) count++;
  return a.length > 0 ? count / a.length : 0.5;
}

function mean(list: ArrayLike<number>): number {
  let sum = 0;
  for (let i = 0; i < list.length; i++) sum += list[i]!;
  return list.length > 0 ? sum / list.length : 0;
}

function spreadOf(list: Float64Array): number {
  const middle = mean(list);
  let sum = 0;
  for (const value of list) sum += (value - middle) ** 2;
  return list.length > 0 ? Math.sqrt(sum / list.length) : 0;
}
