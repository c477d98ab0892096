import { FITTED, type Framing } from '../model/framing.js';

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
