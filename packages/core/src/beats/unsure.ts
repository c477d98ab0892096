import type { BeatGrid } from '../model/beat-grid.js';
import type { BeatSection } from './analyse.js';

/** From this likely on, half a beat later is worth being told. */
const LIKELY = 0.2;

/** A stretch in seconds. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

/** Where beats could be half a beat later than they are said to be, in order, as long as they go. */
export function couldBeLater(sections: readonly BeatSection[]): Stretch[] {
  const stretches: { from: number; to: number }[] = [];
  for (const { from, to, later } of sections) {
    if (later < LIKELY) continue;
    const last = stretches.at(-1);
    if (last && from - last.to < 1e-6) last.to = to;
    else stretches.push({ from, to });
  }
  return stretches;
}

/** How sure beats are over the whole sound, 0…1: that tempo and place of the beats are right, sections by their length; 1 without any. */
export function surenessOf(sections: readonly BeatSection[]): number {
  const seconds = sections.reduce((sum, { from, to }) => sum + to - from, 0);
  if (seconds === 0) return 1;
  return (
    sections.reduce((sum, { from, to, confidence }) => sum + confidence.tempo * confidence.phase * (to - from), 0) /
    seconds
  );
}

/**
 * The beats of some stretches half a beat later, all others as they are; where a stretch ends, a beat that would come sooner than most of a
 * beat after another is left out. Bars go on to begin where they did, counted by beats.
 */
export function laterWithin({ times, bar }: BeatGrid, stretches: readonly Stretch[]): BeatGrid {
  const gapAt = (i: number) => (times[i + 1] !== undefined ? times[i + 1]! - times[i]! : times[i]! - times[i - 1]!);
  const moved = times.map((time, i) =>
    stretches.some(({ from, to }) => time >= from && time < to) ? time + gapAt(i) / 2 : time,
  );
  const kept = moved.filter((time, i) => i === 0 || time - moved[i - 1]! > 0.6 * (times[i]! - times[i - 1]!));
  return { times: kept, bar };
}
