import { formatTimecode, type Rate } from '@idle-bend/core/time';
import { create } from 'zustand';

const UNITS = ['timecode', 'frames', 'seconds'] as const;
export type Units = (typeof UNITS)[number];

const KEY = 'units';
const stored = localStorage.getItem(KEY);

/** How rulers and readouts give times of the reel; this browser remembers it. */
export const useUnits = create<{ readonly units: Units }>(() => ({
  units: UNITS.find((u) => u === stored) ?? 'timecode',
}));
useUnits.subscribe(({ units }) => localStorage.setItem(KEY, units));

export const nextUnits = () =>
  useUnits.setState(({ units }) => ({ units: UNITS[(UNITS.indexOf(units) + 1) % UNITS.length]! }));

/** A reel frame in those units: 00:00:02:22, 70, or 2.917 s. */
export function inUnits(frame: number, rate: Rate, units: Units): string {
  if (units === 'timecode') return formatTimecode(Math.round(frame), rate);
  if (units === 'frames') return String(Math.round(frame));
  const seconds = (frame * rate.den) / rate.num;
  return `${Number.isInteger(seconds) ? seconds : seconds.toFixed(Number.isInteger(seconds * 2) ? 1 : 3)} s`;
}
