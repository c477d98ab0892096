import type { Clip } from '../model/clip.js';
import type { Cue } from '../model/cue.js';
import type { Moment } from '../model/source.js';
import { WHOLE_FRAME_TOLERANCE } from '../sampling/sample.js';
import { positionAt } from '../time-map/evaluate.js';
import { framesShowing } from '../time-map/inverse.js';
import type { TimeMap } from '../time-map/time-map.js';

/** How far a moment, where the clip shows it, is from a cue. */
export interface Drift {
  readonly moment: Moment;
  readonly cue: Cue;
  /** Reel frame at which the moment shows, or is nearest to showing. */
  readonly shownAt: number;
  /** `shownAt` minus the reel frame nearest the cue: above 0 the moment comes late. */
  readonly frames: number;
  /** The moment's own source frame shows exactly on the cue's frame. */
  readonly landed: boolean;
  /** What is left between that frame and the cue itself, under half a frame. */
  readonly remainder: number;
  /** The two are tied; otherwise the cue is only the nearest. */
  readonly tied: boolean;
}

/**
 * Pairs every moment a clip shows with the cue it is tied to, else with the cue nearest to it in time; of several
 * appearances the one nearest to a cue counts. Moments that are not shown, and all when there is no cue, have none.
 * @param start reel frame of the clip's first frame
 * @param frames how many frames the clip has
 * @param place the clip's source position of a native frame (they differ when repeats are closed up)
 */
export function clipDrifts(
  { map, ties }: Pick<Clip, 'map' | 'ties'>,
  start: number,
  frames: number,
  moments: readonly Moment[],
  cues: readonly Cue[],
  place: (frame: number) => number = (frame) => frame,
): Drift[] {
  return moments.flatMap((moment) => {
    const tied = ties.find((t) => t.momentId === moment.id);
    const pairs = framesShowing(map, place(moment.frame))
      .filter((k) => k < frames)
      .flatMap((k) =>
        cues
          .filter((cue) => !tied || cue.id === tied.cueId)
          .map((cue) => ({ ...driftOf(map, start, moment, place(moment.frame), cue, k), tied: tied !== undefined })),
      );
    const nearest = pairs.reduce<Drift | undefined>(
      (best, pair) => (!best || Math.abs(pair.frames) < Math.abs(best.frames) ? pair : best),
      undefined,
    );
    return nearest ? [nearest] : [];
  });
}

function driftOf(
  map: TimeMap,
  start: number,
  moment: Moment,
  position: number,
  cue: Cue,
  k: number,
): Omit<Drift, 'tied'> {
  const target = Math.round(cue.frame);
  const shownAt = start + k;
  const exact = Math.abs(positionAt(map, target - start) - position) <= WHOLE_FRAME_TOLERANCE;
  return {
    moment,
    cue,
    shownAt,
    frames: shownAt - target,
    landed: shownAt === target && exact,
    remainder: cue.frame - target,
  };
}
