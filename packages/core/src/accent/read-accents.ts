import { array, boolean, finite, object, oneOf, onlyFields, readId, string, unique, whole } from '../project/read.js';
import {
  ACCENT_HITS,
  ACCENT_KINDS,
  checkAccents,
  PUSH_WAYS,
  type AccentLook,
  type AccentPlaces,
  type AccentSet,
  type FlashColour,
} from './accent.js';

/** Reads the accents of a reel from a document. Throws `InvalidInput` naming the place. */
export function readAccents(value: unknown, field: string): AccentSet[] {
  const sets = array(value, field, 10_000).map((entry, i) => {
    const at = `${field}[${i}]`;
    const set = object(entry, at);
    onlyFields(set, ['id', 'name', 'look', 'strength', 'on'], at);
    const read: AccentSet = {
      id: readId(set['id'], `${at}.id`),
      name: string(set['name'], `${at}.name`),
      look: readLook(set['look'], `${at}.look`),
      strength: finite(set['strength'], `${at}.strength`),
      on: readPlaces(set['on'], `${at}.on`),
    };
    checkAccents(read, at);
    return read;
  });
  unique(sets, field);
  return sets;
}

const LOOK_FIELDS = {
  flash: ['colour', 'falls'],
  punch: ['scale'],
  knock: ['size'],
  stutter: [],
  push: ['way'],
} as const;

function readLook(value: unknown, field: string): AccentLook {
  const look = object(value, field);
  const kind = oneOf(look['kind'], ACCENT_KINDS, `${field}.kind`);
  onlyFields(look, ['kind', 'frames', ...LOOK_FIELDS[kind]], field);
  const frames = whole(look['frames'], `${field}.frames`, 1, 240);
  switch (kind) {
    case 'flash':
      return {
        kind,
        frames,
        colour: string(look['colour'], `${field}.colour`, 20) as FlashColour,
        falls: boolean(look['falls'], `${field}.falls`),
      };
    case 'punch':
      return { kind, frames, scale: finite(look['scale'], `${field}.scale`) };
    case 'knock':
      return { kind, frames, size: finite(look['size'], `${field}.size`) };
    case 'stutter':
      return { kind, frames };
    case 'push':
      return { kind, frames, way: oneOf(look['way'], PUSH_WAYS, `${field}.way`) };
  }
}

function readPlaces(value: unknown, field: string): AccentPlaces {
  const on = object(value, field);
  const kind = oneOf(on['kind'], ['cues', 'cuts', 'music'] as const, `${field}.kind`);
  const ids = (name: string) =>
    array(on[name], `${field}.${name}`).map((id, i) => readId(id, `${field}.${name}[${i}]`));
  const seconds = (name: string) =>
    array(on[name], `${field}.${name}`).map((second, i) => finite(second, `${field}.${name}[${i}]`));
  const perhaps = (name: string) => (on[name] === null ? null : finite(on[name], `${field}.${name}`));
  if (kind === 'cues') {
    onlyFields(on, ['kind', 'cueIds'], field);
    return { kind, cueIds: ids('cueIds') };
  }
  if (kind === 'cuts') {
    onlyFields(on, ['kind', 'clipIds'], field);
    return { kind, clipIds: ids('clipIds') };
  }
  onlyFields(on, ['kind', 'soundId', 'of', 'every', 'first', 'least', 'from', 'to', 'hits', 'without'], field);
  return {
    kind,
    soundId: readId(on['soundId'], `${field}.soundId`),
    of: oneOf(on['of'], ACCENT_HITS, `${field}.of`),
    every: whole(on['every'], `${field}.every`, 1, 64),
    first: whole(on['first'], `${field}.first`, 0, 63),
    least: finite(on['least'], `${field}.least`),
    from: perhaps('from'),
    to: perhaps('to'),
    hits: seconds('hits'),
    without: seconds('without'),
  };
}
