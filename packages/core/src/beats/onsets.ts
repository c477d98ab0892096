import type { Novelty } from './novelty.js';

export type OnsetBand = 'low' | 'mid' | 'high';

/** Something that begins: a drum, a note. */
export interface Onset {
  /** Seconds. */
  readonly time: number;
  readonly band: OnsetBand;
  /** 0…1 of the strongest in its band. */
  readonly strength: number;
}

/** A peak must stand this much above the mean around it, as shares of the band's usual peak. */
const ABOVE: Readonly<Record<OnsetBand, number>> = { low: 0.3, mid: 0.22, high: 0.12 };

/** … and by this much at least, in the novelty's own measure: quieter is noise. */
const LEAST: Readonly<Record<OnsetBand, number>> = { low: 0.15, mid: 0.15, high: 0.11 };

/** Seconds two onsets of a band are apart at least. */
const APART = 0.06;

/** Seconds a band's rises come before (−) or after what begins: measured on drawn music. */
export const LATE: Readonly<Record<OnsetBand | 'sharp', number>> = {
  low: -0.0015,
  mid: 0.0014,
  high: 0.0034,
  sharp: 0.0033,
};

/** Onsets of several bands this near to each other, in seconds, are one event. */
const TOGETHER = 0.03;

/** The onsets of all bands, in order of time. What begins in several bands at once has one time: that of the band that tells best. */
export function findOnsets(novelty: Novelty): Onset[] {
  const found = BANDS.flatMap((band) =>
    peaksOf(novelty[band], novelty.rate, ABOVE[band], LEAST[band]).map(({ at, strength }) => ({
      time: Math.max(0, at - LATE[band]),
      band,
      strength,
    })),
  ).sort((a, b) => a.time - b.time);
  for (let i = 0; i < found.length;) {
    let end = i + 1;
    while (end < found.length && found[end]!.time - found[i]!.time < TOGETHER) end++;
    const event = found.slice(i, end);
    const { time } = event.reduce((best, each) => (BANDS.indexOf(each.band) < BANDS.indexOf(best.band) ? each : best));
    event.forEach((each, n) => (found[i + n] = { ...each, time }));
    i = end;
  }
  return found;
}

/** By how well each says when: what is high is shortest. */
const BANDS: readonly OnsetBand[] = ['high', 'mid', 'low'];

/** Peaks of a novelty curve: the greatest within ±30 ms, above the mean of ±100 ms by a share of what the curve's strong peaks reach. */
function peaksOf(curve: Float32Array, rate: number, above: number, least: number): { at: number; strength: number }[] {
  const near = Math.round(0.03 * rate);
  const around = Math.round(0.1 * rate);
  const usual = strongPeak(curve);
  if (usual <= 0) return [];
  const peaks: { at: number; strength: number }[] = [];
  const sums = new Float64Array(curve.length + 1);
  for (let i = 0; i < curve.length; i++) sums[i + 1] = sums[i]! + curve[i]!;
  for (let i = 1; i + 1 < curve.length; i++) {
    const value = curve[i]!;
    if (value < curve[i - 1]! || value <= curve[i + 1]!) continue;
    let greatest = true;
    for (let j = Math.max(0, i - near); j <= Math.min(curve.length - 1, i + near) && greatest; j++)
      if (curve[j]! > value) greatest = false;
    if (!greatest) continue;
    const [from, to] = [Math.max(0, i - around), Math.min(curve.length, i + around + 1)];
    const mean = (sums[to]! - sums[from]!) / (to - from);
    if (value - mean < Math.max(above * usual, least)) continue;
    const at = (i + vertexOf(curve[i - 1]!, value, curve[i + 1]!)) / rate;
    const last = peaks.at(-1);
    if (last && at - last.at < APART) {
      if (value / usual > last.strength) peaks[peaks.length - 1] = { at, strength: Math.min(1, value / usual) };
    } else peaks.push({ at, strength: Math.min(1, value / usual) });
  }
  return peaks;
}

/** Where a parabola through three neighbours is highest, −½ … ½ from the middle one. */
export function vertexOf(before: number, middle: number, after: number): number {
  const bend = before - 2 * middle + after;
  return bend < 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (before - after)) / bend)) : 0;
}

/** What a strong peak of the curve reaches: the 95th percentile of its local maxima, silence apart. */
function strongPeak(curve: Float32Array): number {
  const maxima: number[] = [];
  for (let i = 1; i + 1 < curve.length; i++)
    if (curve[i]! >= curve[i - 1]! && curve[i]! > curve[i + 1]! && curve[i]! > 1e-4) maxima.push(curve[i]!);
  maxima.sort((a, b) => a - b);
  // Most maxima are ripple.
  const upper = maxima.slice(Math.floor(maxima.length * 0.5));
  return upper[Math.floor(upper.length * 0.8)] ?? 0;
}
