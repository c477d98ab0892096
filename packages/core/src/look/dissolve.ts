import { BEFORE, comeAt, leadOf, soft, type LookDefinition } from './look.js';

export interface Dissolve {
  readonly kind: 'dissolve';
  readonly frames: number;
  readonly before: number;
  readonly ease: 'even' | 'soft';
}

export const dissolve: LookDefinition<Dissolve> = {
  title: 'At a cut, one clip fades into the other',
  initial: { kind: 'dissolve', frames: 12, before: 0.5, ease: 'even' },
  fields: { before: BEFORE, ease: { kind: 'choice', label: 'Changes', options: ['even', 'soft'] } },
  acrossCuts: true,
  runsOn: true,
  isWhole: true,
  sound: 'cross',
  lead: leadOf,
  effect({ ease }, effects, time) {
    const u = comeAt(time);
    const across = {
      cut: time.at,
      come: ease === 'soft' ? soft(u) : u,
      pace: 0,
      passage: { kind: 'dissolve' },
    } as const;
    return { ...effects, across };
  },
};
