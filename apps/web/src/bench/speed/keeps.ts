import type { Keep } from '@idle-bend/core/time-map';

/** What a new speed leaves alone. */
export const KEEPS: readonly { value: Keep; text: string; title: string }[] = [
  { value: 'content', text: 'Content', title: 'The same source frames: the length gives, what follows slides' },
  { value: 'slot', text: 'Slot', title: 'The same place in time: the content after it slips' },
];

/** The speeds a ladder begins with. */
export const LADDER: readonly number[] = [0.75, 0.5, 0.25];
