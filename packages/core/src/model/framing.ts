import { InvalidInput } from '../foundation/errors.js';
import { finite, object, oneOf, onlyFields } from '../foundation/readers.js';

/** Whole inside the reel's picture, with black beside it; or filling it, with what stands out cut off. */
const FITS = ['fit', 'fill'] as const;

type Fit = (typeof FITS)[number];

/** How a clip's picture lies in the reel's. */
export interface Framing {
  readonly fit: Fit;
  /** On top of that; 1 leaves it. */
  readonly scale: number;
  /** Where its middle is from the reel's, in shares of the reel's width and height; right and down are above 0. */
  readonly x: number;
  readonly y: number;
}

export const FITTED: Framing = { fit: 'fit', scale: 1, x: 0, y: 0 };

export const MIN_SCALE = 0.05;

export const MAX_SCALE = 8;

/** Throws `InvalidInput` for a framing that cannot be. */
export function checkFraming({ scale, x, y }: Framing, field = 'framing'): void {
  if (!(scale >= MIN_SCALE && scale <= MAX_SCALE)) throw new InvalidInput(`${field}.scale`, 'must lie in 5 to 800 %');
  if (!(Math.abs(x) <= 4 && Math.abs(y) <= 4)) throw new InvalidInput(`${field}.position`, 'must lie in −400 to 400 %');
}

export function readFraming(value: unknown, field: string): Framing {
  const f = object(value, field);
  onlyFields(f, ['fit', 'scale', 'x', 'y'], field);
  const number = (name: string) => finite(f[name], `${field}.${name}`);
  const framing = {
    fit: oneOf(f['fit'], FITS, `${field}.fit`),
    scale: number('scale'),
    x: number('x'),
    y: number('y'),
  };
  checkFraming(framing, field);
  return framing;
}
