import { nearestBeat } from '../beats/grid.js';
import { InvalidInput } from '../foundation/errors.js';
import type { BeatGrid } from '../model/beat-grid.js';
import type { Cue } from '../model/cue.js';
import type { Project } from '../model/project.js';
import { checkCeiling } from '../model/reel.js';
import { checkSound, type Sound } from '../model/sound.js';
import { frameOfSecond, placeName } from '../reel/sound-time.js';

/** Holds the whole down to a true peak, or (null) leaves it as it is summed. */
export const setCeiling = (project: Project, ceiling: number | null): Project => ({
  ...project,
  reel: { ...project.reel, ceiling: ceiling === null ? null : checkCeiling(ceiling) },
});

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
  return reconcileCues({ ...changed, reel: { ...changed.reel, cues } });
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

/** Puts the cues that belong to sounds where those say. */
export function reconcileCues(project: Project): Project {
  const { cues, sounds } = project.reel;
  const moved = cues.map((cue): Cue => {
    const sound = cue.beat && sounds.find(({ id }) => id === cue.beat!.soundId);
    if (!sound) return cue;
    const frame = frameOfSecond(project, sound, cue.beat.second);
    return frame === cue.frame ? cue : { ...cue, frame };
  });
  return moved.every((cue, i) => cue === cues[i])
    ? project
    : { ...project, reel: { ...project.reel, cues: inOrder(moved) } };
}

const inOrder = (cues: readonly Cue[]): Cue[] => cues.toSorted((a, b) => a.frame - b.frame);

const withSounds = (project: Project, sounds: readonly Sound[]): Project =>
  reconcileCues({ ...project, reel: { ...project.reel, sounds } });
