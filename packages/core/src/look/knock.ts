import type { LookDefinition } from './look.js';

export interface Knock {
  readonly kind: 'knock';
  readonly frames: number;
  /** How far it shakes, of the picture's width. */
  readonly size: number;
}

export const knock: LookDefinition<Knock> = {
  title: 'A short shake that dies away',
  initial: { kind: 'knock', frames: 8, size: 0.02 },
  fields: { size: { kind: 'share', label: 'By, of the width', min: 0, max: 0.25, from: 0, step: 0.005 } },
  effect({ frames, size }, effects, { passed, strength }) {
    const far = size * strength * (1 - passed / frames) ** 2;
    const turn = 2.4 * passed + 1;
    // Closer by as much as it is moved at most, so that no edge comes into sight.
    const scale = effects.scale * (1 + 2 * far);
    return { ...effects, scale, x: effects.x + far * Math.cos(turn), y: effects.y + far * Math.sin(turn * 1.3) };
  },
};
