import { BEFORE, leadOf, nearCut, type LookDefinition } from './look.js';

export interface Whip {
  readonly kind: 'whip';
  readonly frames: number;
  readonly before: number;
  /** The line the streaks lie along: 0 sideways, 90 up and down, 45 down to the right. */
  readonly degrees: number;
  /** How long the streaks are beside the cut, of the picture's width or height. */
  readonly share: number;
}

export const whip: LookDefinition<Whip> = {
  title: 'At a cut, both pictures are drawn out into streaks, as if the camera was thrown round',
  initial: { kind: 'whip', frames: 8, before: 0.5, degrees: 0, share: 0.4 },
  fields: {
    before: BEFORE,
    share: { kind: 'share', label: 'Streaks', min: 0.01, max: 1, from: 0, step: 0.05 },
    degrees: { kind: 'degrees', label: 'Along', min: -90, max: 90 },
  },
  acrossCuts: true,
  lead: leadOf,
  effect({ degrees, share }, effects, time) {
    return { ...effects, streak: { degrees, share: share * nearCut(time) ** 2 * time.strength } };
  },
};
