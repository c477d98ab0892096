import { soft, type LookDefinition } from './look.js';

export interface Approach {
  readonly kind: 'approach';
  readonly frames: number;
  /** How much closer at its end; below 1 it begins as much closer and goes back. */
  readonly scale: number;
}

export const approach: LookDefinition<Approach> = {
  title: 'A slow push in, or out, over its whole length',
  initial: { kind: 'approach', frames: 1, scale: 1.15 },
  fields: { scale: { kind: 'share', label: 'Closer by', min: 0.5, max: 2, from: 1, step: 0.01 } },
  sustained: true,
  effect({ scale }, effects, { passed, frames, strength }) {
    const far = frames > 1 ? soft(passed / (frames - 1)) : 1;
    const whole = 1 + (Math.max(scale, 1 / scale) - 1) * strength;
    // The same step closer looks smaller the closer one is: by factors it looks even.
    return { ...effects, scale: effects.scale * whole ** (scale >= 1 ? far : 1 - far) };
  },
};
