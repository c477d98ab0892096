import { BEFORE, leadOf, nearCut, type LookDefinition } from './look.js';

export interface Whip {
  readonly kind: 'whip';
  readonly frames: number;
  readonly before: number;
  readonly way: 'sideways' | 'up and down';
  /** How long the streaks are beside the cut, of the picture's width or height. */
  readonly share: number;
}

export const whip: LookDefinition<Whip> = {
  title: 'At a cut, both pictures are drawn out into streaks, as if the camera was thrown round',
  initial: { kind: 'whip', frames: 8, before: 0.5, way: 'sideways', share: 0.4 },
  fields: {
    before: BEFORE,
    share: { kind: 'share', label: 'Streaks', min: 0.01, max: 1, from: 0, step: 0.05 },
    way: { kind: 'choice', label: 'Along', options: ['sideways', 'up and down'] },
  },
  acrossCuts: true,
  lead: leadOf,
  effect({ way, share }, effects, time) {
    return { ...effects, streak: { down: way === 'up and down', share: share * nearCut(time) ** 2 * time.strength } };
  },
};
