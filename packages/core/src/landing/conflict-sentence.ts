import type { Project } from '../model/project.js';
import { sourceOf } from '../reel/clips.js';
import type { Conflict } from './conflicts.js';

/** Which landings of a clip are at odds, by how much, and whether anything near would do. */
export function conflictSentence(
  project: Project,
  clipId: string,
  { landings, frames, offer, lacks }: Conflict,
): string {
  const clip = project.reel.items.find(({ id }) => id === clipId);
  if (clip?.kind !== 'clip') return 'The clip is not on the reel any more.';
  const { moments } = sourceOf(project, clip);
  const names = landings.map((i) => {
    const moment = moments.find(({ id }) => id === clip.ties[i]?.momentId);
    return `“${moment?.name || `frame ${moment?.frame}`}”`;
  });
  if (lacks !== undefined) {
    const many = lacks === 1 ? 'one frame' : `${lacks} frames`;
    return `${names.join(' and ')} cannot land within the source: ${many} of the clip would have none.`;
  }
  const missed = `${frames} frame${frames === 1 ? '' : 's'}`;
  const who =
    names.length === 1
      ? `${names[0]} cannot land with the clip’s ends where they are: it misses`
      : `${names.join(' and ')} cannot both land: they miss`;
  return `${who} by ${missed}.${offer ? '' : ' Nothing near will do.'}`;
}
