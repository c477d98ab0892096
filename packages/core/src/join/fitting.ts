import { updateClip } from '../edit/edit.js';
import { replaceClip, slipClip } from '../edit/reel-edit.js';
import { InvalidInput } from '../foundation/errors.js';
import type { Clip } from '../model/clip.js';
import { choiceOf, type RampJoin } from '../model/join.js';
import type { Project } from '../model/project.js';
import type { SideMotion } from '../motion/cut-motion.js';
import { motionStretches, SAME_WAY, turn } from '../motion/directions.js';
import type { SourceMotion } from '../motion/source-motion.js';
import { sourceOf } from '../reel/clips.js';
import { joinAfter, joinBefore } from '../reel/active-joins.js';
import { placeOf } from '../reel/places.js';
import { placeOfFrame, usableFrames } from '../sampling/dropped-repeats.js';
import { clipFrameCount } from '../sampling/frame-count.js';
import { withMap } from '../reel/with-map.js';
import { reverseMap } from '../time-map/edit.js';
import { positionAt } from '../time-map/evaluate.js';
import { framesPerSecond } from '../time/rate.js';
import { fastest, slowerPeaks } from './first-join.js';
import { putJoin, takeJoinOff } from './join.js';
import { putMatchedJoin } from './matched.js';

/** A stretch of footage whose picture moves as the other side of a cut does. */
export interface FittingStretch {
  readonly sourceId: string;
  readonly name: string;
  /** First and last native frame. */
  readonly from: number;
  readonly to: number;
  /** Degrees between the two ways, of shifts; 0 of pushes and rolls. */
  readonly apart: number;
  /** How fast it moves at 100 %, against the other side as it is; in shares of the width a reel frame. */
  readonly pace: number;
}

/** Fewer reel frames of motion than this cannot carry a cut. */
const LEAST = 6;

/** Where one is this many times as fast as the other, no ramp brings them together. */
const WIDEST_PACE = 8;

/** Stretches of footage that move as `other` does, best first: by the angle, and by how far the speeds are apart. */
export function fittingStretches(
  project: Project,
  other: SideMotion,
  motions: ReadonlyMap<string, SourceMotion>,
): FittingStretch[] {
  if (other.kind === 'still' || other.kind === 'unclear') return [];
  const reelFps = framesPerSecond(project.reel.rate);
  const found = project.sources.flatMap((source): FittingStretch[] => {
    const motion = motions.get(source.id);
    if (!motion) return [];
    const slope = framesPerSecond(source.readAs) / reelFps;
    return motionStretches(motion).flatMap(({ from, to, kind, degrees, perFrame }): FittingStretch[] => {
      if (kind !== other.kind || to - from < LEAST * slope) return [];
      const apart = degrees === undefined ? 0 : turn(degrees, other.degrees!);
      if (apart > SAME_WAY || (degrees === undefined && perFrame * other.perFrame < 0)) return [];
      const pace = Math.abs((perFrame * slope) / other.perFrame);
      if (pace < 1 / WIDEST_PACE || pace > WIDEST_PACE) return [];
      return [{ sourceId: source.id, name: source.name, from, to, apart, pace }];
    });
  });
  // A speed four times another's counts as much as the widest angle that is still the same way.
  const cost = ({ apart, pace }: FittingStretch) => apart / SAME_WAY + Math.abs(Math.log2(pace)) / 2;
  return found.sort((a, b) => cost(a) - cost(b));
}

/**
 * Has a clip show such a stretch beside the cut: its curve is slipped so that its first frame is the stretch's first, or its last the
 * stretch's last. Of other footage the clip is then, as long as it was. A ramp join there is kept, slower where the footage has not enough for its
 * peak; matched by motion it is matched again. Throws `InvalidInput` where no join can be kept.
 */
export function takeStretch(
  project: Project,
  clipId: string,
  side: 'before' | 'after',
  stretch: FittingStretch,
  motions: ReadonlyMap<string, SourceMotion> = new Map(),
): Project {
  const join = side === 'after' ? joinBefore(project, clipId) : joinAfter(project, clipId);
  if (!join) return stretchAtCut(project, clipId, side, stretch);
  const there = stretchAtCut(takeJoinOff(project, join.id), clipId, side, stretch);
  return stretchAtCut(joinedAgain(there, join, motions), clipId, side, stretch);
}

function stretchAtCut(
  project: Project,
  clipId: string,
  side: 'before' | 'after',
  { sourceId, from, to }: FittingStretch,
): Project {
  const there = playedForward(
    clipOf(project, clipId).sourceId === sourceId ? project : replaceClip(project, clipId, sourceId),
    clipId,
  );
  const clip = clipOf(there, clipId);
  const source = sourceOf(there, clip);
  const count = clipFrameCount(clip.map, usableFrames(source));
  const wanted = placeOfFrame(source, side === 'after' ? from : to);
  return slipClip(there, clipId, wanted - positionAt(clip.map, side === 'after' ? 0 : count - 1));
}

/** Backward, a stretch would move the other way. */
const playedForward = (project: Project, clipId: string): Project =>
  updateClip(project, clipId, (clip) => {
    const { vertices } = clip.map;
    return vertices.at(-1)!.s < vertices[0]!.s ? withMap(clip, reverseMap(clip.map)) : clip;
  });

function clipOf(project: Project, clipId: string): Clip {
  const item = placeOf(project, clipId)?.item;
  if (item?.kind !== 'clip') throw new InvalidInput('clip', 'is not on the reel any more');
  return item;
}

function joinedAgain(project: Project, join: RampJoin, motions: ReadonlyMap<string, SourceMotion>): Project {
  const [before, after] = [join.before, join.after].map((id) => motions.get(clipOf(project, id).sourceId));
  const both = join.matched !== null && before && after ? { before, after } : undefined;
  return fastest(slowerPeaks(join.peak), (peak) => {
    const choice = { ...choiceOf(join), peak };
    return both
      ? putMatchedJoin(project, join.before, choice, join.id, both)
      : putJoin(project, join.before, choice, join.id);
  });
}
