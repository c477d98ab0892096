import type { Ease } from '../time-map/ease.js';

/** A way for a bend to change speed. */
export interface BendShape {
  readonly id: string;
  readonly name: string;
  readonly ease: Ease;
  readonly suits: string;
  readonly avoid: string;
}

/** Our own shapes for a bend, from plain to pronounced. */
export const BEND_SHAPES: readonly BendShape[] = [
  {
    id: 'straight',
    name: 'Straight',
    ease: 'straight',
    suits: 'Long, even changes: a drone rising, a wide pan.',
    avoid: 'Short bends: the eye sees where it starts and stops.',
  },
  {
    id: 'soft',
    name: 'Soft',
    ease: 'soft',
    suits: 'Nearly everything; the change is not noticed.',
    avoid: 'Where the change itself should be felt.',
  },
  {
    id: 'silk',
    name: 'Silk',
    ease: 'silk',
    suits: 'Deep slow motion with a moving camera.',
    avoid: 'Short bends: its middle is steeper than Soft.',
  },
  {
    id: 'early',
    name: 'Early',
    ease: 'early',
    suits: 'A hit: the new speed is there almost at once, then settles.',
    avoid: 'Out of stillness, where it starts with a jolt.',
  },
  {
    id: 'late',
    name: 'Late',
    ease: 'late',
    suits: 'Holding back before a hit or a cut.',
    avoid: 'Into stillness, where it stops with a jolt.',
  },
  {
    id: 'brink',
    name: 'Brink',
    ease: [0.85, 0, 0.15, 1],
    suits: 'Quick material: waits, tips over, rests.',
    avoid: 'Faces and slow pans: the tip looks like a mistake.',
  },
  {
    id: 'settle',
    name: 'Settle',
    ease: [0.1, 0.75, 0.25, 1],
    suits: 'After an impact: most of the change at once, the rest dies away.',
    avoid: 'Before an impact: nothing is left to wait for.',
  },
  {
    id: 'gather',
    name: 'Gather',
    ease: [0.75, 0, 0.9, 0.25],
    suits: 'A run-up: speed gathers until the cut.',
    avoid: 'In the middle of a shot: it ends abruptly.',
  },
  {
    id: 'crest',
    name: 'Crest',
    ease: [0.25, 0.4, 0.35, 1.35],
    suits: 'Music with swing: a little past the new speed and back.',
    avoid: 'Close to 0 % or to source’s end: the overshoot may run backward or out.',
  },
  {
    id: 'breath',
    name: 'Breath',
    ease: [0.65, -0.35, 0.75, 0.6],
    suits: 'A breath before the change: first a little the other way.',
    avoid: 'Technical shots, where any wavering shows.',
  },
  {
    id: 'terrace',
    name: 'Terrace',
    ease: [0.1, 0.9, 0.9, 0.1],
    suits: 'Two quick halves with a rest between: double hits.',
    avoid: 'Anything that should look like one movement.',
  },
];
