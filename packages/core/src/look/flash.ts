import type { FlashColour, LookDefinition } from './look.js';

export interface Flash {
  readonly kind: 'flash';
  readonly frames: number;
  readonly colour: FlashColour;
  /** It falls off over its frames, or ends at once. */
  readonly falls: boolean;
}

export const flash: LookDefinition<Flash> = {
  title: 'White, black, inverted or a colour, for a few frames',
  initial: { kind: 'flash', frames: 3, colour: 'white', falls: true },
  fields: { colour: { kind: 'colour', label: 'Of' }, falls: { kind: 'flag', label: 'falls off' } },
  effect({ frames, colour, falls }, effects, { passed, strength }) {
    const amount = strength * (falls ? 1 - passed / frames : 1);
    // Of two at once the stronger shows.
    return amount > (effects.flash?.amount ?? 0) ? { ...effects, flash: { colour, amount } } : effects;
  },
};
