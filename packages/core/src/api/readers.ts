import { readSpace } from '../colour/colour-space.js';

import { array, boolean, finite, object, oneOf, string, whole } from '../foundation/readers.js';
import type { Health } from '../health/health.js';
import { type Hit, HIT_KINDS } from '../health/hits.js';
import { rate as makeRate, type Rate } from '../time/rate.js';
import type { FileReference, FootageFacts, FrameEstimate, Loudness, ServerEvent } from './api.js';

/** Readers of what a database, a file or another program says of footage and renders. Each throws `InvalidInput` naming the field. */

const orNull = <T>(value: unknown, read: (value: unknown) => T): T | null => (value === null ? null : read(value));

function readRate(value: unknown, field: string): Rate {
  const { num, den } = object(value, field);
  return makeRate(whole(num, `${field}.num`), whole(den, `${field}.den`));
}

/** Where footage lies that is no copy of ours. */
export function readFileReference(value: unknown, field: string): FileReference {
  const reference = object(value, field);
  return {
    root: string(reference['root'], `${field}.root`, 64),
    path: string(reference['path'], `${field}.path`, 2000),
    bytes: whole(reference['bytes'], `${field}.bytes`),
    modifiedMs: finite(reference['modifiedMs'], `${field}.modifiedMs`),
  };
}

/** What is known of a piece of footage. */
export function readFacts(value: unknown, field: string): FootageFacts {
  const facts = object(value, field);
  const seconds = (name: string) => orNull(facts[name], (v) => finite(v, `${field}.${name}`));
  return {
    container: string(facts['container'], `${field}.container`),
    bytes: whole(facts['bytes'], `${field}.bytes`),
    durationSeconds: seconds('durationSeconds'),
    startTimecode: orNull(facts['startTimecode'], (v) => string(v, `${field}.startTimecode`, 20)),
    captureRate: orNull(facts['captureRate'], (v) => readRate(v, `${field}.captureRate`)),
    picture: orNull(facts['picture'], (v) => readPicture(object(v, `${field}.picture`), `${field}.picture`)),
    sound: orNull(facts['sound'], (v) => {
      const at = `${field}.sound`;
      const sound = object(v, at);
      return {
        codec: string(sound['codec'], `${at}.codec`),
        channels: whole(sound['channels'], `${at}.channels`),
        sampleRate: whole(sound['sampleRate'], `${at}.sampleRate`),
        startSeconds: finite(sound['startSeconds'], `${at}.startSeconds`),
      };
    }),
  };
}

function readPicture(picture: Record<string, unknown>, field: string): NonNullable<FootageFacts['picture']> {
  const count = (name: string) => whole(picture[name], `${field}.${name}`);
  const pair = <A extends string, B extends string>(name: string, a: A, b: B) => {
    const one = object(picture[name], `${field}.${name}`);
    return { [a]: whole(one[a], `${field}.${name}.${a}`), [b]: whole(one[b], `${field}.${name}.${b}`) } as Record<
      A | B,
      number
    >;
  };
  return {
    rate: readRate(picture['rate'], `${field}.rate`),
    frames: count('frames'),
    width: count('width'),
    height: count('height'),
    codec: string(picture['codec'], `${field}.codec`),
    pixelAspect: pair('pixelAspect', 'num', 'den'),
    rotation: count('rotation'),
    bitDepth: count('bitDepth'),
    highRange: orNull(picture['highRange'], (v) => oneOf(v, ['pq', 'hlg'] as const, `${field}.highRange`)),
    ...(picture['colour'] !== undefined && {
      colour: readSpace(object(picture['colour'], `${field}.colour`), `${field}.colour`),
    }),
    alpha: boolean(picture['alpha'], `${field}.alpha`),
    variable: orNull(picture['variable'], () => pair('variable', 'held', 'dropped')),
    interlaced: boolean(picture['interlaced'], `${field}.interlaced`),
    dropFrame: boolean(picture['dropFrame'], `${field}.dropFrame`),
    proxy: pair('proxy', 'width', 'height'),
    strip: pair('strip', 'step', 'count'),
    ...(picture['estimate'] !== undefined && { estimate: readEstimate(picture['estimate'], `${field}.estimate`) }),
  };
}

function readEstimate(value: unknown, field: string): FrameEstimate {
  const estimate = object(value, field);
  return {
    rate: readRate(estimate['rate'], `${field}.rate`),
    frames: whole(estimate['frames'], `${field}.frames`, 1),
    isCounted: boolean(estimate['isCounted'], `${field}.isCounted`),
  };
}

/** What looking at every picture found. */
export function readHealth(value: unknown, field: string): Health {
  const health = object(value, field);
  const frames = (name: string) =>
    array(health[name], `${field}.${name}`).map((n, i) => whole(n, `${field}.${name}[${i}]`));
  // Not looked for in footage from before.
  const hits = array(health['hits'] ?? [], `${field}.hits`).map((value, i) => readHit(value, `${field}.hits[${i}]`));
  return { repeats: frames('repeats'), cuts: frames('cuts'), drops: frames('drops'), hits };
}

function readHit(value: unknown, field: string): Hit {
  const hit = object(value, field);
  return {
    frame: whole(hit['frame'], `${field}.frame`),
    kind: oneOf(hit['kind'], HIT_KINDS, `${field}.kind`),
    strength: finite(hit['strength'], `${field}.strength`),
  };
}

export function readLoudness(value: unknown, field: string): Loudness {
  const loudness = object(value, field);
  const number = (name: string) => finite(loudness[name], `${field}.${name}`);
  return { integrated: number('integrated'), range: number('range'), peak: number('peak') };
}

/** What the server tells as it happens. An event of a kind that is not known here is refused. */
export function readServerEvent(value: unknown, field = 'event'): ServerEvent {
  const event = object(value, field);
  const kind = oneOf(event['kind'], EVENT_KINDS, `${field}.kind`);
  const text = (name: string) => string(event[name], `${field}.${name}`, 10_000);
  const number = (name: string) => finite(event[name], `${field}.${name}`);
  switch (kind) {
    case 'alive':
    case 'footage':
    case 'renders':
      return { kind };
    case 'document':
      return { kind, version: number('version'), by: text('by') };
    case 'foreground':
      return { kind, isBusy: boolean(event['isBusy'], `${field}.isBusy`) };
    case 'footage-progress':
    case 'motion-progress':
    case 'sound-progress':
      return { kind, footageId: text('footageId'), done: number('done'), total: number('total') };
    case 'import-failed':
      return { kind, name: text('name'), message: text('message') };
    case 'render-progress': {
      const secondsLeft = event['secondsLeft'] === null ? null : number('secondsLeft');
      return { kind, renderId: text('renderId'), done: number('done'), total: number('total'), secondsLeft };
    }
  }
}

const EVENT_KINDS = [
  ...(['alive', 'document', 'footage', 'footage-progress', 'motion-progress', 'sound-progress'] as const),
  ...(['foreground', 'import-failed', 'renders', 'render-progress'] as const),
];
