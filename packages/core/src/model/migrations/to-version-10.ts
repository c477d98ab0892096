import { array, object } from '../../foundation/readers.js';
import type { Migration } from './migration.js';

/** Version 10 has whips along any line, in degrees; before, they went `sideways` or `up and down`. */
export const toVersion10: Migration = (document) => {
  const reel = object(document['reel'], 'reel');
  return {
    ...document,
    reel: {
      ...reel,
      accents: array(reel['accents'], 'reel.accents', 10_000).map((value, i) => {
        const set = object(value, `reel.accents[${i}]`);
        const { way, ...look } = object(set['look'], `reel.accents[${i}].look`);
        if (look['kind'] !== 'whip') return set;
        return { ...set, look: { ...look, degrees: way === 'up and down' ? 90 : 0 } };
      }),
    },
  };
};
