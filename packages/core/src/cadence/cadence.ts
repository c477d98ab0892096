import type { Rate } from '../time/rate.js';
import { divide, fromRate, multiply, type Rational, rational, toNumber } from '../time/rational.js';

/**
 * How a constant speed falls on whole source frames. At p/q source frames per timeline frame (lowest terms), starting
 * on a whole frame, exactly 1 of every q frames is real and the pattern repeats every q.
 */
export interface Cadence {
  readonly realEvery: number;
  /** Under Step: is motion even, each frame held alike or skipped alike. */
  readonly even: boolean;
  /** Nothing has to be made between frames. */
  readonly allReal: boolean;
  /** Under Step: how long each shown source frame is held over one period, or at most its first 12 holds. */
  readonly holds: readonly number[];
}

/** Source frames per timeline frame at a speed, exactly. */
export function stepOf(speed: Rational, source: Rate, timeline: Rate): Rational {
  return multiply(speed, divide(fromRate(source), fromRate(timeline)));
}

/** The cadence of a step (its sign does not matter; 0 is a freeze, all real). */
export function cadence(step: Rational): Cadence {
  const p = step.num < 0n ? -step.num : step.num;
  const q = step.den;
  if (p === 0n) return { realEvery: 1, even: true, allReal: true, holds: [] };
  return { realEvery: Number(q), even: p === 1n || q === 1n, allReal: q === 1n, holds: holdLengths(p, q) };
}

function holdLengths(p: bigint, q: bigint): number[] {
  if (p >= q) return [1];
  const holds: number[] = [];
  for (let n = 0n; n < p && holds.length < 12; n++)
    holds.push(Number(ceilDivide((n + 1n) * q, p) - ceilDivide(n * q, p)));
  return holds;
}

const ceilDivide = (a: bigint, b: bigint) => (a + b - 1n) / b;

/** In a sentence: "1 of 5 frames real, repeats every 5; under Step holds 3, 2". */
export function describeCadence({ realEvery, even, allReal, holds }: Cadence): string {
  if (allReal) return 'every frame real';
  const real = `1 of ${realEvery} frames real, repeats every ${realEvery}`;
  if (even) return `${real}; under Step each frame is held ${holds[0]}`;
  if (holds.length === 1) return `${real}; under Step frames are skipped unevenly`;
  return `${real}; under Step holds ${holds.join(', ')}`;
}

/** Speeds (1 = 100 %) at which motion is even under Step for this source and timeline, within [slowest, fastest], rising. */
export function evenSpeeds(source: Rate, timeline: Rate, slowest: number, fastest: number): number[] {
  const k0 = divide(fromRate(source), fromRate(timeline));
  const speeds = new Set<number>();
  const most = Math.floor(fastest * toNumber(k0) + 1e-9);
  for (let n = 1; n <= Math.min(most, 10_000); n++) speeds.add(toNumber(divide(rational(BigInt(n), 1n), k0)));
  const longestHold = Math.floor(1 / (slowest * toNumber(k0)) + 1e-9);
  for (let n = 1; n <= Math.min(longestHold, 10_000); n++) speeds.add(toNumber(divide(rational(1n, BigInt(n)), k0)));
  return [...speeds].filter((v) => v >= slowest - 1e-12 && v <= fastest + 1e-12).sort((a, b) => a - b);
}

/**
 * The even speed nearest to `speed` on a logarithmic scale, or `undefined` when the nearest is further than `octaves` away. Keeps
 * the sign. Even are the speeds that skip whole frames or hold each frame alike: n/k₀ and 1/(n·k₀).
 */
export function nearestEvenSpeed(speed: number, source: Rate, timeline: Rate, octaves: number): number | undefined {
  const k0 = toNumber(divide(fromRate(source), fromRate(timeline)));
  const step = Math.abs(speed) * k0;
  if (step === 0) return undefined;
  const count = step >= 1 ? step : 1 / step;
  // On a logarithmic scale the middle between two neighbours is the root of their product.
  const lower = Math.floor(count);
  const nearest = count * count < lower * (lower + 1) ? lower : lower + 1;
  const even = step >= 1 ? nearest : 1 / nearest;
  return Math.abs(Math.log2(even / step)) <= octaves ? (Math.sign(speed) * even) / k0 : undefined;
}

/** The lowest speed that needs no made frames: 1/k₀. */
export function slowestRealSpeed(source: Rate, timeline: Rate): number {
  return toNumber(divide(fromRate(timeline), fromRate(source)));
}

/** The cadence of a speed given as a ratio, when it is a clean one: a whole number of ten-thousandths of a percent. */
export function cadenceOfSpeed(speed: number, source: Rate, timeline: Rate): Cadence | undefined {
  const millionths = Math.round(speed * 1e6);
  if (Math.abs(millionths / 1e6 - speed) > 1e-12 * Math.max(1, Math.abs(speed)) || !Number.isSafeInteger(millionths))
    return undefined;
  return cadence(stepOf(rational(BigInt(millionths), 1_000_000n), source, timeline));
}
