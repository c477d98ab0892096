import { InvalidInput } from '../foundation/errors.js';
import { finite, object, onlyFields, readId, string } from '../foundation/readers.js';
import { type BeatGrid, readBeatGrid } from './beat-grid.js';

/** Music or an effect, laid under the picture. Its media is the server's footage `footageId`. Times are seconds. */
export interface Sound {
  readonly id: string;
  readonly footageId: string;
  readonly name: string;
  /** Where on the reel `from` is heard; what comes before the reel's beginning is not. */
  readonly startSeconds: number;
  /** The part of the file that is heard. */
  readonly fromSeconds: number;
  readonly toSeconds: number;
  /** Decibels. */
  readonly gainDb: number;
  readonly fadeInSeconds: number;
  readonly fadeOutSeconds: number;
  /** What was heard in it, as the editor has put it right; none before it was listened to. */
  readonly beats: BeatGrid | null;
}

export const MIN_GAIN = -60;

export const MAX_GAIN = 24;

/** The shortest part of a sound, seconds. */
const MIN_SOUND_SECONDS = 0.05;

/** Throws `InvalidInput` for a sound that cannot be. */
export function checkSound(
  {
    startSeconds: start,
    fromSeconds: from,
    toSeconds: to,
    gainDb: gain,
    fadeInSeconds: fadeIn,
    fadeOutSeconds: fadeOut,
  }: Sound,
  field = 'sound',
): void {
  if (!(from >= 0 && to - from >= MIN_SOUND_SECONDS - 1e-9))
    throw new InvalidInput(field, `must last ${MIN_SOUND_SECONDS} s at least, and begin within its file`);
  if (!(Math.abs(start) <= 1e6)) throw new InvalidInput(`${field}.startSeconds`, 'is too far off the reel');
  if (!(gain >= MIN_GAIN && gain <= MAX_GAIN))
    throw new InvalidInput(`${field}.gainDb`, `must lie in ${MIN_GAIN} to ${MAX_GAIN} dB`);
  if (!(fadeIn >= 0 && fadeOut >= 0 && fadeIn + fadeOut <= to - from + 1e-9))
    throw new InvalidInput(`${field}.fades`, 'must not be longer than the sound');
}

export function readSound(value: unknown, field: string): Sound {
  const s = object(value, field);
  onlyFields(
    s,
    [
      'id',
      'footageId',
      'name',
      'startSeconds',
      'fromSeconds',
      'toSeconds',
      'gainDb',
      'fadeInSeconds',
      'fadeOutSeconds',
      'beats',
    ],
    field,
  );
  const number = (name: string) => finite(s[name], `${field}.${name}`);
  const sound: Sound = {
    id: readId(s['id'], `${field}.id`),
    footageId: readId(s['footageId'], `${field}.footageId`),
    name: string(s['name'], `${field}.name`),
    startSeconds: number('startSeconds'),
    fromSeconds: number('fromSeconds'),
    toSeconds: number('toSeconds'),
    gainDb: number('gainDb'),
    fadeInSeconds: number('fadeInSeconds'),
    fadeOutSeconds: number('fadeOutSeconds'),
    beats: s['beats'] === null ? null : readBeatGrid(s['beats'], `${field}.beats`),
  };
  checkSound(sound, field);
  return sound;
}
