import { InvalidInput } from '../foundation/errors.js';
import {
  array,
  boolean,
  finite,
  object,
  oneOf,
  onlyFields,
  readId,
  string,
  unique,
  whole,
} from '../foundation/readers.js';

/** What a flash is of: white, black, the picture inverted, or a colour as #rrggbb. */
export type FlashColour = 'white' | 'black' | 'inverted' | `#${string}`;

export const PUSH_WAYS = ['left', 'right', 'up', 'down'] as const;

export type PushWay = (typeof PUSH_WAYS)[number];

/** What happens to the picture; `frames` is how long, from the mark on; of a push, about the cut. */
export type AccentLook =
  /** It falls off over its frames, or ends at once. */
  | { readonly kind: 'flash'; readonly frames: number; readonly colour: FlashColour; readonly falls: boolean }
  /** Closer at once by `scale` (1.1: a tenth), settling back. */
  | { readonly kind: 'punch'; readonly frames: number; readonly scale: number }
  /** A short shake that dies away, by `size` of the picture's width. */
  | { readonly kind: 'knock'; readonly frames: number; readonly size: number }
  /** The frame stands still. */
  | { readonly kind: 'stutter'; readonly frames: number }
  /** One clip pushes the other out of the picture. */
  | { readonly kind: 'push'; readonly frames: number; readonly way: PushWay };

export const ACCENT_KINDS = ['flash', 'punch', 'knock', 'stutter', 'push'] as const;

export type AccentKind = (typeof ACCENT_KINDS)[number];

/** What of the music accents fall on: beats, first beats of bars, or hits of a band. */
export const ACCENT_HITS = ['beats', 'bars', 'low', 'mid', 'high'] as const;

export type AccentHits = (typeof ACCENT_HITS)[number];

/** Where accents fall. */
export type AccentPlaces =
  | { readonly kind: 'cues'; readonly cueIds: readonly string[] }
  /** The cuts into these clips. */
  | { readonly kind: 'cuts'; readonly clipIds: readonly string[] }
  | {
      readonly kind: 'music';
      readonly soundId: string;
      readonly of: AccentHits;
      /** Every second, third … of them, beginning with the one of this number, from 0. */
      readonly every: number;
      readonly first: number;
      /** Hits weaker than this, 0 … 1 of the strongest, are left out. */
      readonly least: number;
      /** The part of the sound they are looked for in, seconds of its file; null: all of it. */
      readonly from: number | null;
      readonly to: number | null;
      /** Of a band: when its hits are, as they were heard, seconds. Beats and bars are where the sound's beats are. */
      readonly hits: readonly number[];
      /** Places among them that are left out, seconds. */
      readonly without: readonly number[];
    };

/** Accents of one look at places of one kind. */
export interface AccentSet {
  readonly id: string;
  readonly name: string;
  readonly look: AccentLook;
  /** 0 … 1. */
  readonly strength: number;
  readonly on: AccentPlaces;
}

export const DEFAULT_LOOKS: Readonly<Record<AccentKind, AccentLook>> = {
  flash: { kind: 'flash', frames: 3, colour: 'white', falls: true },
  punch: { kind: 'punch', frames: 8, scale: 1.12 },
  knock: { kind: 'knock', frames: 8, size: 0.02 },
  stutter: { kind: 'stutter', frames: 3 },
  push: { kind: 'push', frames: 10, way: 'left' },
};

const LOOK_FIELDS = {
  flash: ['colour', 'falls'],
  punch: ['scale'],
  knock: ['size'],
  stutter: [],
  push: ['way'],
} as const;

/** Throws `InvalidInput` naming what cannot be. */
export function checkAccents({ look, strength, on }: AccentSet, field = 'accents'): void {
  const refuse = (name: string, problem: string) => {
    throw new InvalidInput(`${field}.${name}`, problem);
  };
  if (!(Number.isInteger(look.frames) && look.frames >= 1 && look.frames <= 240))
    refuse('look.frames', `${look.frames} is not from 1 to 240 frames`);
  if (!(strength >= 0 && strength <= 1)) refuse('strength', `${strength} is not between 0 and 1`);
  if (look.kind === 'flash' && !/^(white|black|inverted|#[0-9a-f]{6})$/i.test(look.colour))
    refuse('look.colour', `"${look.colour}" is not a colour`);
  if (look.kind === 'punch' && !(look.scale >= 1 && look.scale <= 4))
    refuse('look.scale', `${look.scale} is not between 1 and 4`);
  if (look.kind === 'knock' && !(look.size >= 0 && look.size <= 0.25))
    refuse('look.size', `${look.size} is not between 0 and a quarter of the width`);
  if (look.kind === 'push' && on.kind !== 'cuts') refuse('on', 'a push goes from clip to clip, so it lies on cuts');
  if (on.kind !== 'music') return;
  if (!(Number.isInteger(on.every) && on.every >= 1 && on.every <= 64))
    refuse('on.every', `${on.every} is not from 1 to 64`);
  if (!(Number.isInteger(on.first) && on.first >= 0 && on.first < on.every))
    refuse('on.first', `${on.first} is not below every ${on.every}`);
}

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
