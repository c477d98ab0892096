import type { ReelItem } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { sourceOf } from '../reel/clips.js';
import { usableFrames } from '../sampling/dropped-repeats.js';
import { missingSource } from '../sampling/frame-count.js';
import { WHOLE_FRAME_TOLERANCE } from '../sampling/sample.js';
import { positionAt } from '../time-map/evaluate.js';
import { framesShowing } from '../time-map/inverse.js';
import { mapDuration, type TimeMap } from '../time-map/time-map.js';
import type { Conflict } from './conflicts.js';
import type { LandingReport } from './landing-report.js';
import type { Landing } from '../clean/landing.js';

export interface LandedClip {
  /** With conflicts, as it was. */
  readonly project: Project;
  readonly conflicts: readonly Conflict[];
  /** With conflicts: the nearest answer found, each landing as close to its cue as can be; none when nothing near will do. */
  readonly nearest: Project | undefined;
  /** Where all is met: what was done. */
  readonly report?: LandingReport;
}

/** The answer, unless it has clips ask for more source that is not there than before: then it is only offered. */
export function withinSource(before: Project, answer: LandedClip, landings: readonly Landing[]): LandedClip {
  // Of items that only moved on in the list both sides count the same.
  const lackingBut = (project: Project, other: Project) =>
    project.reel.items.reduce((sum, item, i) => sum + (item === other.reel.items[i] ? 0 : lackingOf(project, item)), 0);
  const lacks = lackingBut(answer.project, before) - lackingBut(before, answer.project);
  if (lacks <= 0) return answer;
  const conflict: Conflict = { landings: landings.map((_, i) => i), frames: 0, offer: undefined, lacks };
  return { project: before, conflicts: [conflict], nearest: answer.project };
}

/** Frames of a clip whose source is not there; black and beginning again are somebody's choice. */
const lackingOf = (project: Project, item: ReelItem): number =>
  item.kind === 'clip' && item.end === 'hold'
    ? (missingSource(item.map, usableFrames(sourceOf(project, item)))?.count ?? 0)
    : 0;

/** The answer where `after` is all that can be done, at the speeds there are: taken when every landing is met, else only offered. */
export function landedOrOffered(
  before: Project,
  after: Project,
  map: TimeMap,
  landings: readonly Landing[],
): LandedClip {
  const conflicts = missedLandings(map, landings);
  if (conflicts.length === 0) return { project: after, conflicts, nearest: undefined };
  return { project: before, conflicts, nearest: after === before ? undefined : after };
}

/** Landings a curve does not meet, where the first is the one it was moved for: each is at odds with that one. */
export function missedLandings(map: TimeMap, landings: readonly Landing[]): Conflict[] {
  return landings.flatMap(({ moment, cue }, i): Conflict[] => {
    if (Math.abs(positionAt(map, Math.max(0, cue)) - moment) <= WHOLE_FRAME_TOLERANCE) return [];
    const away = framesShowing(map, moment).map((k) => Math.abs(k - cue));
    return [
      {
        landings: i === 0 ? [0] : [0, i],
        frames: away.length > 0 ? Math.min(...away) : Math.ceil(mapDuration(map)),
        offer: undefined,
      },
    ];
  });
}

/** The whole curve slipped in the source so that its first landing is met. */
export function slippedTo(map: TimeMap, landings: readonly Landing[]): TimeMap {
  const first = landings[0];
  const slip = first ? first.moment - positionAt(map, first.cue) : 0;
  return slip === 0 ? map : { ...map, vertices: map.vertices.map((v) => ({ t: v.t, s: v.s + slip })) };
}
