import FFT from 'fft.js';

/**
 * How much begins when: rises of loudness in bands. After S. Böck & G. Widmer, "Maximum Filter Vibrato Suppression for Onset
 * Detection" (DAFx 2013): differences of logarithmic band energies over a short lag, against the strongest neighbour band
 * before, so that a voice that glides is not taken for one that begins.
 */
export interface Novelty {
  /** Frames a second. */
  readonly rate: number;
  readonly frames: number;
  /** What begins below about 160 Hz, between, and above about 5 kHz. */
  readonly low: Float32Array;
  readonly mid: Float32Array;
  readonly high: Float32Array;
  /** All of it, by a window short enough to say when: 12 ms. */
  readonly sharp: Float32Array;
  /** How loud it is below about 160 Hz, and from there to about 5 kHz: logarithmic. */
  readonly lowLevel: Float32Array;
  readonly midLevel: Float32Array;
  /** How loud each of twelve pitch classes is, frame by frame, `CHROMA_EVERY` frames apart. */
  readonly chroma: Float32Array;
}

/** Frames from one chroma to the next. */
const CHROMA_EVERY = 8;

const PER_SECOND = 200;

/** The long window moves on by this many frames at once. */
const LONG_EVERY = 2;

const WINDOW = 1024;

const SHORT = 256;

/** Rises are measured against this many steps before. */
const LONG_LAG = 2;

const SHORT_LAG = 2;

const LOWEST = 30;

const LOW_BELOW = 160;

const HIGH_ABOVE = 5000;

/** Bands an octave above 200 Hz; below, every bin is one. */
const BANDS_AN_OCTAVE = 4;

/** Loudness is log(1 + magnitude / floor); the floor is the loudest magnitude / GAIN, or what the band does not fall below. */
const GAIN = 80;

/** The novelty of one channel at `rate` samples a second (16 000 to 48 000; 22 050 is plenty). */
export function noveltyOf(samples: Float32Array, rate: number): Novelty {
  const hop = Math.round(rate / PER_SECOND);
  const frames = Math.max(1, Math.ceil(samples.length / hop));
  // Half a window of silence before and after.
  const padded = new Float32Array(samples.length + WINDOW + LONG_EVERY * hop);
  padded.set(samples, WINDOW / 2);
  const steps = Math.ceil(frames / LONG_EVERY);
  const long = spectra(padded, hop * LONG_EVERY, steps, WINDOW, bandsOf(rate, WINDOW, BANDS_AN_OCTAVE), rate);
  const short = spectra(padded.subarray((WINDOW - SHORT) / 2), hop, frames, SHORT, bandsOf(rate, SHORT, 2), rate);
  const at = (bands: readonly Band[], hertz: number) => bands.filter(({ centre }) => centre < hertz).length;
  const longRises = (from: number, to: number) =>
    stretched(rises(long.levels, long.bands.length, steps, LONG_LAG, from, to), frames);
  const shortRises = (from: number) =>
    rises(short.levels, short.bands.length, frames, SHORT_LAG, from, short.bands.length);
  const [lowEnd, midEnd] = [at(long.bands, LOW_BELOW), at(long.bands, HIGH_ABOVE)];
  const high = shortRises(at(short.bands, HIGH_ABOVE));
  return {
    rate: rate / hop,
    frames,
    low: longRises(0, lowEnd),
    mid: longRises(lowEnd, midEnd),
    high,
    sharp: shortRises(0),
    lowLevel: stretched(loudness(long.levels, long.bands.length, steps, 0, lowEnd), frames),
    midLevel: stretched(loudness(long.levels, long.bands.length, steps, lowEnd, midEnd), frames),
    chroma: long.chroma,
  };
}

/** A curve of every `LONG_EVERY`th frame for all of them. */
function stretched(curve: Float32Array, frames: number): Float32Array {
  return Float32Array.from({ length: frames }, (_, n) => {
    const i = Math.floor(n / LONG_EVERY);
    const next = curve[Math.min(curve.length - 1, i + 1)]!;
    return curve[i]! + ((n % LONG_EVERY) / LONG_EVERY) * (next - curve[i]!);
  });
}

interface Band {
  readonly from: number;
  readonly to: number;
  readonly centre: number;
}

function bandsOf(rate: number, window: number, perOctave: number): Band[] {
  const bin = rate / window;
  const bands: Band[] = [];
  let from = Math.max(1, Math.round(LOWEST / bin));
  while (from < window / 2) {
    const to = Math.min(window / 2, Math.max(from + 1, Math.round(from * 2 ** (1 / perOctave))));
    bands.push({ from, to, centre: ((from + to - 1) / 2) * bin });
    from = to;
  }
  return bands;
}

/** The loudness of every band in windows `hop` samples apart, and with the long window the chroma. Frame 0's window begins at sample 0. */
function spectra(
  samples: Float32Array,
  hop: number,
  frames: number,
  window: number,
  bands: readonly Band[],
  rate: number,
) {
  const fft = new FFT(window);
  const shape = Float64Array.from(
    { length: window },
    (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / window),
  );
  const input = new Float64Array(window);
  const out = new Float64Array(2 * window);
  const levels = new Float32Array(frames * bands.length);
  const withChroma = window === WINDOW;
  const every = CHROMA_EVERY / LONG_EVERY;
  const chroma = new Float32Array(withChroma ? 12 * Math.ceil(frames / every) : 0);
  const magnitudes = new Float64Array(window / 2);
  const pitch = Int8Array.from(magnitudes, (_, i) => {
    const f = (i * rate) / window;
    return f < 100 || f > 2000 ? -1 : ((Math.round(12 * Math.log2(f / 440)) % 12) + 12) % 12;
  });
  let loudest = 1e-9;
  for (let n = 0; n < frames; n++) {
    const start = n * hop;
    for (let i = 0; i < window; i++) input[i] = samples[start + i]! * shape[i]!;
    fft.realTransform(out, input);
    const needed = withChroma && n % every === 0;
    for (let b = 0; b < bands.length; b++) {
      const { from, to } = bands[b]!;
      let sum = 0;
      for (let i = from; i < to; i++) {
        const power = out[2 * i]! * out[2 * i]! + out[2 * i + 1]! * out[2 * i + 1]!;
        if (needed) magnitudes[i] = power;
        sum += power;
      }
      const level = Math.sqrt(sum);
      levels[n * bands.length + b] = level;
      if (level > loudest) loudest = level;
    }
    if (needed)
      for (let i = 0; i < pitch.length; i++)
        if (pitch[i]! >= 0) chroma[(n / every) * 12 + pitch[i]!]! += Math.sqrt(magnitudes[i]!);
  }
  for (let b = 0; b < bands.length; b++) {
    const floor = Math.max(loudest / GAIN, usualLeast(levels, bands.length, frames, b));
    for (let n = 0; n < frames; n++) levels[n * bands.length + b] = Math.log1p(levels[n * bands.length + b]! / floor);
  }
  return { bands, levels, chroma };
}

/** What a band does not fall below four fifths of the time: noise, or a sound that is held. */
function usualLeast(levels: Float32Array, bands: number, frames: number, band: number): number {
  const some = Float32Array.from({ length: Math.ceil(frames / 4) }, (_, i) => levels[4 * i * bands + band]!).sort();
  return some[Math.floor(some.length / 5)]!;
}

/** The mean level of bands from … to−1. */
function loudness(levels: Float32Array, bands: number, frames: number, from: number, to: number): Float32Array {
  return Float32Array.from({ length: frames }, (_, n) => {
    let sum = 0;
    for (let b = from; b < to; b++) sum += levels[n * bands + b]!;
    return sum / Math.max(1, to - from);
  });
}

/** The mean rise of bands from … to−1. */
function rises(
  levels: Float32Array,
  bands: number,
  frames: number,
  lag: number,
  from: number,
  to: number,
): Float32Array {
  const out = new Float32Array(frames);
  for (let n = lag; n < frames; n++) {
    const now = n * bands;
    const then = (n - lag) * bands;
    let sum = 0;
    for (let b = from; b < to; b++) {
      const before = Math.max(
        levels[then + b]!,
        b > 0 ? levels[then + b - 1]! : 0,
        b + 1 < bands ? levels[then + b + 1]! : 0,
      );
      const rise = levels[now + b]! - before;
      if (rise > 0) sum += rise;
    }
    out[n] = sum / Math.max(1, to - from);
  }
  return out;
}

/** The mean of the pitch classes over frames from … to, of length 1. */
export function meanChroma(chroma: Float32Array, from: number, to: number): Float64Array {
  const sum = new Float64Array(12);
  const last = chroma.length / 12;
  const first = Math.max(0, Math.round(from / CHROMA_EVERY));
  for (let n = first; n < Math.min(last, Math.max(first + 1, Math.round(to / CHROMA_EVERY))); n++)
    for (let c = 0; c < 12; c++) sum[c]! += chroma[n * 12 + c]!;
  const length = Math.hypot(...sum) + 1e-9;
  return sum.map((v) => v / length);
}
