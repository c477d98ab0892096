import type { BeatGrid } from '../model/beat-grid.js';
import { isDownbeat } from './grid.js';
import type { Onset } from './onsets.js';

/** What begins this near to a beat, seconds, begins on it. */
const NEAR = 0.05;

/** How strong each beat is, 0…1: what begins on it, low most of all, and whether it begins a bar. */
export function beatStrengths(grid: BeatGrid, onsets: readonly Onset[]): number[] {
  const weight = { low: 0.45, mid: 0.3, high: 0.1 } as const;
  let next = 0;
  return grid.times.map((time, i) => {
    while (next < onsets.length && onsets[next]!.time < time - NEAR) next++;
    const strongest = { low: 0, mid: 0, high: 0 };
    for (let n = next; n < onsets.length && onsets[n]!.time <= time + NEAR; n++) {
      const { band, strength } = onsets[n]!;
      strongest[band] = Math.max(strongest[band], strength);
    }
    const heard = weight.low * strongest.low + weight.mid * strongest.mid + weight.high * strongest.high;
    return Math.min(1, heard + (isDownbeat(grid, i) ? 0.3 : 0.05));
  });
}
