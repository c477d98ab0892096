import { InvalidInput } from '../errors.js';

/** How in-between frames are made: the nearest before, or a linear blend of the two around. */
export const METHODS = ['step', 'mix'] as const;
export type Method = (typeof METHODS)[number];

/** What is shown where the map asks for source that is not there. */
export const END_CHOICES = ['hold', 'loop', 'black'] as const;
export type EndChoice = (typeof END_CHOICES)[number];

/** A position this near a whole source frame shows that frame untouched. Source frames. */
export const WHOLE_FRAME_TOLERANCE = 1e-6;

/** What a timeline frame is made of. `fraction` is how far from `a` to `b`, in 0…1 exclusive. */
export type Sample =
  | { readonly kind: 'source'; readonly frame: number }
  | { readonly kind: 'mix'; readonly a: number; readonly b: number; readonly fraction: number }
  | { readonly kind: 'black' };

export function isWholeFrame(position: number): boolean {
  return Math.abs(position - Math.round(position)) <= WHOLE_FRAME_TOLERANCE;
}

/** True when the position lies on the source: 0 … frames−1, with the tolerance of a whole frame. */
export function isInSource(position: number, frames: number): boolean {
  return position >= -WHOLE_FRAME_TOLERANCE && position <= frames - 1 + WHOLE_FRAME_TOLERANCE;
}

/**
 * What shows source position `position` of a source of `frames` frames. Whole positions pass through; Step shows
 * floor(position + 1e-6), in reverse too; Mix blends linearly. Outside the source `end` decides; without it
 * `InvalidInput` is thrown, naming timeline frame `k`.
 */
export function sampleAt(position: number, frames: number, method: Method, end: EndChoice | undefined, k = 0): Sample {
  if (!Number.isFinite(position)) throw new InvalidInput(`frame ${k}`, 'has no source position');
  if (!isInSource(position, frames)) {
    if (end === undefined)
      throw new InvalidInput(
        `frame ${k}`,
        `asks for source position ${position.toFixed(3)}, but the source has frames 0 to ${frames - 1}; choose hold, loop or black for its ends`,
      );
    if (end === 'black') return { kind: 'black' };
    if (end === 'hold') return { kind: 'source', frame: position < 0 ? 0 : frames - 1 };
    return sampleLooped(position, frames, method);
  }
  const whole = Math.round(position);
  if (Math.abs(position - whole) <= WHOLE_FRAME_TOLERANCE) return { kind: 'source', frame: whole };
  const a = Math.floor(position);
  return method === 'step' ? { kind: 'source', frame: a } : { kind: 'mix', a, b: a + 1, fraction: position - a };
}

/** A looped source is a circle of `frames` frames: after the last comes the first, and Mix blends across the seam. */
function sampleLooped(position: number, frames: number, method: Method): Sample {
  const whole = Math.round(position);
  const wrap = (n: number) => ((n % frames) + frames) % frames;
  if (Math.abs(position - whole) <= WHOLE_FRAME_TOLERANCE) return { kind: 'source', frame: wrap(whole) };
  const a = Math.floor(position);
  if (method === 'step' || frames === 1) return { kind: 'source', frame: wrap(a) };
  return { kind: 'mix', a: wrap(a), b: wrap(a + 1), fraction: position - a };
}
