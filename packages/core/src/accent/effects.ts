import { MAX_LOOK_FRAMES, NO_EFFECTS, type Effects } from '../look/look.js';
import { withLook } from '../look/looks.js';
import type { Project } from '../model/project.js';
import { type AccentTime, accentTimes } from './accent-times.js';

/** What accents do to every frame of the reel; nothing to most. */
export function effectsOf(project: Project): (frame: number) => Effects {
  const times = accentTimes(project);
  if (times.length === 0) return () => NO_EFFECTS;
  return (frame) => {
    let effects = NO_EFFECTS;
    let i = lowerBound(times, frame - MAX_LOOK_FRAMES);
    for (; i < times.length && times[i]!.frame <= frame + MAX_LOOK_FRAMES; i++) {
      const { set, frame: at, lead, frames } = times[i]!;
      effects = withLook(set.look, effects, frame, { at, lead, frames, strength: set.strength });
    }
    return effects;
  };
}

function lowerBound(times: readonly AccentTime[], frame: number): number {
  let [low, high] = [0, times.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (times[middle]!.frame < frame) low = middle + 1;
    else high = middle;
  }
  return low;
}
