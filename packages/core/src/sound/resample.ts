/** Samples a second of everything that is heard. */
export const SOUND_RATE = 48000;

/** Zero crossings of the kernel on either side. */
const HALF = 32;

/** Kaiser's β for a stop band of 90 dB. */
const BETA = 9;

/** The cut-off, against half the lower of both rates: with that many crossings the stop band begins there. */
const CUT = 0.91;

/** Kernel values from one zero crossing to the next. */
const FINE = 512;

let table: Float64Array | undefined;

/** Half of the kernel, from its middle: a sinc under a Kaiser window (J. Kaiser, "Nonrecursive digital filter design using the I₀-sinh window function", 1974). */
function kernel(): Float64Array {
  if (table) return table;
  const { sin, sqrt, PI } = Math;
  const count = HALF * FINE;
  table = new Float64Array(count + 2);
  const whole = besselI0(BETA);
  for (let i = 0; i <= count; i++) {
    const x = i / FINE;
    const sinc = x === 0 ? CUT : sin(PI * CUT * x) / (PI * x);
    table[i] = (sinc * besselI0(BETA * sqrt(Math.max(0, 1 - (x / HALF) ** 2)))) / whole;
  }
  return table;
}

let rows: Float32Array | undefined;

/** The kernel for every phase between two samples, all its weights side by side: what is read at up to its own rate needs no others. */
function phases(): Float32Array {
  if (rows) return rows;
  const values = kernel();
  rows = new Float32Array((FINE + 1) * 2 * HALF);
  for (let p = 0; p <= FINE; p++)
    for (let k = 0; k < 2 * HALF; k++) rows[p * 2 * HALF + k] = values[Math.abs((k - HALF + 1) * FINE - p)]!;
  return rows;
}

/** The modified Bessel function of order 0, by its series. */
function besselI0(x: number): number {
  let [sum, term] = [1, 1];
  for (let k = 1; term > 1e-17 * sum; k++) sum += term *= (x / (2 * k)) ** 2;
  return sum;
}

/** How far from a position samples are looked at, at a rate. */
export const reachOf = (rate: number): number => Math.ceil(HALF * Math.max(1, Math.abs(rate))) + 1;

type Two = readonly [left: Float32Array, right: Float32Array];

/**
 * A sound read at positions that need not be evenly spaced: band-limited interpolation whose cut-off follows the rate, so that
 * nothing folds back when it is read faster (J. O. Smith and P. Gossett, "A flexible sampling-rate conversion method", ICASSP 1984).
 * @param first the number of the two channels' first sample in the sound; what lies outside them is silence
 * @param positions in samples of the sound, one for each of `out`
 * @param rates samples of the sound passed per sample of `out`, of any sign
 */
export function resample(
  [left, right]: Two,
  first: number,
  positions: Float64Array,
  rates: Float64Array,
  [outLeft, outRight]: Two,
): void {
  const values = kernel();
  const last = left.length - 1;
  const { abs, ceil, floor } = Math;
  for (let n = 0; n < positions.length; n++) {
    const at = positions[n]! - first;
    const rate = abs(rates[n]!);
    if (rate <= 1) {
      readOne(left, right, at, n, outLeft, outRight);
      continue;
    }
    const scale = 1 / rate;
    const wide = HALF / scale;
    const low = Math.max(0, ceil(at - wide));
    const high = Math.min(last, floor(at + wide));
    outLeft[n] = outRight[n] = 0;
    if (!(high >= low)) continue;
    const fine = FINE * scale;
    let [sum, other] = [0, 0];
    for (let i = low; i <= high; i++) {
      const place = abs(i - at) * fine;
      const whole = floor(place);
      const a = values[whole]!;
      const weight = a + (values[whole + 1]! - a) * (place - whole);
      sum += left[i]! * weight;
      other += right[i]! * weight;
    }
    outLeft[n] = sum * scale;
    outRight[n] = other * scale;
  }
}

/** One sample read no faster than the sound runs: two neighbouring phases, blended. */
function readOne(
  left: Float32Array,
  right: Float32Array,
  at: number,
  n: number,
  outLeft: Float32Array,
  outRight: Float32Array,
): void {
  const table = phases();
  const base = Math.floor(at);
  const place = (at - base) * FINE;
  const phase = Math.floor(place);
  const share = place - phase;
  const row = phase * 2 * HALF;
  const first = base - HALF + 1;
  const low = first < 0 ? -first : 0;
  const high = first + 2 * HALF > left.length ? left.length - first : 2 * HALF;
  let [sum, other] = [0, 0];
  for (let k = low; k < high; k++) {
    const weight = table[row + k]! + share * (table[row + 2 * HALF + k]! - table[row + k]!);
    sum += left[first + k]! * weight;
    other += right[first + k]! * weight;
  }
  outLeft[n] = sum;
  outRight[n] = other;
}
