import { InvalidInput } from '../foundation/errors.js';
import { DEFAULT_JOIN, type JoinChoice } from '../model/join.js';
import type { Project } from '../model/project.js';
import type { SourceMotion } from '../motion/source-motion.js';
import { clipAfter, joinAfter } from '../reel/active-joins.js';
import { placeOf } from '../reel/places.js';
import { joinChain, putJoin } from './join.js';
import { putMatchedJoin } from './matched.js';

/** Where the source gives too little for the first, the next is tried. */
const PEAKS = [DEFAULT_JOIN.peak, 3, 2, 1.5];
/** Of a chain, whose clips in between have a ramp at both ends. */
const CHAIN_PEAKS = [...PEAKS, 1.25];
/** Where matched speeds ask for more source than there is, a slower peak is tried. */
const MATCHED_SHARES = [1, 0.8, 0.65, 0.5, 0.4, 0.3, 0.2];

/** A peak and slower ones. */
export const slowerPeaks = (peak: number): number[] =>
  MATCHED_SHARES.map((share) => Math.round(peak * share * 100) / 100);

/** What `put` makes of the first of these peaks that the source has enough for. Throws `InvalidInput` where none will do. */
export function fastest(peaks: readonly number[], put: (peak: number) => Project): Project {
  for (const [i, peak] of peaks.entries()) {
    try {
      return put(peak);
    } catch (error) {
      if (!(error instanceof InvalidInput) || error.field !== 'peak' || i === peaks.length - 1) throw error;
    }
  }
  throw new InvalidInput('peak', 'there is too little source for a ramp');
}

/** Ramps no longer than a third of the clip, timeline frames. */
const rampFor = (project: Project, clipId: string | undefined) =>
  Math.max(4, Math.min(DEFAULT_JOIN.into, Math.floor(((clipId && placeOf(project, clipId)?.frames) || 0) / 3)));

/** A ramp join as it is made first: as fast as the source allows. Throws `InvalidInput` when it allows none. */
export function firstJoin(project: Project, beforeId: string, id: string, peaks: readonly number[] = PEAKS): Project {
  const [into, outOf] = [rampFor(project, beforeId), rampFor(project, clipAfter(project, beforeId)?.id)];
  return fastest(peaks, (peak) => putJoin(project, beforeId, { ...DEFAULT_JOIN, into, outOf, peak }, id));
}

/** A ramp join at every cut between those clips, all as fast as the one with the least source can be; `newId` names each. */
export const joinAll = (project: Project, clipIds: readonly string[], newId: () => string) =>
  CHAIN_PEAKS.map((peak) => joinChain(project, clipIds, (before, id) => firstJoin(before, id, newId(), [peak]))).reduce(
    (best, chain) => (chain.refused.length < best.refused.length ? chain : best),
  );

/** What is known of the motion in the footage on both sides of a cut. */
export interface JoinMotions {
  readonly before: SourceMotion | undefined;
  readonly after: SourceMotion | undefined;
}

/** A change of a join; where its speeds are matched by motion, they are matched again. Throws `InvalidInput`. */
export function changeJoin(
  project: Project,
  beforeId: string,
  change: Partial<JoinChoice>,
  { before, after }: JoinMotions,
): Project {
  const join = joinAfter(project, beforeId);
  if (!join) throw new InvalidInput('join', 'is not on the reel any more');
  const choice = { ...join, ...change };
  return choice.matched !== null && before && after
    ? putMatchedJoin(project, beforeId, choice, join.id, { before, after })
    : putJoin(project, beforeId, choice, join.id);
}

/** Has the pictures go equally far on both sides of the cut. Throws `InvalidInput`. */
export function matchJoin(project: Project, beforeId: string, motions: JoinMotions): Project {
  if (!motions.before || !motions.after)
    throw new InvalidInput('matched', 'the motion of this footage is not known yet');
  const peak = joinAfter(project, beforeId)?.peak ?? DEFAULT_JOIN.peak;
  return fastest(slowerPeaks(peak), (slower) => changeJoin(project, beforeId, { matched: 1, peak: slower }, motions));
}
