import { moved, presence, wander, type LookDefinition } from './look.js';

export interface Shake {
  readonly kind: 'shake';
  readonly frames: number;
  /** How far it goes at most, of the picture's width and height. */
  readonly size: number;
}

/** Frames from one place to the next: a hand's tremble at 24 a second. */
const PERIOD = 2.5;

export const shake: LookDefinition<Shake> = {
  title: 'As if a hand held the camera',
  initial: { kind: 'shake', frames: 6, size: 0.01 },
  fields: { size: { kind: 'share', label: 'By, of the width', min: 0, max: 0.1, from: 0, step: 0.002 } },
  sustained: true,
  effect({ frames, size }, effects, time) {
    const far = size * presence(frames, time);
    const at = time.at + time.passed;
    return moved(effects, far * wander(at, PERIOD, time.seed), far * wander(at, PERIOD, time.seed + 1));
  },
};
