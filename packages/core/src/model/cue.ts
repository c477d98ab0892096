import { InvalidInput } from '../foundation/errors.js';
import { finite, object, onlyFields, readId, string } from '../foundation/readers.js';
import type { Sound } from './sound.js';

/** A time on the reel to be met, in timeline frames (a real number). */
export interface Cue {
  readonly id: string;
  readonly frame: number;
  readonly name: string;
  /** Where it belongs to a sound it moves with it: `frame` then follows. */
  readonly beat: SoundPlace | null;
}

/** A place in a sound of the reel, in seconds from the file's beginning. */
interface SoundPlace {
  readonly soundId: string;
  readonly second: number;
}

export function readCue(value: unknown, field: string, sounds: readonly Sound[]): Cue {
  const c = object(value, field);
  onlyFields(c, ['id', 'frame', 'name', 'beat'], field);
  const frame = finite(c['frame'], `${field}.frame`);
  const beat = c['beat'] === null ? null : readPlace(c['beat'], `${field}.beat`, sounds);
  // Dragged before the reel's beginning, a sound takes its cues along.
  if (frame < 0 && !beat) throw new InvalidInput(`${field}.frame`, 'must be 0 or more');
  return { id: readId(c['id'], `${field}.id`), frame, name: string(c['name'], `${field}.name`), beat };
}

function readPlace(value: unknown, field: string, sounds: readonly Sound[]): SoundPlace {
  const place = object(value, field);
  onlyFields(place, ['soundId', 'second'], field);
  const soundId = readId(place['soundId'], `${field}.soundId`);
  if (!sounds.some((s) => s.id === soundId))
    throw new InvalidInput(`${field}.soundId`, `"${soundId}" is not a sound of the reel`);
  return { soundId, second: finite(place['second'], `${field}.second`) };
}
