import type { LookDefinition } from './look.js';

export interface Punch {
  readonly kind: 'punch';
  readonly frames: number;
  /** Closer at once by this factor (1.1: a tenth), settling back. */
  readonly scale: number;
}

export const punch: LookDefinition<Punch> = {
  title: 'Closer at once, settling back',
  initial: { kind: 'punch', frames: 8, scale: 1.12 },
  fields: { scale: { kind: 'share', label: 'Zoom by', min: 1, max: 4, from: 1, step: 0.01 } },
  effect({ frames, scale }, effects, { passed, strength }) {
    const left = 1 - passed / frames;
    return { ...effects, scale: effects.scale * (1 + (scale - 1) * strength * left ** 3) };
  },
};
