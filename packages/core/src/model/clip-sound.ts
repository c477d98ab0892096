import { InvalidInput } from '../foundation/errors.js';
import { array, finite, object, oneOf, onlyFields, whole } from '../foundation/readers.js';

/** How a clip's own sound goes with its picture: its pitch follows the speed, it keeps its pitch, or it is not heard. */
const SOUND_MODES = ['follow', 'keep', 'mute'] as const;

export type SoundMode = (typeof SOUND_MODES)[number];

/** What is heard in a freeze: nothing, or the moment drawn out. */
const FREEZE_SOUNDS = ['silence', 'grain'] as const;

export type FreezeSound = (typeof FREEZE_SOUNDS)[number];

/** A reach whose sound goes another way than the clip's. */
interface ReachSound {
  readonly reach: number;
  readonly mode: SoundMode;
}

export interface ClipSound {
  readonly mode: SoundMode;
  readonly freeze: FreezeSound;
  /** Decibels. */
  readonly gainDb: number;
  /** Seconds of the reel. */
  readonly fadeInSeconds: number;
  readonly fadeOutSeconds: number;
  /** By reach, increasing. */
  readonly reaches: readonly ReachSound[];
}

export const OWN_SOUND: ClipSound = {
  mode: 'follow',
  freeze: 'silence',
  gainDb: 0,
  fadeInSeconds: 0,
  fadeOutSeconds: 0,
  reaches: [],
};

export const MAX_CLIP_GAIN = 24;

export const MIN_CLIP_GAIN = -96;

/** Throws `InvalidInput` naming what cannot be. */
export function checkClipSound({ gainDb, fadeInSeconds, fadeOutSeconds }: ClipSound, field = 'sound'): void {
  if (!(gainDb >= MIN_CLIP_GAIN && gainDb <= MAX_CLIP_GAIN))
    throw new InvalidInput(`${field}.gainDb`, `${gainDb} dB is not between ${MIN_CLIP_GAIN} and ${MAX_CLIP_GAIN} dB`);
  for (const [name, value] of Object.entries({ fadeInSeconds, fadeOutSeconds }))
    if (!(value >= 0 && value <= 3600))
      throw new InvalidInput(`${field}.${name}`, `${value} s is not a length for a fade`);
}

/** Reads a clip's sound from a document; `reaches` is how many its curve has. Throws `InvalidInput` naming the place. */
export function readClipSound(value: unknown, field: string, reaches: number): ClipSound {
  const s = object(value, field);
  onlyFields(s, ['mode', 'freeze', 'gainDb', 'fadeInSeconds', 'fadeOutSeconds', 'reaches'], field);
  const number = (name: string) => finite(s[name], `${field}.${name}`);
  const own = array(s['reaches'], `${field}.reaches`, reaches).map((entry, i): ReachSound => {
    const at = `${field}.reaches[${i}]`;
    const one = object(entry, at);
    onlyFields(one, ['reach', 'mode'], at);
    return {
      reach: whole(one['reach'], `${at}.reach`, 0, reaches - 1),
      mode: oneOf(one['mode'], SOUND_MODES, `${at}.mode`),
    };
  });
  const unordered = own.findIndex(({ reach }, i) => i > 0 && reach <= own[i - 1]!.reach);
  if (unordered >= 0)
    throw new InvalidInput(`${field}.reaches[${unordered}].reach`, 'must be greater than the one before it');
  const sound: ClipSound = {
    mode: oneOf(s['mode'], SOUND_MODES, `${field}.mode`),
    freeze: oneOf(s['freeze'], FREEZE_SOUNDS, `${field}.freeze`),
    gainDb: number('gainDb'),
    fadeInSeconds: number('fadeInSeconds'),
    fadeOutSeconds: number('fadeOutSeconds'),
    reaches: own,
  };
  checkClipSound(sound, field);
  return sound;
}
