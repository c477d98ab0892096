import { addCuesAtCuts, leaveGap, pinClip } from '@idle-bend/core/edit';
import { pinToNearest } from '@idle-bend/core/landing';
import { edit } from '../../session/session.ts';
import { attempt, current, newId } from '../../session/command.ts';

/** Keeps the cut before the clip on the cue or beat nearest to it, or lets it flow on again. */
export function pinHere(): void {
  const bench = current();
  if (!bench) return;
  const { clip } = bench;
  if (clip.pin !== null) return attempt(() => edit((before) => pinClip(before, clip.id, null)));
  attempt(() => edit((before) => pinToNearest(before, clip.id, newId('cue'))));
}

/** A cue at every cut. */
export const cuesFromCuts = (): void => edit((project) => addCuesAtCuts(project, () => newId('cue')));

/** Takes the clip off and leaves black in its place. */
export function leaveGapHere(): void {
  const bench = current();
  if (bench) attempt(() => edit((before) => leaveGap(before, bench.clip.id, newId('gap'))));
}
