import { couldBeLater, laterWithin } from '@idle-bend/core/beats';
import { setBeats } from '@idle-bend/core/edit';
import type { BeatGrid, Sound } from '@idle-bend/core/model';
import { frameOfSecond } from '@idle-bend/core/reel';
import { benchStore, goToReelFrame, reelFrameOf, select } from '../../session/bench-state.ts';
import { current } from '../../session/command.ts';
import { tell } from '../../session/notices.ts';
import { edit } from '../../session/session.ts';
import { useTicks } from './ticks.ts';
import { gridOf, heardBefore } from './use-sounds.ts';

const isSame = (a: BeatGrid | null, b: BeatGrid) =>
  a !== null && a.times.length === b.times.length && a.times.every((time, i) => Math.abs(time - b.times[i]!) < 1e-6);

/**
 * Takes the other beats where they could be half a beat later, or goes back to those that were heard, and plays them with ticks: from the
 * playhead where it is in such a stretch, else from the beginning of the first.
 */
export function hearOtherHalf(): void {
  const bench = current();
  const { selection } = benchStore.getState();
  const sounds = bench?.project.reel.sounds ?? [];
  const sound = sounds.find(({ id }) => selection.kind === 'sound' && id === selection.id) ?? sounds[0];
  if (!bench || !sound) return;
  select({ kind: 'sound', id: sound.id });
  const heard = heardBefore(sound.footageId);
  if (!heard) return tell('What was heard in this sound is still loading. Press the key again.');
  const stretches = couldBeLater(heard.sections);
  if (stretches.length === 0)
    return tell(`The beats of ${sound.name} are sure: none could as well be half a beat later.`);
  const asHeard = gridOf(heard);
  const later = laterWithin(asHeard, stretches);
  const taken = isSame(sound.beats, later) ? asHeard : later;
  edit((project) => setBeats(project, sound.id, taken));
  playWithTicks(sound, stretches);
}

function playWithTicks(sound: Sound, stretches: ReturnType<typeof couldBeLater>): void {
  useTicks.setState({ soundId: sound.id });
  const bench = current()!;
  const frames = stretches.map(({ from, to }) => ({
    from: frameOfSecond(bench.project, sound, Math.max(sound.fromSeconds, from)),
    to: frameOfSecond(bench.project, sound, Math.min(sound.toSeconds, to)),
  }));
  const here = reelFrameOf(bench);
  benchStore.setState({ clock: 0 });
  if (!frames.some(({ from, to }) => here >= from && here < to))
    goToReelFrame(bench.project, Math.max(0, Math.ceil(frames[0]!.from)));
  // Playing starts again, so that the ticks are those of the beats that were taken.
  setTimeout(() => benchStore.setState({ clock: 1, original: undefined }));
}
