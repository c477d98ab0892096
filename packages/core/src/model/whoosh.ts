import { InvalidInput } from '../foundation/errors.js';
import { finite, object, onlyFields } from '../foundation/readers.js';

/** Rushing air made to a join's measure: noise whose band and loudness go with the speed. */
export interface Whoosh {
  /** Decibels at the peak, against a full-scale tone. */
  readonly gainDb: number;
  /** 0 dark … 1 bright. */
  readonly tone: number;
}

export const DEFAULT_WHOOSH: Whoosh = { gainDb: -12, tone: 0.5 };

/** Throws `InvalidInput` naming what cannot be. */
export function checkWhoosh({ gainDb: gain, tone }: Whoosh, field = 'whoosh'): void {
  if (!(gain >= -60 && gain <= 6)) throw new InvalidInput(`${field}.gainDb`, `${gain} dB is not between −60 and 6 dB`);
  if (!(tone >= 0 && tone <= 1)) throw new InvalidInput(`${field}.tone`, `${tone} is not between 0 and 1`);
}

/** Reads a whoosh from a document. Throws `InvalidInput` naming the place. */
export function readWhoosh(value: unknown, field: string): Whoosh {
  const w = object(value, field);
  onlyFields(w, ['gainDb', 'tone'], field);
  const whoosh = { gainDb: finite(w['gainDb'], `${field}.gainDb`), tone: finite(w['tone'], `${field}.tone`) };
  checkWhoosh(whoosh, field);
  return whoosh;
}
