import { array, object } from '../../foundation/readers.js';
import type { Migration } from './migration.js';

/** Version 7 has joins of neighbouring clips, motion blur, steadying, accents and the clips' own sounds, inside groups too. */
export const toVersion7: Migration = (document) => {
  const reel = object(document['reel'], 'reel');
  const sources = array(document['sources'], 'sources').map((value, i) => {
    const source = object(value, `sources[${i}]`);
    if (source['bound'] === undefined) return source;
    const field = `sources[${i}].bound`;
    const bound = object(source['bound'], field);
    return { ...source, bound: { ...bound, items: withSounds(bound['items'], `${field}.items`), joins: [] } };
  });
  const items = withSounds(reel['items'], 'reel.items');
  return {
    ...document,
    sources,
    reel: { ...reel, blur: { kind: 'none' }, ceiling: null, accents: [], items, joins: [] },
  };
};

/** Clips of before were not heard, and stay so. */
const UNHEARD = { mode: 'mute', freeze: 'silence', gain: 0, fadeIn: 0, fadeOut: 0, reaches: [] };

const withSounds = (value: unknown, field: string) =>
  array(value, field).map((each, i) => {
    const item = object(each, `${field}[${i}]`);
    return item['kind'] === 'clip' ? { ...item, blur: null, steady: null, sound: UNHEARD } : item;
  });
