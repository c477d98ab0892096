import { array, object } from '../../foundation/readers.js';
import type { Migration } from './migration.js';

/** Version 3 keeps named versions of a clip's curve, its locked reaches and limits, and the repeats a source leaves out. */
export const toVersion3: Migration = (document) => {
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
};
