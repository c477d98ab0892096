import { object } from '../../foundation/readers.js';
import type { Migration } from './migration.js';

/** Version 8 has a colour space; what was rendered before had the first clip's, and still does. */
export const toVersion8: Migration = (document) => {
  return { ...document, reel: { ...object(document['reel'], 'reel'), colour: null } };
};
