import { InvalidInput } from '../foundation/errors.js';
import { boolean, finite, object, oneOf, onlyFields } from '../foundation/readers.js';

/**
 * Motion blur. `shutter`: what really passes while a shutter of that angle is open (360° is a whole timeline frame). `smear`: the
 * picture drawn out along its common motion, which is quicker and asks less of Flow.
 */
export type Blur =
  | { readonly kind: 'none' }
  | {
      readonly kind: 'shutter';
      /** Degrees, 0 … 720. */
      readonly angle: number;
      /** At normal speed too; else only what speeding up took away from the footage's own blur is added. */
      readonly always: boolean;
    }
  | {
      readonly kind: 'smear';
      /** 1: as long as a shutter of 180° would draw it. */
      readonly strength: number;
      /** Timeline frames over which it comes and goes where the speed changes at once. */
      readonly fade: number;
      readonly always: boolean;
    };

const BLUR_KINDS = ['none', 'shutter', 'smear'] as const;

export const NO_BLUR: Blur = { kind: 'none' };

export const DEFAULT_SHUTTER = { kind: 'shutter', angle: 180, always: false } as const satisfies Blur;

export const DEFAULT_SMEAR = { kind: 'smear', strength: 1, fade: 2, always: false } as const satisfies Blur;

export const MAX_SHUTTER_ANGLE = 720;

/** Throws `InvalidInput` naming what cannot be. */
export function checkBlur(blur: Blur, field = 'blur'): void {
  if (blur.kind === 'shutter' && !(blur.angle >= 0 && blur.angle <= MAX_SHUTTER_ANGLE))
    throw new InvalidInput(`${field}.angle`, `${blur.angle}° is not between 0° and ${MAX_SHUTTER_ANGLE}°`);
  if (blur.kind !== 'smear') return;
  if (!(blur.strength >= 0 && blur.strength <= 10))
    throw new InvalidInput(`${field}.strength`, `${blur.strength} is not between 0 and 10`);
  if (!(blur.fade >= 0 && blur.fade <= 240))
    throw new InvalidInput(`${field}.fade`, `${blur.fade} is not between 0 and 240 frames`);
}

/** Reads a blur from a document. Throws `InvalidInput` naming the place. */
export function readBlur(value: unknown, field: string): Blur {
  const b = object(value, field);
  const kind = oneOf(b['kind'], BLUR_KINDS, `${field}.kind`);
  const number = (name: string) => finite(b[name], `${field}.${name}`);
  onlyFields(
    b,
    ['kind', ...{ none: [], shutter: ['angle', 'always'], smear: ['strength', 'fade', 'always'] }[kind]],
    field,
  );
  if (kind === 'none') return NO_BLUR;
  const always = boolean(b['always'], `${field}.always`);
  const blur: Blur =
    kind === 'shutter'
      ? { kind, angle: number('angle'), always }
      : { kind, strength: number('strength'), fade: number('fade'), always };
  checkBlur(blur, field);
  return blur;
}
