import { InvalidInput } from '../foundation/errors.js';
import { MAX_LOOK_FRAMES } from '../look/look.js';
import { spanOf, type AccentKind } from '../look/looks.js';
import { type AccentSet, checkAccents } from '../model/accent.js';
import type { Project } from '../model/project.js';
import { placeOf } from '../reel/places.js';
import type { AccentTime } from './accent-times.js';
import { newAccents } from './new-accents.js';
import { isTransition } from './transition.js';

const withAccents = (project: Project, accents: readonly AccentSet[]): Project => ({
  ...project,
  reel: { ...project.reel, accents },
});

/**
 * Puts accents on the reel, or, where there are some of that id, others in their place. A cut has one transition: those of other sets are
 * taken off where these lie. Throws `InvalidInput` for what cannot be.
 */
export function putAccents(project: Project, set: AccentSet): Project {
  checkAccents(set);
  const accents = project.reel.accents.flatMap((other) =>
    other.id === set.id ? [other] : besideTransitions(other, set),
  );
  return withAccents(
    project,
    accents.some(({ id }) => id === set.id) ? accents.map((own) => (own.id === set.id ? set : own)) : [...accents, set],
  );
}

/** What is left of a set beside another: of transitions the cuts that the other has not. */
function besideTransitions(other: AccentSet, set: AccentSet): readonly AccentSet[] {
  if (!isTransition(other) || !isTransition(set)) return [other];
  const taken = new Set(cutsOf(set));
  const clipIds = cutsOf(other).filter((id) => !taken.has(id));
  if (clipIds.length === cutsOf(other).length) return [other];
  return clipIds.length === 0 ? [] : [{ ...other, on: { kind: 'cuts', clipIds } }];
}

const cutsOf = ({ on }: AccentSet): readonly string[] => (on.kind === 'cuts' ? on.clipIds : []);

/** The transition into a clip. */
export const transitionInto = ({ reel }: Project, clipId: string): AccentSet | undefined =>
  reel.accents.find((set) => isTransition(set) && cutsOf(set).includes(clipId));

/**
 * Puts a transition of a kind into clips: with the others of its kind, which are changed as one, else as a set of `id`. Throws
 * `InvalidInput` where nothing comes before any of the clips.
 */
export function putTransition(project: Project, clipIds: readonly string[], kind: AccentKind, id: string): Project {
  const cuts = clipIds.filter((clipId) => (placeOf(project, clipId)?.start ?? 0) > 0);
  if (cuts.length === 0) throw new InvalidInput('transition', 'needs a clip before the cut');
  const set = project.reel.accents.find(({ look }) => look.kind === kind);
  const on = { kind: 'cuts', clipIds: [...new Set([...(set ? cutsOf(set) : []), ...cuts])] } as const;
  return putAccents(project, set ? { ...set, on } : { ...newAccents(project, kind, id), on });
}

/** A transition whose part before (`from`) or after (`to`) its cuts is so many frames; half of a push is always before. */
export function pullTransition(set: AccentSet, end: 'from' | 'to', frames: number): AccentSet {
  const { look } = set;
  const span = spanOf(look);
  const pulled = Math.max(0, Math.round(frames));
  const [before, after] = end === 'from' ? [pulled, span.frames - span.lead] : [span.lead, pulled];
  if (!('before' in look)) return { ...set, look: { ...look, frames: within(2 * pulled) } };
  const length = within(before + after);
  return { ...set, look: { ...look, frames: length, before: Math.min(1, before / length) } };
}

const within = (frames: number) => Math.max(1, Math.min(MAX_LOOK_FRAMES, frames));

export const removeAccents = (project: Project, id: string): Project =>
  withAccents(
    project,
    project.reel.accents.filter((set) => set.id !== id),
  );

/** Leaves one accent of a set out. */
export function leaveOut(project: Project, { set, second, frame }: AccentTime): Project {
  const now = project.reel.accents.find(({ id }) => id === set.id);
  if (!now) throw new InvalidInput('accents', 'are not on the reel any more');
  const { on } = now;
  if (on.kind === 'music')
    return putAccents(project, {
      ...now,
      on: { ...on, without: second === undefined ? on.without : [...on.without, second] },
    });
  if (on.kind === 'cues') {
    const cue = project.reel.cues.find((c) => on.cueIds.includes(c.id) && Math.round(c.frame) === frame);
    return putAccents(project, { ...now, on: { ...on, cueIds: on.cueIds.filter((id) => id !== cue?.id) } });
  }
  if (on.kind === 'range') return removeAccents(project, now.id);
  const clipIds = on.clipIds.filter((id) => placeOf(project, id)?.start !== frame);
  return clipIds.length === 0
    ? removeAccents(project, now.id)
    : putAccents(project, { ...now, on: { kind: 'cuts', clipIds } });
}
