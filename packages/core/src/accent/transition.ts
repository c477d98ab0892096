import { definitionOf } from '../look/looks.js';
import type { AccentSet } from '../model/accent.js';

/** Whether a set's look goes from clip to clip. */
export const isTransition = ({ look }: Pick<AccentSet, 'look'>): boolean => definitionOf(look).acrossCuts === true;
