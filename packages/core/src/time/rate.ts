import { InvalidInput } from '../foundation/errors.js';

/** Frames per second as an exact rational in lowest terms; both parts are positive safe integers. Never a float. */
export interface Rate {
  readonly num: number;
  readonly den: number;
}

const LOWEST_RATE = 1;

const HIGHEST_RATE = 1000;

/** The NTSC family as people type it; each means an exact multiple of 1000/1001 (SMPTE ST 12-1). */
const NTSC: Readonly<Record<string, Rate>> = {
  '23.976': { num: 24000, den: 1001 },
  '23.98': { num: 24000, den: 1001 },
  '29.97': { num: 30000, den: 1001 },
  '47.952': { num: 48000, den: 1001 },
  '47.95': { num: 48000, den: 1001 },
  '59.94': { num: 60000, den: 1001 },
  '119.88': { num: 120000, den: 1001 },
  '239.76': { num: 240000, den: 1001 },
};

function greatestCommonDivisor(a: number, b: number): number {
  while (b !== 0) [a, b] = [b, a % b];
  return a;
}

/** Makes a rate in lowest terms. Throws `InvalidInput` unless both parts are positive integers and 1 ≤ num/den ≤ 1000. */
export function rate(num: number, den = 1, field = 'rate'): Rate {
  if (!Number.isSafeInteger(num) || !Number.isSafeInteger(den) || num <= 0 || den <= 0)
    throw new InvalidInput(field, `"${num}/${den}" is not a rate; give two positive whole numbers such as 24000/1001`);
  if (num < LOWEST_RATE * den || num > HIGHEST_RATE * den)
    throw new InvalidInput(field, `${num}/${den} frames per second is outside ${LOWEST_RATE} to ${HIGHEST_RATE}`);
  const divisor = greatestCommonDivisor(num, den);
  return { num: num / divisor, den: den / divisor };
}

/** Parses `24`, `23.976`, `12.5` or `30000/1001`. Decimals are exact, save for the NTSC family. Throws `InvalidInput`. */
export function parseRate(text: string, field = 'rate'): Rate {
  const trimmed = text.trim();
  const ntsc = NTSC[trimmed];
  if (ntsc) return ntsc;
  const fraction = /^(\d{1,12})\/(\d{1,12})$/.exec(trimmed);
  if (fraction) return rate(Number(fraction[1]), Number(fraction[2]), field);
  const decimal = /^(\d{1,4})(?:\.(\d{1,9}))?$/.exec(trimmed);
  if (!decimal) throw new InvalidInput(field, `"${text}" is not a rate; write 24, 23.976 or 30000/1001`);
  const places = (decimal[2] ?? '').length;
  return rate(Number(decimal[1] + (decimal[2] ?? '')), 10 ** places, field);
}

/** `24` or `24000/1001`: the form `parseRate` reads back to the same value. */
export function formatRate(r: Rate): string {
  return r.den === 1 ? String(r.num) : `${r.num}/${r.den}`;
}

/** The way people say it: 23.976, 24, 59.94; at most three decimals. */
export function speakRate(r: Rate): string {
  return String(Math.round((r.num / r.den) * 1000) / 1000).replace(/^(29\.97|59\.94|119\.88|239\.76)\d*$/, '$1');
}

export function sameRate(a: Rate, b: Rate): boolean {
  return a.num === b.num && a.den === b.den;
}

export function framesPerSecond(r: Rate): number {
  return r.num / r.den;
}

/** Time in seconds at which frame `frame` starts; one rounding, so it never drifts however large the frame number. */
export function frameToSeconds(frame: number, r: Rate): number {
  return (frame * r.den) / r.num;
}

export function secondsToFrames(seconds: number, r: Rate): number {
  return (seconds * r.num) / r.den;
}

/** k₀: source frames per timeline frame at 100 %. */
export function naturalSlope(source: Rate, timeline: Rate): number {
  return (source.num * timeline.den) / (source.den * timeline.num);
}
