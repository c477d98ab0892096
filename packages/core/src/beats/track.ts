import type { PulsePath } from './tempo.js';

/** How firmly beats keep to a pulse that is steady, and to one whose tempo goes up and down: it is known less well from moment to moment. */
const FIRM = 500;
const FIRM_UNSTEADY = 100;

/** A pulse is steady whose periods differ by less than this share from one another, sudden changes apart. */
const STEADY = 0.015;

const SUDDEN = 0.08;

/** Whether a pulse goes over from one tempo to another at once. */
export const changesSuddenly = ({ periods }: PulsePath): boolean =>
  periods.some((period, i) => i > 0 && Math.abs(Math.log(period / periods[i - 1]!)) > SUDDEN);

/** Whether a pulse keeps its tempo; one with a sudden change keeps two. */
export function isSteady(path: PulsePath): boolean {
  if (changesSuddenly(path)) return true;
  const { periods } = path;
  const middle = mean(periods.map(Math.log));
  return Math.sqrt(mean(periods.map((period) => (Math.log(period) - middle) ** 2))) < STEADY;
}

const mean = (list: Float64Array) => list.reduce((sum, value) => sum + value, 0) / list.length;

/** The pulse's period, frames, at a frame. */
function periodAt({ hop, periods }: PulsePath, frame: number, rate: number): number {
  const place = Math.max(0, Math.min(periods.length - 1, frame / hop));
  const i = Math.min(periods.length - 1, Math.floor(place));
  const j = Math.min(periods.length - 1, i + 1);
  // Between entries of a sudden change there is no tempo of its own.
  const [a, b] = [periods[i]!, periods[j]!];
  const period = Math.abs(Math.log(b / a)) > SUDDEN ? (place - i < 0.5 ? a : b) : a + (place - i) * (b - a);
  return period * rate;
}

/**
 * Beats that are strong in `accents` and keep to the pulse, in frames: D. Ellis, "Beat Tracking by Dynamic Programming",
 * J. New Music Research 36 (2007), with a pulse that may change. `accents` is never below 0, its mean square 1.
 */
export function trackBeats(accents: Float32Array, rate: number, path: PulsePath): number[] {
  const n = accents.length;
  const firm = isSteady(path) ? FIRM : FIRM_UNSTEADY;
  const score = new Float64Array(n);
  const back = new Int32Array(n).fill(-1);
  const logs = Float64Array.from({ length: Math.min(n, 4096) }, (_, gap) => Math.log(gap));
  for (let t = 0; t < n; t++) {
    const period = periodAt(path, t, rate);
    let best = 0;
    let from = -1;
    const near = Math.max(1, Math.round(period * 0.7));
    const far = Math.min(t, Math.round(period * 1.4));
    const middle = Math.log(period);
    for (let gap = near; gap <= far; gap++) {
      const off = logs[gap]! - middle;
      const value = score[t - gap]! - firm * off * off;
      if (value > best) [best, from] = [value, t - gap];
    }
    score[t] = accents[t]! + best;
    back[t] = from;
  }
  // The last beat is the best of the last period.
  const period = periodAt(path, n - 1, rate);
  let t = n - 1;
  for (let i = Math.max(0, n - Math.ceil(period)); i < n; i++) if (score[i]! > score[t]!) t = i;
  const beats: number[] = [];
  for (; t >= 0; t = back[t]!) beats.push(t);
  return beats.reverse();
}
