import type { LookDefinition } from './look.js';

export interface Stutter {
  readonly kind: 'stutter';
  readonly frames: number;
}

export const stutter: LookDefinition<Stutter> = {
  title: 'The frame stands still for a few frames',
  initial: { kind: 'stutter', frames: 3 },
  fields: {},
  effect: (_, effects, { at }) => ({ ...effects, held: at }),
};
