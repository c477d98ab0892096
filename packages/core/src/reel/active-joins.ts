import type { Clip } from '../model/clip.js';
import type { RampJoin, JoinChoice } from '../model/join.js';
import type { Project } from '../model/project.js';
import { reachSlope } from '../time-map/time-map.js';
import { clipSlope } from './clips.js';

/** The speeds at the cut. Matched by motion they share the difference, so that the picture goes equally far a frame on both sides. */
export const peakSpeeds = ({ peak, matched }: JoinChoice): readonly [before: number, after: number] => {
  const share = Math.sqrt(matched ?? 1);
  return [peak * share, peak / share];
};

/** The join out of a clip, or into it. */
export const joinAfter = ({ reel }: Project, clipId: string): RampJoin | undefined =>
  reel.joins.find(({ before }) => before === clipId);

export const joinBefore = ({ reel }: Project, clipId: string): RampJoin | undefined =>
  reel.joins.find(({ after }) => after === clipId);

/** The clip right after another; none when that is the last, or a gap follows. */
export function clipAfter({ reel }: Project, clipId: string): Clip | undefined {
  const next = reel.items[reel.items.findIndex(({ id }) => id === clipId) + 1];
  return next?.kind === 'clip' ? next : undefined;
}

/** Leaves joins out whose clips are no neighbours any more, or were bent at the cut by hand: their curves stay as they are. */
export function reconcileJoins(project: Project): Project {
  const { joins } = project.reel;
  const standing = joins.filter((join) => isIntact(project, join));
  return standing.length === joins.length ? project : { ...project, reel: { ...project.reel, joins: standing } };
}

function isIntact(project: Project, join: RampJoin): boolean {
  const before = project.reel.items.find(({ id }) => id === join.before);
  if (before?.kind !== 'clip') return false;
  const after = clipAfter(project, before.id);
  if (after?.id !== join.after) return false;
  const [peakBefore, peakAfter] = peakSpeeds(join);
  const reaches = before.map.vertices.length - 1;
  const is = (clip: Clip, reach: number, peak: number) =>
    clip.map.vertices.length > 2 &&
    Math.abs(Math.abs(reachSlope(clip.map, reach)) / clipSlope(project, clip) / peak - 1) < 1e-6;
  return is(before, reaches - 1, peakBefore) && is(after, 0, peakAfter);
}
