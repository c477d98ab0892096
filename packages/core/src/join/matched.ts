import { InvalidInput } from '../foundation/errors.js';
import type { JoinChoice } from '../model/join.js';
import type { Project } from '../model/project.js';
import { type SideMotion, sideMotion } from '../motion/cut-motion.js';
import { SAME_WAY, turn } from '../motion/directions.js';
import type { SourceMotion } from '../motion/source-motion.js';
import { clipAfter, joinAfter, peakSpeeds } from '../reel/active-joins.js';
import { placeOf } from '../reel/places.js';
import { putJoin } from './join.js';

/** Frames on either side of the cut over which motion is measured, at least. */
const MIN_MEASURED = 3;

/** Each time what shows at the cut is a little different, because the speeds are. */
const ROUNDS = 16;

/** From this round on only half the way is gone, where the whole way goes to and fro. */
const CAREFUL = 4;

/** How the pictures move right at a join's cut, in shares of the picture's width (or growth, or degrees) a reel frame. */
export interface MotionAtJoin {
  readonly before: SideMotion;
  readonly after: SideMotion;
}

export function motionAtJoin(
  project: Project,
  beforeId: string,
  motionBefore: SourceMotion,
  motionAfter: SourceMotion,
): MotionAtJoin | undefined {
  const join = joinAfter(project, beforeId);
  const before = placeOf(project, beforeId);
  const after = join && clipAfter(project, beforeId);
  if (!join || !after || before?.item.kind !== 'clip') return undefined;
  const measured = Math.max(MIN_MEASURED, Math.round(join.hold));
  const first = sideMotion(project, before.item, motionBefore, Math.max(0, before.frames - measured), before.frames);
  const second = sideMotion(project, after, motionAfter, 0, measured);
  return first && second && { before: first, after: second };
}

/**
 * A join whose pictures go equally far on the screen from frame to frame on both sides of the cut, by the motion measured there.
 * Throws `InvalidInput` as `putJoin` does, and where the two do not move the same way.
 */
export function putMatchedJoin(
  project: Project,
  beforeId: string,
  choice: JoinChoice,
  id: string,
  motions: { readonly before: SourceMotion; readonly after: SourceMotion },
): Project {
  let matched = 1;
  let best: { readonly off: number; readonly joined: Project } | undefined;
  for (let round = 0; ; round++) {
    const joined = putJoin(project, beforeId, { ...choice, matched }, id);
    const found = motionAtJoin(joined, beforeId, motions.before, motions.after);
    if (!found || !comparable(found))
      throw new InvalidInput(
        'matched',
        'their pictures do not move the same way at the cut, so there is nothing to match',
      );
    const [peakBefore, peakAfter] = peakSpeeds({ ...choice, matched });
    const ratio = Math.abs(found.after.perFrame) / peakAfter / (Math.abs(found.before.perFrame) / peakBefore);
    const off = Math.abs(Math.log(ratio / matched));
    if (!best || off < best.off) best = { off, joined };
    if (round === ROUNDS || off < 1e-3) return best.joined;
    matched *= (ratio / matched) ** (round < CAREFUL ? 1 : 0.5);
  }
}

function comparable({ before, after }: MotionAtJoin): boolean {
  if (before.kind !== after.kind || before.kind === 'still' || before.kind === 'unclear') return false;
  return before.degrees === undefined || turn(before.degrees, after.degrees!) <= 2 * SAME_WAY;
}
