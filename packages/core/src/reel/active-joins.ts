import type { Clip } from '../model/clip.js';
import type { RampJoin, JoinChoice } from '../model/join.js';
import type { Project } from '../model/project.js';

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
