import { nearestBeat, placeInBar } from '../beats/grid.js';
import type { Project } from '../model/project.js';
import type { Sound } from '../model/sound.js';
import { framesPerSecond } from '../time/rate.js';

/** The loudness factor of a sound at a second of its file, fades and gain together; 0 outside its part. */
export function loudnessAt(
  { fromSeconds: from, toSeconds: to, gainDb: gain, fadeInSeconds: fadeIn, fadeOutSeconds: fadeOut }: Sound,
  second: number,
): number {
  if (second < from || second >= to) return 0;
  const rise = fadeIn > 0 ? Math.min(1, (second - from) / fadeIn) : 1;
  const fall = fadeOut > 0 ? Math.min(1, (to - second) / fadeOut) : 1;
  return 10 ** (gain / 20) * rise * fall;
}

/** The reel frame, a real number, at which a second of a sound is heard. */
export const frameOfSecond = (
  { reel }: Project,
  { startSeconds: start, fromSeconds: from }: Pick<Sound, 'startSeconds' | 'fromSeconds'>,
  second: number,
): number => (start + second - from) * framesPerSecond(reel.rate);

/** The second of a sound that is heard at a reel frame. */
export const secondOfFrame = (
  { reel }: Project,
  { startSeconds: start, fromSeconds: from }: Pick<Sound, 'startSeconds' | 'fromSeconds'>,
  frame: number,
): number => frame / framesPerSecond(reel.rate) - start + from;

/** What a place of a sound is called: bar and beat as musicians count, else the time. */
export function placeName({ beats, name }: Sound, second: number): string {
  const i = beats ? nearestBeat(beats.times, second) : -1;
  if (!beats || i < 0 || Math.abs(beats.times[i]! - second) > 1e-6) return `${name} ${second.toFixed(2)} s`;
  const { bar, beat } = placeInBar(beats, i);
  return `bar ${bar}, beat ${beat}`;
}

/** Every beat of every sound that is heard on the reel, as a reel frame (a real number), with the sound and second it is of. */
export interface ReelBeat {
  readonly frame: number;
  readonly soundId: string;
  readonly second: number;
  readonly index: number;
}

export function reelBeats(project: Project): ReelBeat[] {
  return project.reel.sounds
    .flatMap((sound) =>
      (sound.beats?.times ?? []).flatMap((second, index): ReelBeat[] =>
        second >= sound.fromSeconds && second < sound.toSeconds
          ? [{ frame: frameOfSecond(project, sound, second), soundId: sound.id, second, index }]
          : [],
      ),
    )
    .filter(({ frame }) => frame >= -0.5)
    .sort((a, b) => a.frame - b.frame);
}
