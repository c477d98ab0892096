import { readSpace, type ColourSpace } from '../colour/colour-space.js';
import { InvalidInput } from '../foundation/errors.js';
import { array, finite, object, oneOf, onlyFields, unique, whole } from '../foundation/readers.js';
import type { Rate } from '../time/rate.js';
import { readAccents, type AccentSet } from './accent.js';
import { readBlur, type Blur } from './blur.js';
import { readItem, type ReelItem } from './clip.js';
import { readCue, type Cue } from './cue.js';
import { METHODS, readTuning, type FlowTuning, type Method } from './interpolation.js';
import { readJoins, type RampJoin } from './join.js';
import { readSound, type Sound } from './sound.js';
import { type SourceFacts, readRate } from './source.js';

export interface Reel {
  readonly rate: Rate;
  readonly width: number;
  readonly height: number;
  /** What all its pictures are brought into; none: as the first clip's are. */
  readonly colour: ColourSpace | null;
  /** How in-betweens are made where a clip does not say. */
  readonly method: Method;
  readonly tuning: FlowTuning;
  /** Motion blur where a clip does not say. */
  readonly blur: Blur;
  readonly items: readonly ReelItem[];
  readonly cues: readonly Cue[];
  readonly sounds: readonly Sound[];
  /** The highest true peak the whole may have, dBTP; none: it is not held down. */
  readonly ceiling: number | null;
  /** Flashes, punches and the like, where the music or the cuts are. */
  readonly accents: readonly AccentSet[];
  /** Neighbouring clips that race into each other. */
  readonly joins: readonly RampJoin[];
  /** The stretch that is played round and can be rendered alone: from its first frame to the one past its last. */
  readonly range: Stretch | null;
}

/** The limits of a reel's width and height, pixels. */
const MIN_REEL_SIDE = 2;
const MAX_REEL_SIDE = 16384;

/** Timeline frames from … to − 1, whole numbers. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

/** The highest true peak as delivered: −20 … 0 dBTP. Throws `InvalidInput`. */
export function checkCeiling(ceiling: number, field = 'ceiling'): number {
  if (!(ceiling >= -20 && ceiling <= 0)) throw new InvalidInput(field, `${ceiling} dBTP is not between −20 and 0`);
  return ceiling;
}

function readColour(value: unknown, field: string): ColourSpace {
  const space = object(value, field);
  onlyFields(space, ['matrix', 'primaries', 'transfer', 'range'], field);
  return readSpace(space, field);
}

function readStretch(value: unknown, field: string): Stretch {
  const stretch = object(value, field);
  onlyFields(stretch, ['from', 'to'], field);
  const from = whole(stretch['from'], `${field}.from`);
  return { from, to: whole(stretch['to'], `${field}.to`, from + 1) };
}

/** Throws `InvalidInput` naming the side that cannot be. New sizes are even, so that every format can be written. */
export function checkReelSize(width: number, height: number): void {
  for (const [name, value] of Object.entries({ width, height }))
    if (!Number.isInteger(value) || value < MIN_REEL_SIDE || value > MAX_REEL_SIDE || value % 2)
      throw new InvalidInput(name, `${value} is not an even number from ${MIN_REEL_SIDE} to ${MAX_REEL_SIDE}`);
}

/** Reads a reel whose clips are of `sources`. Throws `InvalidInput` naming the place. */
export function readReel(value: unknown, field: string, sources: readonly SourceFacts[]): Reel {
  const reel = object(value, field);
  onlyFields(reel, REEL_FIELDS, field);
  const sounds = array(reel['sounds'], `${field}.sounds`, 1000).map((s, i) => readSound(s, `${field}.sounds[${i}]`));
  unique(sounds, `${field}.sounds`);
  const cues = array(reel['cues'], `${field}.cues`).map((c, i) => readCue(c, `${field}.cues[${i}]`, sounds));
  unique(cues, `${field}.cues`);
  const items = array(reel['items'], `${field}.items`, 100_000).map((item, i) =>
    readItem(item, `${field}.items[${i}]`, sources, cues),
  );
  unique(items, `${field}.items`);
  const side = (name: string) => whole(reel[name], `${field}.${name}`, MIN_REEL_SIDE, MAX_REEL_SIDE);
  const orNull = <T>(name: string, read: (value: unknown, at: string) => T): T | null =>
    reel[name] === null ? null : read(reel[name], `${field}.${name}`);
  return {
    rate: readRate(reel['rate'], `${field}.rate`),
    width: side('width'),
    height: side('height'),
    colour: orNull('colour', readColour),
    method: oneOf(reel['method'], METHODS, `${field}.method`),
    tuning: readTuning(reel['tuning'], `${field}.tuning`),
    blur: readBlur(reel['blur'], `${field}.blur`),
    items,
    cues,
    sounds,
    ceiling: orNull('ceiling', (ceiling, at) => checkCeiling(finite(ceiling, at), at)),
    accents: readAccents(reel['accents'], `${field}.accents`),
    joins: readJoins(reel['joins'], `${field}.joins`, items),
    range: orNull('range', readStretch),
  };
}

const REEL_FIELDS: readonly (keyof Reel)[] = [
  'rate',
  'width',
  'height',
  'colour',
  'method',
  'tuning',
  'blur',
  'items',
  'cues',
  'sounds',
  'ceiling',
  'accents',
  'joins',
  'range',
];
