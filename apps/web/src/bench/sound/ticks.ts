import type { Project } from '@idle-bend/core/model';
import { create } from 'zustand';
import { tick } from './player.ts';

/** The sound whose beats are ticked along while it plays; none for most. */
export const useTicks = create<{ readonly soundId: string | undefined }>(() => ({ soundId: undefined }));

/** Ticks the beats of the chosen sound over what has just begun to play. */
export function tickAlong({ reel }: Project): void {
  const sound = reel.sounds.find(({ id }) => id === useTicks.getState().soundId);
  if (!sound?.beats) return;
  const { fromSeconds, toSeconds, startSeconds, beats } = sound;
  const heard = beats.times.filter((time) => time >= fromSeconds && time < toSeconds);
  tick(heard.map((time) => startSeconds + time - fromSeconds));
}
