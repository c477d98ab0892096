import { BEFORE, comeAt, leadOf, PUSH_WAYS, soft, type LookDefinition, type PushWay } from './look.js';

export interface Slide {
  readonly kind: 'slide';
  readonly frames: number;
  readonly before: number;
  readonly way: PushWay;
  /** Black between the two, of the picture's width or height. */
  readonly gap: number;
}

export const slide: LookDefinition<Slide> = {
  title: 'At a cut, both clips slide by, with a gap between them',
  initial: { kind: 'slide', frames: 14, before: 0.5, way: 'left', gap: 0.05 },
  fields: {
    before: BEFORE,
    gap: { kind: 'share', label: 'Gap', min: 0, max: 1, from: 0, step: 0.01 },
    way: { kind: 'choice', label: 'Towards', options: PUSH_WAYS },
  },
  acrossCuts: true,
  runsOn: true,
  isWhole: true,
  sound: 'cross',
  lead: leadOf,
  effect({ way, gap }, effects, time) {
    const come = soft(comeAt(time));
    return { ...effects, across: { cut: time.at, come, pace: 0, passage: { kind: 'push', way, gap } } };
  },
};
