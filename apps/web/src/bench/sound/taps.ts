import type { Sound } from '@idle-bend/core/model';
import { secondOfFrame } from '@idle-bend/core/reel';
import { create } from 'zustand';
import { playedSecond } from './player.ts';
import { benchStore, reelFrameOf, type BenchClip } from '../../session/bench-state.ts';
import { current } from '../../session/command.ts';

/** Beats tapped along with a sound, seconds of its file. */
export const useTaps = create<{ readonly soundId: string | undefined; readonly taps: readonly number[] }>(() => ({
  soundId: undefined,
  taps: [],
}));

export const clearTaps = () => useTaps.setState({ soundId: undefined, taps: [] });

/** One tap, where the sound is heard now; taps of another sound, or of another time, begin again. */
export function tapBeat(sound: Sound, bench: BenchClip): void {
  const reelSecond = playedSecond();
  const { num, den } = bench.project.reel.rate;
  const second = secondOfFrame(
    bench.project,
    sound,
    reelSecond === undefined ? reelFrameOf(bench) : (reelSecond * num) / den,
  );
  const { soundId, taps } = useTaps.getState();
  const goesOn = soundId === sound.id && taps.length > 0 && second > taps.at(-1)! && second - taps.at(-1)! < 4;
  useTaps.setState({ soundId: sound.id, taps: goesOn ? [...taps, second] : [second] });
}

/** A tap by key: of the sound that is selected, else the first. */
export function tapHere(): void {
  const bench = current();
  if (!bench) return;
  const { selection } = benchStore.getState();
  const { sounds } = bench.project.reel;
  const sound = sounds.find((s) => selection.kind === 'sound' && s.id === selection.id) ?? sounds[0];
  if (!sound) return;
  benchStore.setState({ selection: { kind: 'sound', id: sound.id } });
  tapBeat(sound, bench);
}
