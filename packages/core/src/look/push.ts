import { PUSH_WAYS, soft, type LookDefinition, type PushWay } from './look.js';

export interface Push {
  readonly kind: 'push';
  readonly frames: number;
  readonly way: PushWay;
}

export const push: LookDefinition<Push> = {
  title: 'At a cut, one clip pushes the other out, blurred on its way',
  initial: { kind: 'push', frames: 10, way: 'left' },
  fields: { way: { kind: 'choice', label: 'Towards', options: PUSH_WAYS } },
  acrossCuts: true,
  effect({ way }, effects, { at, passed, frames, strength }) {
    const u = (passed + 0.5) / frames;
    const pace = (soft(Math.min(1, u + 0.5 / frames)) - soft(Math.max(0, u - 0.5 / frames))) * strength;
    return { ...effects, across: { cut: at, come: soft(u), pace, passage: { kind: 'push', way, gap: 0 } } };
  },
};
