import { InvalidInput } from '../foundation/errors.js';
import type { Rate } from './rate.js';

/** An exact signed fraction in lowest terms, `den` > 0. */
export interface Rational {
  readonly num: bigint;
  readonly den: bigint;
}

function gcd(a: bigint, b: bigint): bigint {
  if (a < 0n) a = -a;
  while (b !== 0n) [a, b] = [b, a % b];
  return a;
}

/** Throws `RangeError` when `den` is zero: callers have checked what came from outside. */
export function rational(num: bigint, den: bigint): Rational {
  if (den === 0n) throw new RangeError('a fraction with denominator 0');
  if (den < 0n) [num, den] = [-num, -den];
  const divisor = gcd(num, den) || 1n;
  return { num: num / divisor, den: den / divisor };
}

export function fromRate(r: Rate): Rational {
  return { num: BigInt(r.num), den: BigInt(r.den) };
}

export function multiply(a: Rational, b: Rational): Rational {
  return rational(a.num * b.num, a.den * b.den);
}

export function divide(a: Rational, b: Rational): Rational {
  return rational(a.num * b.den, a.den * b.num);
}

/** The nearest double of k · r, exact before the one rounding at the end (k a whole number). */
export function timesWhole(k: number, r: Rational): number {
  const product = BigInt(k) * r.num;
  const whole = product / r.den;
  return Number(whole) + Number(product - whole * r.den) / Number(r.den);
}

export function toNumber(r: Rational): number {
  return timesWhole(1, r);
}

/** Reads a decimal such as `-33.3` exactly. Throws `InvalidInput`. */
export function parseDecimal(text: string, field: string): Rational {
  const match = /^([+-]?)(\d{1,15})(?:\.(\d{1,15}))?$/.exec(text.trim());
  if (!match) throw new InvalidInput(field, `"${text}" is not a number`);
  const places = (match[3] ?? '').length;
  const magnitude = BigInt(match[2]! + (match[3] ?? ''));
  return rational(match[1] === '-' ? -magnitude : magnitude, 10n ** BigInt(places));
}
