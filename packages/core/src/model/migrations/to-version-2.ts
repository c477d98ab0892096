import { array, object } from '../../foundation/readers.js';
import type { Migration } from './migration.js';

/** Version 2 ties moments to cues, clip by clip. */
export const toVersion2: Migration = (document) => {
  const reel = object(document['reel'], 'reel');
  const items = array(reel['items'], 'reel.items').map((value, i) => {
    const item = object(value, `reel.items[${i}]`);
    return item['kind'] === 'clip' ? { ...item, ties: [] } : item;
  });
  return { ...document, reel: { ...reel, items } };
};
