import type { Project } from '@idle-bend/core/model';
import { create } from 'zustand';
import { playAlong, whatPlays } from './player.ts';

const TICK_SECONDS = 0.03;
const TICK_HERTZ = 1760;

/** The sound whose beats are ticked along while it plays; none for most. */
export const useTicks = create<{ readonly soundId: string | undefined }>(() => ({ soundId: undefined }));

/** Where the ticks of what plays go through. */
let ticks: GainNode | undefined;

/** Ticks the beats of the chosen sound over what has just begun to play. */
export function tickAlong({ reel }: Project): void {
  const sound = reel.sounds.find(({ id }) => id === useTicks.getState().soundId);
  if (!sound?.beats) return ticks?.disconnect();
  const { fromSeconds, toSeconds, startSeconds, beats } = sound;
  const heard = beats.times.filter((time) => time >= fromSeconds && time < toSeconds);
  tick(heard.map((time) => startSeconds + time - fromSeconds));
}

playAlong(tickAlong);

/** Short ticks over what plays, at seconds of the reel; of those that have passed nothing is heard. */
function tick(seconds: readonly number[]): void {
  const plays = whatPlays();
  if (!plays) return;
  const { audio, begin, fromSecond, pace } = plays;
  ticks?.disconnect();
  ticks = audio.createGain();
  ticks.connect(plays.out);
  for (const second of seconds) {
    const when = begin + (second - fromSecond) / pace;
    if (when < audio.currentTime) continue;
    const gain = audio.createGain();
    gain.gain.setValueAtTime(0.35, when);
    gain.gain.exponentialRampToValueAtTime(0.001, when + TICK_SECONDS);
    gain.connect(ticks);
    const tone = audio.createOscillator();
    tone.frequency.value = TICK_HERTZ;
    tone.connect(gain);
    tone.start(when);
    tone.stop(when + TICK_SECONDS);
  }
}
