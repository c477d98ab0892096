import FFT from 'fft.js';
import { HAT_NETWORKS } from './hat-networks.js';
import { meanScoreOf } from './network.js';
import type { Onset } from './onsets.js';

/**
 * Which of what begins high is a hat, or another cymbal or shaker: kicks click and snares hiss up there too. How loud each band is as an
 * event goes on, against before it and against the other events of the same sound, goes through a small network, which was fitted on drums
 * whose strikes are known. After D. FitzGerald, "Automatic Drum Transcription and Source Separation" (PhD thesis, Dublin Institute of
 * Technology, 2004), where drums are told by their bands' shapes, and C. Wu et al., "A Review of Automatic Drum Transcription" (IEEE/ACM
 * TASLP 26(9), 2018).
 */

/** Where one band ends and the next begins, hertz; the top is what the sound has. */
const BAND_EDGES = [0, 170, 700, 2500, 5000, 7500, 11_000] as const;

const BANDS = BAND_EDGES.length - 1;

/** The band hats are judged by against one another: it has most of them and little else. */
const TOP = 5;

/** Seconds of a window, and from one to the next: a kick's click is over within three. */
const WINDOW_SECONDS = 256 / 22_050;
const STEP_SECONDS = 0.005;

/** Steps after an event at which bands are heard; the first and the third of these as they are, too. */
const AFTER = [1, 3, 6, 10, 16] as const;
const BEFORE = [-5, -4, -3] as const;
const PEAK = AFTER[0];
const RINGING = AFTER[2];

/** Quieter than this, of the loudest, is silence: 80 dB. */
const SILENCE = 1e-4;

/**
 * Drums the network was not fitted on are scored lower: so much doubt is still a hat, less of it where something low begins with it, since kicks
 * are what must not be among them. Log odds.
 */
const DOUBT = 1;
const DOUBT_OVER_LOW = 0.5;

/** What begins at one time: which bands it begins in, and how strongly. */
interface Event {
  readonly time: number;
  readonly low: number;
  readonly mid: number;
  readonly high: number;
}

/** Onsets of which the high ones are hats. What begins high alone and is no hat counts as mid: it began. Seconds from the first of the samples. */
export function withoutFalseHats(onsets: readonly Onset[], samples: Float32Array, rate: number): Onset[] {
  const events = hatEvents(onsets);
  const inputs = hatInputs(events, samples, rate);
  const known = new Map(
    events.map((event, i) => [
      event.time,
      {
        isHat: hatScore(inputs[i]!) > -(event.low > 0 ? DOUBT_OVER_LOW : DOUBT),
        isAlone: event.low === 0 && event.mid === 0,
      },
    ]),
  );
  return onsets.flatMap((onset): Onset[] => {
    const event = onset.band === 'high' ? known.get(onset.time) : undefined;
    if (!event || event.isHat) return [onset];
    return event.isAlone ? [{ ...onset, band: 'mid' }] : [];
  });
}

/** The events that begin high, in the order of their times. */
export function hatEvents(onsets: readonly Onset[]): Event[] {
  const events = new Map<number, Event>();
  for (const { time, band, strength } of onsets) {
    const event = events.get(time) ?? { time, low: 0, mid: 0, high: 0 };
    events.set(time, { ...event, [band]: strength });
  }
  return [...events.values()].filter(({ high }) => high > 0);
}

/** Log odds that an event is a hat. */
function hatScore(input: readonly number[]): number {
  return meanScoreOf(HAT_NETWORKS, input) - NOTHING;
}

/** What networks are asked about each event of a sound: decibels, strengths and shares. Of one sound's events all at once. */
export function hatInputs(events: readonly Event[], samples: Float32Array, rate: number): number[][] {
  const levels = levelsOf(
    events.map(({ time }) => time),
    samples,
    rate,
  );
  const top = (step: number) => levels.map((of) => of(TOP, step));
  const [peaks, ringings] = [top(PEAK), top(RINGING)];
  const all = [quantiles(peaks), quantiles(ringings)] as const;
  const kindOf = ({ low, mid }: Event) => (low > 0 ? 1 : 0) + (mid > 0 ? 2 : 0);
  const kinds = [0, 1, 2, 3].map((kind) => {
    const some = ringings.filter((_, i) => kindOf(events[i]!) === kind);
    return { at: quantiles(some), share: some.length / events.length };
  });
  return events.map((event, i) => {
    const [level, peak, ringing] = [levels[i]!, peaks[i]!, ringings[i]!];
    const kind = kinds[kindOf(event)]!;
    return [
      ...Array.from({ length: BANDS }, (_, band) => {
        const before = Math.min(...BEFORE.map((step) => level(band, step)));
        return [
          ...AFTER.map((step) => level(band, step) - before),
          ...[PEAK, RINGING].map((step) => level(band, step)),
          before,
        ];
      }).flat(),
      ...[event.low, event.mid, event.high, event.low > 0 ? 1 : 0, event.mid > 0 ? 1 : 0],
      ...all[0].map((value) => peak - value),
      ...all[1].map((value) => ringing - value),
      ...kind.at.map((value) => ringing - value),
      kind.at[2] - kind.at[0],
      ...kinds.map(({ share }) => share),
      ringing - kinds[0]!.at[1],
    ];
  });
}

/** A tenth, half and nine tenths of the way up. */
function quantiles(values: readonly number[]): [number, number, number] {
  const sorted = values.toSorted((a, b) => a - b);
  const at = (share: number) => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] ?? 0;
  return [at(0.1), at(0.5), at(0.9)];
}

/** For each time a function of (band, step from it) to decibels of the loudest band that is heard near any of the times. */
function levelsOf(times: readonly number[], samples: Float32Array, rate: number) {
  const size = 2 ** Math.round(Math.log2(WINDOW_SECONDS * rate));
  const hop = STEP_SECONDS * rate;
  const fft = new FFT(size);
  const shape = Float64Array.from({ length: size }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size));
  const edges = BAND_EDGES.map((hertz) => Math.min(size / 2, Math.max(1, Math.ceil((hertz * size) / rate))));
  const input = new Float64Array(size);
  const out = new Float64Array(2 * size);
  let loudest = 1e-9;
  const heard = times.map((time) => {
    const middle = Math.round(time * rate);
    return new Map<number, Float64Array>(
      [...BEFORE, ...AFTER].map((step) => {
        const start = middle + Math.round(step * hop) - size / 2;
        for (let i = 0; i < size; i++) input[i] = (samples[start + i] ?? 0) * shape[i]!;
        fft.realTransform(out, input);
        const bands = Float64Array.from({ length: BANDS }, (_, band) => {
          let sum = 0;
          for (let i = edges[band]!; i < edges[band + 1]!; i++)
            sum += out[2 * i]! * out[2 * i]! + out[2 * i + 1]! * out[2 * i + 1]!;
          return Math.sqrt(sum);
        });
        loudest = Math.max(loudest, ...bands);
        return [step, bands];
      }),
    );
  });
  return heard.map(
    (near) => (band: number, step: number) => 20 * Math.log10(near.get(step)![band]! / loudest + SILENCE),
  );
}

/** What the networks say of an input of zeros: they were fitted to score hats above it and all else below. */
const NOTHING = meanScoreOf(HAT_NETWORKS, new Array<number>(HAT_NETWORKS[0]!.means.length).fill(0));
