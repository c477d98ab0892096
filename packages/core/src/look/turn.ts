import { BEFORE, comeAt, leadOf, soft, type LookDefinition } from './look.js';

export interface Turn {
  readonly kind: 'turn';
  readonly frames: number;
  readonly before: number;
  /** Above 0 the way of a clock's hands. */
  readonly degrees: number;
}

export const turn: LookDefinition<Turn> = {
  title: 'At a cut, the first clip turns away and the other turns into its place',
  initial: { kind: 'turn', frames: 12, before: 0.5, degrees: 30 },
  fields: { before: BEFORE, degrees: { kind: 'degrees', label: 'By', min: -180, max: 180 } },
  acrossCuts: true,
  runsOn: true,
  isWhole: true,
  sound: 'cross',
  lead: leadOf,
  effect({ degrees }, effects, time) {
    const come = soft(comeAt(time));
    return { ...effects, across: { cut: time.at, come, pace: 0, passage: { kind: 'turn', degrees } } };
  },
};
