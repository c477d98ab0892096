import { moved, presence, type LookDefinition } from './look.js';

export interface Sway {
  readonly kind: 'sway';
  readonly frames: number;
  /** How far it goes at most, of the picture's width and height. */
  readonly size: number;
}

/** Frames from side to side and back, and up and down: not one a multiple of the other, so that it never repeats soon. */
const [ACROSS, DOWN] = [72, 53] as const;

export const sway: LookDefinition<Sway> = {
  title: 'Slowly to and fro, as on water',
  initial: { kind: 'sway', frames: 24, size: 0.02 },
  fields: { size: { kind: 'share', label: 'By, of the width', min: 0, max: 0.1, from: 0, step: 0.005 } },
  sustained: true,
  effect({ frames, size }, effects, time) {
    const far = size * presence(frames, time);
    const turn = 2 * Math.PI * (time.passed + 0.5);
    return moved(effects, far * Math.sin(turn / ACROSS), 0.6 * far * Math.sin(turn / DOWN));
  },
};
