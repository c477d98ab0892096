import { BEFORE, leadOf, nearCut, soft, type FlashColour, type LookDefinition } from './look.js';

export interface Dip {
  readonly kind: 'dip';
  readonly frames: number;
  readonly before: number;
  readonly colour: FlashColour;
}

export const dip: LookDefinition<Dip> = {
  title: 'At a cut, one clip fades to a colour and the other out of it',
  initial: { kind: 'dip', frames: 16, before: 0.5, colour: 'black' },
  fields: { before: BEFORE, colour: { kind: 'colour', label: 'To' } },
  acrossCuts: true,
  isWhole: true,
  sound: 'fade',
  lead: leadOf,
  effect({ colour }, effects, time) {
    const amount = soft(nearCut(time));
    return amount > (effects.flash?.amount ?? 0) ? { ...effects, flash: { colour, amount } } : effects;
  },
};
