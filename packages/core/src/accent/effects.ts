import { MAX_LOOK_FRAMES, NO_EFFECTS, type Effects } from '../look/look.js';
import { definitionOf, withLook } from '../look/looks.js';
import type { Project } from '../model/project.js';
import { reelBeats } from '../reel/sound-time.js';
import { amountAt } from './amount.js';
import { type AccentTime, accentTimes } from './accent-times.js';

/** What accents do to every frame of the reel; nothing to most. */
export function effectsOf(project: Project): (frame: number) => Effects {
  const all = accentTimes(project);
  if (all.length === 0) return () => NO_EFFECTS;
  const sustained = all.filter(({ set }) => definitionOf(set.look).sustained);
  const times = all.filter(({ set }) => !definitionOf(set.look).sustained);
  const beats = sustained.length > 0 ? reelBeats(project).map((beat) => beat.frame) : [];
  const cues = sustained.length > 0 ? project.reel.cues.map(({ frame }) => frame).sort((a, b) => a - b) : [];
  const apply = (effects: Effects, frame: number, { set, frame: at, lead, frames }: AccentTime, sinceBeat?: number) =>
    withLook(set.look, effects, frame, {
      ...{ at, lead, frames, strength: set.strength * amountAt(project, set, frame), sinceBeat, seed: seedOf(set.id) },
      ...{ cues, beats },
    });
  return (frame) => {
    let effects = NO_EFFECTS;
    if (sustained.length > 0) {
      const beat = beats[lowerBound(beats, frame + 0.5) - 1];
      const sinceBeat = beat === undefined ? undefined : Math.max(0, frame - beat);
      for (const time of sustained) effects = apply(effects, frame, time, sinceBeat);
    }
    let i = lowerBound(times, frame - MAX_LOOK_FRAMES, (time) => time.frame);
    for (; i < times.length && times[i]!.frame <= frame + MAX_LOOK_FRAMES; i++)
      effects = apply(effects, frame, times[i]!);
    return effects;
  };
}

/** A small whole number for a name. */
const seedOf = (id: string): number => [...id].reduce((sum, letter) => (sum * 31 + letter.charCodeAt(0)) % 65_521, 7);

/** The first of a sorted list that is not below a value. */
function lowerBound<T>(list: readonly T[], value: number, of: (each: T) => number = Number): number {
  let [low, high] = [0, list.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (of(list[middle]!) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}
