import { array, object } from '../../foundation/readers.js';
import type { Migration } from './migration.js';

/** Version 6 has groups, a framing for every clip, and a range of the reel. */
export const toVersion6: Migration = (document) => {
  const reel = object(document['reel'], 'reel');
  const items = array(reel['items'], 'reel.items').map((value, i) => {
    const item = object(value, `reel.items[${i}]`);
    return item['kind'] === 'clip' ? { ...item, framing: null } : item;
  });
  return { ...document, reel: { ...reel, items, range: null } };
};
