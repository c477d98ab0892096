import { beatsOf, type Candidate } from './candidates.js';
import { levelFeatures, readingOf, type PulseTable } from './level-features.js';

/** Seconds from one window to the next, and how far about its middle one listens. */
const STEP = 4;
const HEARD = 8;

/** Fewer beats in a window say nothing of their own. */
const FEWEST_IN_WINDOW = 3;

/** A stretch of the sound that a choice is made for, frames. */
export interface Window {
  readonly from: number;
  readonly to: number;
}

export function windowsOf(frames: number, rate: number): Window[] {
  const count = Math.max(1, Math.round(frames / rate / STEP));
  return Array.from({ length: count }, (_, w) => ({ from: (w * frames) / count, to: ((w + 1) * frames) / count }));
}

/**
 * What speaks for a candidate in each window: what is heard about the window, what is heard over the whole sound, and 1 where the window
 * has too few beats to say anything, in the order the network was fitted with.
 */
export function windowInputs(table: PulseTable, candidate: Candidate, windows: readonly Window[]): number[][] {
  const beats = beatsOf(candidate);
  const reading = readingOf(table, candidate.phase);
  const whole = levelFeatures(reading, 0, beats.length);
  const nothing = whole.map(() => 0);
  const first = (frame: number) => {
    const at = beats.findIndex((beat) => beat >= frame);
    return at < 0 ? beats.length : at;
  };
  return windows.map(({ from, to }) => {
    const middle = (from + to) / 2;
    const [start, end] = [first(middle - (HEARD / 2) * table.rate), first(middle + (HEARD / 2) * table.rate)];
    const isHeard = end - start >= FEWEST_IN_WINDOW;
    const local = isHeard ? levelFeatures(reading, start, end) : nothing;
    return [...local, ...whole, isHeard ? 0 : 1];
  });
}
