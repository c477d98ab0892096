import { NO_BLUR } from '../blur/blur.js';
import { EVEN_TEMPER } from '../clip/temper.js';
import { InvalidInput } from '../errors.js';
import { OWN_SOUND, type ClipSound } from '../warp/clip-sound.js';
import { PROJECT_VERSION } from './project.js';
import { array, object, whole } from './read.js';

/** Turns a document of version n into one of version n + 1. */
export type Migration = (document: Record<string, unknown>) => Record<string, unknown>;

/** `MIGRATIONS[n]` lifts version n. */
const MIGRATIONS: Readonly<Record<number, Migration>> = {
  1: withTies,
  2: withVersions,
  3: withMakings,
  4: withSounds,
  5: withFramings,
  6: withJoins,
  7: withColour,
};

/** Version 2 ties moments to cues, clip by clip. */
function withTies(document: Record<string, unknown>): Record<string, unknown> {
  const reel = object(document['reel'], 'reel');
  const items = array(reel['items'], 'reel.items').map((value, i) => {
    const item = object(value, `reel.items[${i}]`);
    return item['kind'] === 'clip' ? { ...item, ties: [] } : item;
  });
  return { ...document, reel: { ...reel, items } };
}

/** Version 3 keeps named versions of a clip's curve, its locked reaches and limits, and the repeats a source leaves out. */
function withVersions(document: Record<string, unknown>): Record<string, unknown> {
  const reel = object(document['reel'], 'reel');
  const items = array(reel['items'], 'reel.items').map((value, i) => {
    const item = object(value, `reel.items[${i}]`);
    return item['kind'] === 'clip' ? { ...item, locks: [], limits: null, versions: [] } : item;
  });
  const sources = array(document['sources'], 'sources').map((value, i) => ({
    ...object(value, `sources[${i}]`),
    skips: null,
  }));
  return { ...document, sources, reel: { ...reel, items } };
}

/** Version 4 has a way of making in-betweens for the reel, which clips may leave to it, and others for reaches and stretches of a clip. */
function withMakings(document: Record<string, unknown>): Record<string, unknown> {
  const reel = object(document['reel'], 'reel');
  const items = array(reel['items'], 'reel.items').map((value, i) => {
    const item = object(value, `reel.items[${i}]`);
    return item['kind'] === 'clip' ? { ...item, temper: null, reachMethods: [], mends: [] } : item;
  });
  return { ...document, reel: { ...reel, method: 'step', temper: EVEN_TEMPER, items } };
}

/** Version 5 has sounds under the picture, cues that belong to them, cuts that are pinned and clips that fill their room. */
function withSounds(document: Record<string, unknown>): Record<string, unknown> {
  const reel = object(document['reel'], 'reel');
  const items = array(reel['items'], 'reel.items').map((value, i) => {
    const item = object(value, `reel.items[${i}]`);
    return item['kind'] === 'clip' ? { ...item, pin: null, fills: false } : item;
  });
  const cues = array(reel['cues'], 'reel.cues').map((value, i) => ({
    ...object(value, `reel.cues[${i}]`),
    beat: null,
  }));
  return { ...document, reel: { ...reel, items, cues, sounds: [] } };
}

/** Version 6 has groups, a framing for every clip, and a range of the reel. */
function withFramings(document: Record<string, unknown>): Record<string, unknown> {
  const reel = object(document['reel'], 'reel');
  const items = array(reel['items'], 'reel.items').map((value, i) => {
    const item = object(value, `reel.items[${i}]`);
    return item['kind'] === 'clip' ? { ...item, framing: null } : item;
  });
  return { ...document, reel: { ...reel, items, range: null } };
}

/** A clip of a document from before clips were heard stays unheard. */
const UNHEARD: ClipSound = { ...OWN_SOUND, mode: 'mute' };

/** Version 7 has joins of neighbouring clips, motion blur, steadying, accents and the clips' own sounds, inside groups too. */
function withJoins(document: Record<string, unknown>): Record<string, unknown> {
  const reel = object(document['reel'], 'reel');
  const items = (value: unknown, field: string) =>
    array(value, field).map((each, i) => {
      const item = object(each, `${field}[${i}]`);
      return item['kind'] === 'clip' ? { ...item, blur: null, steady: null, sound: UNHEARD } : item;
    });
  const sources = array(document['sources'], 'sources').map((value, i) => {
    const source = object(value, `sources[${i}]`);
    if (source['bound'] === undefined) return source;
    const field = `sources[${i}].bound`;
    const bound = object(source['bound'], field);
    return { ...source, bound: { ...bound, items: items(bound['items'], `${field}.items`), joins: [] } };
  });
  return {
    ...document,
    sources,
    reel: { ...reel, blur: NO_BLUR, ceiling: null, accents: [], items: items(reel['items'], 'reel.items'), joins: [] },
  };
}

/** Version 8 has a colour space; what was rendered before had the first clip's, and still does. */
function withColour(document: Record<string, unknown>): Record<string, unknown> {
  return { ...document, reel: { ...object(document['reel'], 'reel'), colour: null } };
}

/** Lifts a document to version `target`, one version at a time. Throws `InvalidInput` for a newer or unknown version. */
export function migrate(
  document: Record<string, unknown>,
  target: number = PROJECT_VERSION,
  ladder: Readonly<Record<number, Migration>> = MIGRATIONS,
): Record<string, unknown> {
  let current = document;
  for (;;) {
    const version = whole(current['version'], 'project, version', 1);
    if (version === target) return current;
    if (version > target)
      throw new InvalidInput(
        'project, version',
        `is ${version}; this program reads up to ${target}, so a newer one wrote it`,
      );
    const lift = ladder[version];
    if (!lift) throw new InvalidInput('project, version', `${version} cannot be read any more`);
    current = { ...lift(current), version: version + 1 };
  }
}
