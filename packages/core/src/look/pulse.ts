import { presence, type LookDefinition } from './look.js';

export interface Pulse {
  readonly kind: 'pulse';
  readonly frames: number;
  /** How much closer on a beat (1.04: a twenty-fifth). */
  readonly scale: number;
}

/** Frames after which half of it is left. */
const HALF = 3;

export const pulse: LookDefinition<Pulse> = {
  title: 'A little closer on every beat of the music',
  initial: { kind: 'pulse', frames: 1, scale: 1.04 },
  fields: { scale: { kind: 'share', label: 'Zoom by', min: 1, max: 2, from: 1, step: 0.01 } },
  sustained: true,
  effect({ frames, scale }, effects, time) {
    if (time.sinceBeat === undefined) return effects;
    const left = 2 ** (-time.sinceBeat / HALF);
    return { ...effects, scale: effects.scale * (1 + (scale - 1) * presence(frames, time) * left) };
  },
};
