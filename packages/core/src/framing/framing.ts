import { InvalidInput } from '../errors.js';

/** Whole inside the reel's picture, with black beside it; or filling it, with what stands out cut off. */
export const FITS = ['fit', 'fill'] as const;
export type Fit = (typeof FITS)[number];

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
export const SMALLEST_SCALE = 0.05;
export const LARGEST_SCALE = 8;

/** Throws `InvalidInput` for a framing that cannot be. */
export function checkFraming({ scale, x, y }: Framing, field = 'framing'): void {
  if (!(scale >= SMALLEST_SCALE && scale <= LARGEST_SCALE))
    throw new InvalidInput(`${field}.scale`, 'must lie in 5 to 800 %');
  if (!(Math.abs(x) <= 4 && Math.abs(y) <= 4)) throw new InvalidInput(`${field}.position`, 'must lie in −400 to 400 %');
}

export interface Size {
  readonly width: number;
  readonly height: number;
}

/** A rectangle in the reel's pixels; it may stand out of the reel's picture. */
export interface Place extends Size {
  readonly left: number;
  readonly top: number;
}

const even = (n: number) => Math.max(2, 2 * Math.floor(n / 2 + 0.5));

/**
 * Where a picture of shape `aspect` (width ÷ height, as displayed) comes to lie on a reel of that size. Whole, even numbers, so
 * that halved chroma keeps its place.
 */
export function placePicture(aspect: number, reel: Size, { fit, scale, x, y }: Framing = FITTED): Place {
  const wide = aspect > reel.width / reel.height;
  const byWidth = fit === 'fit' ? wide : !wide;
  const [w, h] = byWidth ? [reel.width, reel.width / aspect] : [reel.height * aspect, reel.height];
  const width = even(w * scale);
  const height = even(h * scale);
  const at = (room: number, own: number, shift: number) => 2 * Math.round(((room - own) / 2 + shift * room) / 2);
  return { left: at(reel.width, width, x), top: at(reel.height, height, y), width, height };
}

/** Whether the picture covers the reel's exactly, so that there is nothing to do but to scale it. */
export const covers = ({ left, top, width, height }: Place, reel: Size): boolean =>
  left === 0 && top === 0 && width === reel.width && height === reel.height;

/** The share of the reel's picture that the clip covers, 0…1. */
export function coveredShare({ left, top, width, height }: Place, reel: Size): number {
  const across = Math.max(0, Math.min(reel.width, left + width) - Math.max(0, left));
  const down = Math.max(0, Math.min(reel.height, top + height) - Math.max(0, top));
  return (across * down) / (reel.width * reel.height);
}
