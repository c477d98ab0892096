import { InvalidInput } from '../foundation/errors.js';
import type { EndChoice, FlowTuning, Method } from '../model/interpolation.js';

/** A position this near a whole source frame shows that frame untouched. Source frames. */
export const WHOLE_FRAME_TOLERANCE = 1e-6;

/**
 * What a timeline frame is made of. `fraction` is how far from `a` to `b`, in 0…1 exclusive. Flow also looks at the frames
 * next to both, where there are any: how motion changes bends the way between.
 */
export type SimpleSample =
  | { readonly kind: 'source'; readonly frame: number }
  | { readonly kind: 'mix'; readonly a: number; readonly b: number; readonly fraction: number }
  | {
      readonly kind: 'flow';
      readonly a: number;
      readonly b: number;
      readonly fraction: number;
      readonly before: number | undefined;
      readonly after: number | undefined;
      /** Without one, the even tuning. */
      readonly tuning?: FlowTuning;
      /** Things hit or turn at one of the two: motion breaks off there or between them. */
      readonly knot?: true;
    }
  | { readonly kind: 'black' };

/** A moment's sample, or one that gives way to another: `share` of the second. */
export type PlainSample =
  | SimpleSample
  | { readonly kind: 'fade'; readonly from: SimpleSample; readonly to: SimpleSample; readonly share: number };

/**
 * A sample, or one seen through an open shutter. `now` is what shows without blur.
 * `shutter`: `steps` are moments in the middle of equal parts of the time it is open; between `edges` lie the parts, as
 * source positions. `smear`: drawn out by `frames` source frames of the common motion at `along`.
 */
export type Sample =
  | PlainSample
  | {
      readonly kind: 'shutter';
      readonly now: PlainSample;
      readonly edges: readonly number[];
      readonly steps: readonly SimpleSample[];
    }
  | { readonly kind: 'smear'; readonly now: PlainSample; readonly along: FlowSample; readonly frames: number };

export type FlowSample = Extract<SimpleSample, { kind: 'flow' }>;

/** A sample without its blur. */
export const nowOf = (sample: Sample): PlainSample =>
  sample.kind === 'shutter' || sample.kind === 'smear' ? sample.now : sample;

export function isWholeFrame(position: number): boolean {
  return Math.abs(position - Math.round(position)) <= WHOLE_FRAME_TOLERANCE;
}

/** True when the position lies on the source: 0 … frames−1, with the tolerance of a whole frame. */
export function isInSource(position: number, frames: number): boolean {
  return position >= -WHOLE_FRAME_TOLERANCE && position <= frames - 1 + WHOLE_FRAME_TOLERANCE;
}

/**
 * What shows source position `position` of a source of `frames` frames. Whole positions pass through; Step shows
 * floor(position + 1e-6), in reverse too; Mix and Flow make a frame of two. Outside the source `end` decides; without it
 * `InvalidInput` is thrown, naming timeline frame `k`.
 */
export function sampleAt(
  position: number,
  frames: number,
  method: Method,
  end: EndChoice | undefined,
  k = 0,
): SimpleSample {
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
  return method === 'step' ? { kind: 'source', frame: a } : made(method, a, a + 1, position - a, frames);
}

/** Frames next to each other have neighbours; across the seam of a loop there is no motion to go on from. */
function made(method: 'mix' | 'flow', a: number, b: number, fraction: number, frames: number): SimpleSample {
  if (method === 'mix') return { kind: 'mix', a, b, fraction };
  return {
    kind: 'flow',
    a,
    b,
    fraction,
    before: b > a && a > 0 ? a - 1 : undefined,
    after: b > a && b < frames - 1 ? b + 1 : undefined,
  };
}

/** The two frames a made one lies between, or `undefined` for one that is not made. */
export function madeOf(sample: Sample): Extract<SimpleSample, { fraction: number }> | undefined {
  const now = nowOf(sample);
  if (now.kind === 'fade') return madeOf(now.from) ?? madeOf(now.to);
  return 'fraction' in now ? now : undefined;
}

/** The simple samples a sample is made of. */
export function partsOf(sample: Sample): readonly SimpleSample[] {
  if (sample.kind === 'shutter') return sample.steps;
  if (sample.kind === 'smear') return [...partsOf(sample.now), sample.along];
  return sample.kind === 'fade' ? [sample.from, sample.to] : [sample];
}

/** A looped source is a circle of `frames` frames: after the last comes the first, and made frames reach across the seam. */
function sampleLooped(position: number, frames: number, method: Method): SimpleSample {
  const whole = Math.round(position);
  const wrap = (n: number) => ((n % frames) + frames) % frames;
  if (Math.abs(position - whole) <= WHOLE_FRAME_TOLERANCE) return { kind: 'source', frame: wrap(whole) };
  const a = Math.floor(position);
  if (method === 'step' || frames === 1) return { kind: 'source', frame: wrap(a) };
  return made(method, wrap(a), wrap(a + 1), position - a, frames);
}
