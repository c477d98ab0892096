import { array, object } from '../../foundation/readers.js';
import type { Migration } from './migration.js';

/** Version 4 has a way of making in-betweens for the reel, which clips may leave to it, and others for reaches and stretches of a clip. */
export const toVersion4: Migration = (document) => {
  const reel = object(document['reel'], 'reel');
  const items = array(reel['items'], 'reel.items').map((value, i) => {
    const item = object(value, `reel.items[${i}]`);
    return item['kind'] === 'clip' ? { ...item, temper: null, reachMethods: [], mends: [] } : item;
  });
  return { ...document, reel: { ...reel, method: 'step', temper: { trust: 1, keenness: 0 }, items } };
};
