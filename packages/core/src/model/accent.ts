import { InvalidInput } from '../foundation/errors.js';
import { array, finite, object, oneOf, onlyFields, readId, string, unique, whole } from '../foundation/readers.js';
import { checkEase, type Ease } from '../time-map/ease.js';
import { checkLook, definitionOf, readLook, type AccentLook } from '../look/looks.js';

/** What of the music accents fall on: beats, first beats of bars, or hits of a band. */
export const ACCENT_HITS = ['beats', 'bars', 'low', 'mid', 'high'] as const;

export type AccentHits = (typeof ACCENT_HITS)[number];

/** Where accents fall. */
export type AccentPlaces =
  | { readonly kind: 'cues'; readonly cueIds: readonly string[] }
  /** The cuts into these clips. */
  | { readonly kind: 'cuts'; readonly clipIds: readonly string[] }
  /** Frames of the reel from … to − 1. */
  | { readonly kind: 'range'; readonly from: number; readonly to: number }
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

export const AMOUNT_WAYS = ['rises', 'falls', 'swells'] as const;

/** How the strength of what goes on changes over its range. */
export type Amount =
  /** From nothing to all of it, back, or both, by an ease. */
  | { readonly kind: 'eased'; readonly way: (typeof AMOUNT_WAYS)[number]; readonly ease: Ease }
  /** As loud as a sound of the reel is: `levels`, 0 … 1, from a second of its file on, `perSecond` of them a second. */
  | {
      readonly kind: 'loudness';
      readonly soundId: string;
      readonly second: number;
      readonly perSecond: number;
      readonly levels: readonly number[];
    };

/** Accents of one look at places of one kind. */
export interface AccentSet {
  readonly id: string;
  readonly name: string;
  readonly look: AccentLook;
  /** 0 … 1. */
  readonly strength: number;
  readonly on: AccentPlaces;
  /** Of what goes on; the same throughout where it is not said. */
  readonly amount?: Amount | undefined;
}

/** Throws `InvalidInput` naming what cannot be. */
export function checkAccents({ look, strength, on, amount }: AccentSet, field = 'accents'): void {
  const refuse = (name: string, problem: string) => {
    throw new InvalidInput(`${field}.${name}`, problem);
  };
  checkLook(look, `${field}.look`);
  if (!(strength >= 0 && strength <= 1)) refuse('strength', `${strength} is not between 0 and 1`);
  if (definitionOf(look).acrossCuts && on.kind !== 'cuts')
    refuse('on', `a ${look.kind} goes from clip to clip, so it lies on cuts`);
  if (Boolean(definitionOf(look).sustained) !== (on.kind === 'range'))
    refuse(
      'on',
      on.kind === 'range' ? `a ${look.kind} falls on marks` : `a ${look.kind} goes on, so it lies on a range`,
    );
  if (on.kind === 'range' && !(Number.isInteger(on.from) && Number.isInteger(on.to) && on.from >= 0 && on.to > on.from))
    refuse('on', `${on.from} to ${on.to} is not a range of frames`);
  if (amount && on.kind !== 'range') refuse('amount', `a ${look.kind} is over too soon for its amount to change`);
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
    onlyFields(set, ['id', 'name', 'look', 'strength', 'on', 'amount'], at);
    const read: AccentSet = {
      id: readId(set['id'], `${at}.id`),
      name: string(set['name'], `${at}.name`),
      look: readLook(set['look'], `${at}.look`),
      strength: finite(set['strength'], `${at}.strength`),
      on: readPlaces(set['on'], `${at}.on`),
      ...(set['amount'] !== undefined && { amount: readAmount(set['amount'], `${at}.amount`) }),
    };
    checkAccents(read, at);
    return read;
  });
  unique(sets, field);
  return sets;
}

function readAmount(value: unknown, field: string): Amount {
  const amount = object(value, field);
  const kind = oneOf(amount['kind'], ['eased', 'loudness'] as const, `${field}.kind`);
  if (kind === 'eased') {
    onlyFields(amount, ['kind', 'way', 'ease'], field);
    return {
      kind,
      way: oneOf(amount['way'], AMOUNT_WAYS, `${field}.way`),
      ease: checkEase(amount['ease'], `${field}.ease`),
    };
  }
  onlyFields(amount, ['kind', 'soundId', 'second', 'perSecond', 'levels'], field);
  return {
    kind,
    soundId: readId(amount['soundId'], `${field}.soundId`),
    second: finite(amount['second'], `${field}.second`),
    perSecond: whole(amount['perSecond'], `${field}.perSecond`, 1, 100),
    levels: array(amount['levels'], `${field}.levels`, 1_000_000).map((level, i) => {
      const share = finite(level, `${field}.levels[${i}]`);
      if (!(share >= 0 && share <= 1))
        throw new InvalidInput(`${field}.levels[${i}]`, `${share} is not between 0 and 1`);
      return share;
    }),
  };
}

function readPlaces(value: unknown, field: string): AccentPlaces {
  const on = object(value, field);
  const kind = oneOf(on['kind'], ['cues', 'cuts', 'range', 'music'] as const, `${field}.kind`);
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
  if (kind === 'range') {
    onlyFields(on, ['kind', 'from', 'to'], field);
    return { kind, from: whole(on['from'], `${field}.from`), to: whole(on['to'], `${field}.to`) };
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
