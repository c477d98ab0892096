import { InvalidInput } from '../foundation/errors.js';
import { type BeatGrid, MIN_BEAT_SECONDS } from '../model/beat-grid.js';
import { tempoOf } from './tempo-of.js';

const first = (index: number, beats: number) => ((index % beats) + beats) % beats;

/** Strictly increasing, at least `MIN_BEAT_SECONDS` apart. Throws `InvalidInput`. */
function checked(times: readonly number[]): readonly number[] {
  const bad = times.findIndex((t, i) => !Number.isFinite(t) || (i > 0 && t - times[i - 1]! < MIN_BEAT_SECONDS - 1e-9));
  if (bad >= 0)
    throw new InvalidInput(
      'beats',
      `beat ${bad + 1} would come less than ${MIN_BEAT_SECONDS} s after the one before it`,
    );
  return times;
}

/** Bar and beat of beat i, both counted from 1; a beat before the first bar is in bar 0. */
export function placeInBar({ bar }: BeatGrid, i: number): { readonly bar: number; readonly beat: number } {
  return { bar: Math.floor((i - bar.first) / bar.beats) + 1, beat: first(i - bar.first, bar.beats) + 1 };
}

export const isDownbeat = ({ bar }: BeatGrid, i: number): boolean => first(i - bar.first, bar.beats) === 0;

/** The beat nearest to a time; −1 without any. */
export function nearestBeat(times: readonly number[], second: number): number {
  let [low, high] = [0, times.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (times[middle]! < second) low = middle + 1;
    else high = middle;
  }
  if (low === times.length) return times.length - 1;
  return low > 0 && second - times[low - 1]! <= times[low]! - second ? low - 1 : low;
}

/** Twice as many: one more half way between any two. The first beat of the bar stays where it is. */
export function doubled({ times, bar }: BeatGrid): BeatGrid {
  const more = times.flatMap((t, i) => (i + 1 < times.length ? [t, (t + times[i + 1]!) / 2] : [t]));
  return { times: checked(more), bar: { ...bar, first: first(2 * bar.first, bar.beats) } };
}

/** Half as many: every second from the first beat of a bar on. */
export function halved({ times, bar }: BeatGrid): BeatGrid {
  if (times.length < 4) throw new InvalidInput('beats', 'there are too few to be halved');
  const odd = bar.first % 2;
  return {
    times: times.filter((_, i) => i % 2 === odd),
    bar: { ...bar, first: first((bar.first - odd) / 2, bar.beats) },
  };
}

/** Three for every two: for music in three parts that was heard in two. Counted from the first beat of a bar. */
export function threeForTwo(grid: BeatGrid): BeatGrid {
  const { times, bar } = grid;
  if (times.length < 4) throw new InvalidInput('beats', 'there are too few for that');
  const last = times.length - 1;
  // Positions in beats from the first of a bar: every two thirds.
  const from = Math.ceil((-bar.first * 3) / 2);
  const to = Math.floor(((last - bar.first) * 3) / 2);
  const places = Array.from({ length: to - from + 1 }, (_, n) => bar.first + ((from + n) * 2) / 3);
  return {
    times: checked(places.map((place) => timeAt(times, place))),
    bar: { ...bar, first: first(-from, bar.beats) },
  };
}

/** Two for every three. */
export function twoForThree({ times, bar }: BeatGrid): BeatGrid {
  if (times.length < 5) throw new InvalidInput('beats', 'there are too few for that');
  const last = times.length - 1;
  const from = Math.ceil((-bar.first * 2) / 3);
  const to = Math.floor(((last - bar.first) * 2) / 3);
  const places = Array.from({ length: to - from + 1 }, (_, n) => bar.first + ((from + n) * 3) / 2);
  return { times: places.map((place) => timeAt(times, place)), bar: { ...bar, first: first(-from, bar.beats) } };
}

/** The time of a place counted in beats, between beats on a straight line. */
function timeAt(times: readonly number[], place: number): number {
  const i = Math.max(0, Math.min(times.length - 2, Math.floor(place + 1e-9)));
  return times[i]! + (place - i) * (times[i + 1]! - times[i]!);
}

/** Every beat later by a part of itself: a half takes off-beats for beats. */
export function shifted({ times, bar }: BeatGrid, part: number): BeatGrid {
  if (times.length < 2) throw new InvalidInput('beats', 'there are too few to be shifted');
  const last = times.length - 1;
  const gap = (i: number) => times[Math.min(last, i + 1)]! - times[Math.min(last, i + 1) - 1]!;
  return { times: checked(times.map((t, i) => t + part * gap(i))), bar };
}

/** Bars begin at beat i. */
export const barFrom = ({ times, bar }: BeatGrid, i: number): BeatGrid => ({
  times,
  bar: { ...bar, first: first(i, bar.beats) },
});

/** Another number of beats a bar; the first bar begins where it did. */
export function barsOf({ times, bar }: BeatGrid, beats: number): BeatGrid {
  if (!Number.isInteger(beats) || beats < 1 || beats > 64)
    throw new InvalidInput('bar', `${beats} is not a number of beats; write 1 to 64`);
  return { times, bar: { beats, first: first(bar.first, beats) } };
}

/** How many beats either side follow one that is dragged, less and less. */
const FOLLOWING = 4;

/** Beat i moved to a time; its neighbours follow, each by less. Stays between the beats that do not follow. */
export function movedBeat({ times, bar }: BeatGrid, i: number, second: number): BeatGrid {
  const by = second - times[i]!;
  return { times: checked(times.map((t, n) => t + by * Math.max(0, 1 - Math.abs(n - i) / (FOLLOWING + 1)))), bar };
}

/** From beat i on everything moves so that it comes at a time; what was before stays. */
export function fixedFrom({ times, bar }: BeatGrid, i: number, second: number): BeatGrid {
  const by = second - times[i]!;
  return { times: checked(times.map((t, n) => (n < i ? t : t + by))), bar };
}

/** Even beats: the first at `offset` seconds, `tempo` a minute, up to `end`. */
export function evenBeats(
  tempo: number,
  offset: number,
  end: number,
  bar: BeatGrid['bar'] = { beats: 4, first: 0 },
): BeatGrid {
  if (!(tempo >= 20 && tempo <= 400))
    throw new InvalidInput('tempo', `${tempo} is not within 20 to 400 beats a minute`);
  const gap = 60 / tempo;
  const start = offset - Math.floor(offset / gap) * gap;
  const before = Math.round((offset - start) / gap);
  const times = Array.from({ length: Math.max(0, Math.floor((end - start) / gap) + 1) }, (_, i) => start + i * gap);
  // The beat at the offset begins a bar.
  return { times, bar: { ...bar, first: first(before, bar.beats) } };
}

/** Beats as they were tapped, evened: a line through the taps, carried on to the sound's beginning and end. */
export function tappedBeats(taps: readonly number[], end: number, bar: BeatGrid['bar']): BeatGrid {
  if (taps.length < 4) throw new InvalidInput('taps', 'four are needed at least');
  const gap = 60 / tempoOf(taps)!;
  // A tap left out counts as a beat.
  let count = 0;
  const places = taps.map((t, i) => (i === 0 ? 0 : (count += Math.max(1, Math.round((t - taps[i - 1]!) / gap)))));
  const n = taps.length;
  const [mx, my] = [places.reduce((a, b) => a + b) / n, taps.reduce((a, b) => a + b) / n];
  const slope =
    places.reduce((sum, x, i) => sum + (x - mx) * (taps[i]! - my), 0) /
    places.reduce((sum, x) => sum + (x - mx) ** 2, 0);
  return evenBeats(60 / slope, Math.max(0, my - slope * mx), end, bar);
}

/** The bar a second lies in: from its first beat to just before the next bar's. None before the first beat and after the last. */
export function barAt(
  { times, bar }: BeatGrid,
  second: number,
): { readonly from: number; readonly to: number } | undefined {
  const starts = times.filter((_, i) => first(i - bar.first, bar.beats) === 0);
  const at = starts.findLastIndex((start) => start <= second + 1e-6);
  const end = starts[at + 1] ?? times.at(-1)! + 1e-3;
  return at < 0 || second > end ? undefined : { from: starts[at]!, to: end - 1e-3 };
}
