import { array, object } from '../../foundation/readers.js';
import type { Migration } from './migration.js';

/** Version 5 has sounds under the picture, cues that belong to them, cuts that are pinned and clips that fill their room. */
export const toVersion5: Migration = (document) => {
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
};
