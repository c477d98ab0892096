import { presence, wander, type LookDefinition } from './look.js';

export interface Flicker {
  readonly kind: 'flicker';
  readonly frames: number;
  /** How dark it gets, 1: black. */
  readonly depth: number;
}

/** Frames from one light to the next. */
const PERIOD = 4;

export const flicker: LookDefinition<Flicker> = {
  title: 'Light that is not steady, like a lamp or an old film',
  initial: { kind: 'flicker', frames: 6, depth: 0.08 },
  fields: { depth: { kind: 'share', label: 'Darker by', min: 0, max: 1, from: 0, step: 0.01 } },
  sustained: true,
  effect({ frames, depth }, effects, time) {
    const dark = (1 + wander(time.at + time.passed, PERIOD, time.seed)) / 2;
    const amount = depth * presence(frames, time) * dark;
    return amount > (effects.flash?.amount ?? 0) ? { ...effects, flash: { colour: 'black', amount } } : effects;
  },
};
