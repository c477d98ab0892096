import { InvalidInput } from '../foundation/errors.js';
import { type AccentSet, checkAccents } from '../model/accent.js';
import type { Project } from '../model/project.js';
import type { AccentTime } from './accent-times.js';

const withAccents = (project: Project, accents: readonly AccentSet[]): Project => ({
  ...project,
  reel: { ...project.reel, accents },
});

/** Puts accents on the reel, or, where there are some of that id, others in their place. Throws `InvalidInput` for what cannot be. */
export function putAccents(project: Project, set: AccentSet): Project {
  checkAccents(set);
  const { accents } = project.reel;
  return withAccents(
    project,
    accents.some(({ id }) => id === set.id) ? accents.map((own) => (own.id === set.id ? set : own)) : [...accents, set],
  );
}

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
  throw new InvalidInput('accents', 'choose the cuts instead');
}
