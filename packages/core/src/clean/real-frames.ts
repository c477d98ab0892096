import { cleanSlope } from '../cadence/clean-slope.js';
import { isWholeFrame } from '../sampling/sample.js';
import { positionAt } from '../time-map/evaluate.js';
import { bendWindow, mapFrameCount, reachCount, reachSlope, TIME_EPSILON, type TimeMap } from '../time-map/time-map.js';

/** How a reach falls on whole source frames. */
export interface ReachPhase {
  /** Source frames per timeline frame. */
  readonly slope: number;
  /**
   * As many of its frames are real as its slope allows, on the phase that gives them. A freeze is clean on a whole frame; a reach whose
   * slope is no small fraction is not.
   */
  readonly clean: boolean;
  /** How far its positions at whole timeline frames are from the phase with most real frames, source frames; none where it has no such phase. */
  readonly phase: number | undefined;
}

/** How every reach of a map falls on whole source frames. */
export function reachPhases(map: TimeMap): ReachPhase[] {
  return Array.from({ length: reachCount(map) }, (_, i) => {
    const slope = reachSlope(map, i);
    const fraction = cleanSlope(slope);
    const { t, s } = map.vertices[i]!;
    if (!fraction) return { slope, clean: false, phase: undefined };
    const steps = (s - slope * t) * fraction.q;
    return { slope, clean: isWholeFrame(steps), phase: (steps - Math.round(steps)) / fraction.q };
  });
}

/** How many of a map's frames are whole source frames, and how many it has. */
export function realFrames(map: TimeMap): { readonly real: number; readonly of: number } {
  const of = mapFrameCount(map);
  let real = 0;
  for (let i = 0; i < reachCount(map); i++) {
    // Between its windows a reach's real frames follow one another at even distances; inside them each frame is looked at.
    const from = bendWindow(map, i).to;
    const to = bendWindow(map, i + 1).from;
    const first = i === 0 ? 0 : Math.ceil(from - TIME_EPSILON);
    const last = i === reachCount(map) - 1 ? of - 1 : Math.ceil(to - TIME_EPSILON) - 1;
    const slope = reachSlope(map, i);
    const q = cleanSlope(slope)?.q;
    for (let k = first; k <= last; k++) {
      if (!isWholeFrame(positionAt(map, k))) continue;
      if (q === undefined) real++;
      else {
        real += Math.floor((last - k) / q) + 1;
        break;
      }
    }
    const next = Math.ceil(bendWindow(map, i + 1).to - TIME_EPSILON);
    if (i < reachCount(map) - 1)
      for (let k = Math.max(0, last + 1); k < Math.min(next, of); k++) if (isWholeFrame(positionAt(map, k))) real++;
  }
  return { real, of };
}
