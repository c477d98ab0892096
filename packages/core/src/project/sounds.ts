import { InvalidInput } from '../errors.js';
import { placeInBar, nearestBeat, type BeatGrid } from '../beats/grid.js';
import { framesPerSecond } from '../rate/rate.js';
import type { Cue, Project, Sound } from './project.js';

export const LEAST_GAIN = -60;
export const MOST_GAIN = 24;
/** Less of a sound than this, seconds, is none. */
export const SHORTEST_SOUND = 0.05;

/** Throws `InvalidInput` for a sound that cannot be. */
export function checkSound({ start, from, to, gain, fadeIn, fadeOut }: Sound, field = 'sound'): void {
  if (!(from >= 0 && to - from >= SHORTEST_SOUND - 1e-9))
    throw new InvalidInput(field, `must last ${SHORTEST_SOUND} s at least, and begin within its file`);
  if (!(Math.abs(start) <= 1e6)) throw new InvalidInput(`${field}.start`, 'is too far off the reel');
  if (!(gain >= LEAST_GAIN && gain <= MOST_GAIN))
    throw new InvalidInput(`${field}.gain`, `must lie in ${LEAST_GAIN} to ${MOST_GAIN} dB`);
  if (!(fadeIn >= 0 && fadeOut >= 0 && fadeIn + fadeOut <= to - from + 1e-9))
    throw new InvalidInput(`${field}.fades`, 'must not be longer than the sound');
}

/** The highest true peak as delivered: −20 … 0 dBTP. Throws `InvalidInput`. */
export function checkCeiling(ceiling: number, field = 'ceiling'): number {
  if (!(ceiling >= -20 && ceiling <= 0)) throw new InvalidInput(field, `${ceiling} dBTP is not between −20 and 0`);
  return ceiling;
}

/** Holds the whole down to a true peak, or (null) leaves it as it is summed. */
export const setCeiling = (project: Project, ceiling: number | null): Project => ({
  ...project,
  reel: { ...project.reel, ceiling: ceiling === null ? null : checkCeiling(ceiling) },
});

/** The loudness factor of a sound at a second of its file, fades and gain together; 0 outside its part. */
export function loudnessAt({ from, to, gain, fadeIn, fadeOut }: Sound, second: number): number {
  if (second < from || second >= to) return 0;
  const rise = fadeIn > 0 ? Math.min(1, (second - from) / fadeIn) : 1;
  const fall = fadeOut > 0 ? Math.min(1, (to - second) / fadeOut) : 1;
  return 10 ** (gain / 20) * rise * fall;
}

/** The reel frame, a real number, at which a second of a sound is heard. */
export const frameOfSecond = (
  { reel }: Project,
  { start, from }: Pick<Sound, 'start' | 'from'>,
  second: number,
): number => (start + second - from) * framesPerSecond(reel.rate);

/** The second of a sound that is heard at a reel frame. */
export const secondOfFrame = (
  { reel }: Project,
  { start, from }: Pick<Sound, 'start' | 'from'>,
  frame: number,
): number => frame / framesPerSecond(reel.rate) - start + from;

export function addSound(project: Project, sound: Sound): Project {
  checkSound(sound);
  return withSounds(project, [...project.reel.sounds, sound]);
}

/** Changes a sound; its cues move with it. Throws `InvalidInput` for what cannot be. */
export function updateSound(project: Project, soundId: string, change: Partial<Omit<Sound, 'id'>>): Project {
  const sounds = project.reel.sounds.map((sound) => (sound.id === soundId ? { ...sound, ...change } : sound));
  const changed = sounds.find(({ id }) => id === soundId);
  if (!changed) throw new InvalidInput('sound', 'is not on the reel any more');
  checkSound(changed);
  return withSounds(project, sounds);
}

/** Takes a sound off the reel. Its cues stay where they are, as cues of the reel. */
export function removeSound(project: Project, soundId: string): Project {
  const cues = project.reel.cues.map((cue): Cue =>
    cue.beat?.soundId === soundId ? { ...cue, frame: Math.max(0, cue.frame), beat: null } : cue,
  );
  const sounds = project.reel.sounds.filter(({ id }) => id !== soundId);
  return { ...project, reel: { ...project.reel, sounds, cues: inOrder(cues) } };
}

/** Gives a sound other beats. A cue on a beat goes where that beat goes: to the one of the same number, else to the nearest. */
export function setBeats(project: Project, soundId: string, beats: BeatGrid): Project {
  const before = project.reel.sounds.find(({ id }) => id === soundId)?.beats;
  const changed = updateSound(project, soundId, { beats });
  if (!before || beats.times.length === 0) return changed;
  const sameCount = before.times.length === beats.times.length;
  const cues = changed.reel.cues.map((cue): Cue => {
    if (cue.beat?.soundId !== soundId) return cue;
    const i = nearestBeat(before.times, cue.beat.second);
    if (i < 0 || Math.abs(before.times[i]! - cue.beat.second) > 1e-6) return cue;
    const to = sameCount ? beats.times[i]! : beats.times[nearestBeat(beats.times, cue.beat.second)]!;
    return { ...cue, beat: { soundId, second: to } };
  });
  return settleCues({ ...changed, reel: { ...changed.reel, cues } });
}

/** A cue on a place of a sound, a beat as a rule; the one that is there already when there is one. */
export function cueOnSound(
  project: Project,
  soundId: string,
  second: number,
  id: string,
): { readonly project: Project; readonly cueId: string } {
  const there = project.reel.cues.find(
    ({ beat }) => beat?.soundId === soundId && Math.abs(beat.second - second) < 1e-6,
  );
  if (there) return { project, cueId: there.id };
  const sound = project.reel.sounds.find((s) => s.id === soundId);
  if (!sound) throw new InvalidInput('sound', 'is not on the reel any more');
  const cue: Cue = {
    id,
    frame: frameOfSecond(project, sound, second),
    name: placeName(sound, second),
    beat: { soundId, second },
  };
  return { project: { ...project, reel: { ...project.reel, cues: inOrder([...project.reel.cues, cue]) } }, cueId: id };
}

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
        second >= sound.from && second < sound.to
          ? [{ frame: frameOfSecond(project, sound, second), soundId: sound.id, second, index }]
          : [],
      ),
    )
    .filter(({ frame }) => frame >= -0.5)
    .sort((a, b) => a.frame - b.frame);
}

/** Puts the cues that belong to sounds where those say. */
export function settleCues(project: Project): Project {
  const { cues, sounds } = project.reel;
  const moved = cues.map((cue): Cue => {
    const sound = cue.beat && sounds.find(({ id }) => id === cue.beat!.soundId);
    if (!sound) return cue;
    const frame = frameOfSecond(project, sound, cue.beat!.second);
    return frame === cue.frame ? cue : { ...cue, frame };
  });
  return moved.every((cue, i) => cue === cues[i])
    ? project
    : { ...project, reel: { ...project.reel, cues: inOrder(moved) } };
}

const inOrder = (cues: readonly Cue[]): Cue[] => cues.toSorted((a, b) => a.frame - b.frame);

const withSounds = (project: Project, sounds: readonly Sound[]): Project =>
  settleCues({ ...project, reel: { ...project.reel, sounds } });
