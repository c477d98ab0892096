import { PUSH_WAYS, type LookDefinition, type PushWay } from './look.js';

export interface Push {
  readonly kind: 'push';
  readonly frames: number;
  readonly way: PushWay;
}

const soft = (u: number) => u * u * (3 - 2 * u);

export const push: LookDefinition<Push> = {
  title: 'At a cut, one clip pushes the other out',
  initial: { kind: 'push', frames: 10, way: 'left' },
  fields: { way: { kind: 'choice', label: 'Towards', options: PUSH_WAYS } },
  acrossCuts: true,
  effect({ frames, way }, effects, { at, passed, strength }) {
    const u = (passed + 0.5) / frames;
    const pace = (soft(Math.min(1, u + 0.5 / frames)) - soft(Math.max(0, u - 0.5 / frames))) * strength;
    return { ...effects, push: { cut: at, way, come: soft(u), pace } };
  },
};
