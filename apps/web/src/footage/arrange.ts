import type { Footage } from '@idle-bend/core/api';
import { framesPerSecond, speakRate } from '@idle-bend/core/time';

export const ORDERS = [
  { value: 'added', text: 'when it came' },
  { value: 'name', text: 'name' },
  { value: 'rate', text: 'rate, fastest first' },
  { value: 'length', text: 'length' },
  { value: 'health', text: 'repeats, most first' },
] as const;
export type Order = (typeof ORDERS)[number]['value'];

const rateOf = (f: Footage) => (f.facts.picture ? framesPerSecond(f.facts.picture.rate) : 0);
const KEYS: Readonly<Record<Order, (a: Footage, b: Footage) => number>> = {
  added: () => 0,
  name: (a, b) => a.name.localeCompare(b.name),
  rate: (a, b) => rateOf(b) - rateOf(a),
  length: (a, b) => (b.facts.durationSeconds ?? 0) - (a.facts.durationSeconds ?? 0),
  health: (a, b) => (b.health?.repeats.length ?? 0) - (a.health?.repeats.length ?? 0),
};

/** What matches every word that is sought, in name, rate or size; in the order that is wanted. */
export function arranged(footage: readonly Footage[], sought: string, order: Order): Footage[] {
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  const text = ({ name, facts: { picture } }: Footage) =>
    `${name} ${picture ? `${speakRate(picture.rate)} fps ${picture.width}×${picture.height} ${picture.codec}` : 'sound'}`.toLowerCase();
  return footage.filter((f) => words.every((word) => text(f).includes(word))).toSorted(KEYS[order]);
}
