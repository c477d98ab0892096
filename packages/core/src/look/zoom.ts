import { BEFORE, comeAt, leadOf, type LookDefinition } from './look.js';

export interface Zoom {
  readonly kind: 'zoom';
  readonly frames: number;
  readonly before: number;
  /** How much closer the first clip comes; the second begins as much smaller. */
  readonly scale: number;
}

export const zoom: LookDefinition<Zoom> = {
  title: 'At a cut, the next clip grows out of the first, which comes closer',
  initial: { kind: 'zoom', frames: 12, before: 0.5, scale: 3 },
  fields: { before: BEFORE, scale: { kind: 'share', label: 'Zoom by', min: 1.1, max: 8, from: 1, step: 0.1 } },
  acrossCuts: true,
  runsOn: true,
  isWhole: true,
  sound: 'cross',
  lead: leadOf,
  effect({ scale }, effects, time) {
    // Faster and faster: twice as close in the same time, again and again, looks even.
    const come = comeAt(time) ** 1.5;
    return { ...effects, across: { cut: time.at, come, pace: 0, passage: { kind: 'zoom', scale } } };
  },
};
