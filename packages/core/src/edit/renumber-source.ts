import type { Clip } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { mapClips } from '../reel/clips.js';
import { withMap } from '../reel/with-map.js';
import { WHOLE_FRAME_TOLERANCE } from '../sampling/sample.js';
import { positionAt, slopeAt } from '../time-map/evaluate.js';
import { splitMap } from '../time-map/split.js';
import { fittedMap, mapFrameCount, type TimeMap } from '../time-map/time-map.js';
import { type Rate, sameRate } from '../time/rate.js';
import { reconcileReel } from './reel-edit.js';

/** How many frames a source has, and how far apart. */
export interface FrameCount {
  readonly frames: number;
  readonly rate: Rate;
}

/**
 * A project whose source was taken in with estimated frames, once they are counted: what was marked or bent stays at its time and has
 * the number of the frame that is there, and a clip that began or ended at frames that are not there begins or ends with the last one.
 * Both lists begin with the same frame. A source that is not as it was estimated stays as it is.
 */
export function renumberSource(
  project: Project,
  sourceId: string,
  estimated: FrameCount,
  counted: FrameCount,
): Project {
  const source = project.sources.find(({ id }) => id === sourceId);
  if (!source || source.frames !== estimated.frames || !sameRate(source.nativeRate, estimated.rate)) return project;
  const isSame = sameRate(estimated.rate, counted.rate);
  if (isSame && estimated.frames === counted.frames) return project;
  const { rate: from } = estimated;
  const { rate: to, frames } = counted;
  const move = (s: number) => (isSame ? s : (s * to.num * from.den) / (to.den * from.num));
  const moved = (map: TimeMap): TimeMap =>
    isSame
      ? map
      : fittedMap(
          map.vertices.map(({ t, s }) => ({ t, s: move(s) })),
          map.bends,
        );
  const whole = (frame: number) => Math.min(Math.round(move(frame)), frames - 1);
  const renumbered = (clip: Clip): Clip => {
    // The same reaches first, then what is left of them.
    const all = { ...clip, map: moved(clip.map) };
    return {
      ...withMap(all, within(all.map, frames)),
      versions: clip.versions.map((version) => ({ ...version, map: within(moved(version.map), frames) })),
      mends: clip.mends
        .map((mend) => ({
          ...mend,
          from: Math.round(move(mend.from)),
          to: Math.min(Math.round(move(mend.to)), frames),
        }))
        .filter((mend) => mend.from < mend.to),
    };
  };
  const clips = mapClips(project, (clip) => (clip.sourceId === sourceId ? renumbered(clip) : clip));
  return reconcileReel({
    ...clips,
    sources: clips.sources.map((each) =>
      each.id !== sourceId
        ? each
        : {
            ...each,
            frames,
            nativeRate: to,
            readAs: sameRate(each.readAs, from) ? to : each.readAs,
            moments: each.moments.map((moment) => ({ ...moment, frame: whole(moment.frame) })),
          },
    ),
  });
}

/** Without what of its ends shows frames past the last. */
function within(map: TimeMap, frames: number): TimeMap {
  const isPast = (k: number, way: 1 | -1) =>
    positionAt(map, k) > frames - 1 + WHOLE_FRAME_TOLERANCE && slopeAt(map, k) * way > 0;
  const count = mapFrameCount(map);
  let [first, end] = [0, count];
  while (end > 1 && isPast(end - 1, 1)) end--;
  while (first < end - 1 && isPast(first, -1)) first++;
  const ended = end < count ? splitMap(map, end)[0] : map;
  return first > 0 ? splitMap(ended, first)[1] : ended;
}
