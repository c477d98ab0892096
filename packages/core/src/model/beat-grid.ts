import { InvalidInput } from '../foundation/errors.js';
import { array, finite, object, onlyFields, whole } from '../foundation/readers.js';

/** Beats of a sound as an editor works with them: what was heard, put right by hand. */
export interface BeatGrid {
  /** Seconds from the file's beginning, strictly increasing. */
  readonly times: readonly number[];
  /** Beats a bar, and the first beat that begins one (0 … beats−1). */
  readonly bar: { readonly beats: number; readonly first: number };
}

/** Beats nearer than this to each other, seconds, are one: 600 a minute. */
export const MIN_BEAT_SECONDS = 0.1;

export function readBeatGrid(value: unknown, field: string): BeatGrid {
  const grid = object(value, field);
  onlyFields(grid, ['times', 'bar'], field);
  const times = array(grid['times'], `${field}.times`, 1_000_000).map((t, i) => finite(t, `${field}.times[${i}]`));
  const unordered = times.findIndex((t, i) => i > 0 && t <= times[i - 1]!);
  if (unordered >= 0) throw new InvalidInput(`${field}.times[${unordered}]`, 'must be later than the beat before it');
  const bar = object(grid['bar'], `${field}.bar`);
  onlyFields(bar, ['beats', 'first'], `${field}.bar`);
  const beats = whole(bar['beats'], `${field}.bar.beats`, 1, 64);
  return { times, bar: { beats, first: whole(bar['first'], `${field}.bar.first`, 0, beats - 1) } };
}
