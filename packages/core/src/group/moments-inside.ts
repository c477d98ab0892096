import { InvalidInput } from '../foundation/errors.js';
import type { Clip } from '../model/clip.js';
import type { Source } from '../model/group.js';
import type { Project } from '../model/project.js';
import type { Moment } from '../model/source.js';
import { sourceOf } from '../reel/clips.js';
import { placeItems, reelFrames } from '../reel/places.js';
import { positionOfFrame } from '../sampling/dropped-repeats.js';
import { WHOLE_FRAME_TOLERANCE } from '../sampling/sample.js';
import { appearances } from '../time-map/inverse.js';
import { groupOf, insideGroup } from './inside.js';

/** A cut inside a group is a moment of it too, of this name: so it can land on a beat. */
const CUT = 'cut';

/** The id, in a group, of a moment of a clip inside it. */
export const idOutside = (clipId: string, momentId: string): string => `${clipId}.${momentId}`;

export const idOfCut = (clipId: string): string => idOutside(clipId, CUT);

export const isCutInside = ({ id }: Moment): boolean => id.endsWith(`.${CUT}`);

/**
 * The moments of a group: those of its clips where they first show, at times that need not be whole, and its cuts. Each is
 * named by the clip and the moment, so that it stays the same one whatever is bent.
 */
export function momentsInside(inside: Project): Moment[] {
  const last = reelFrames(inside) - 1;
  const moments = placeItems(inside).flatMap(({ item, start, frames }): Moment[] => {
    if (item.kind !== 'clip') return [];
    const source = sourceOf(inside, item);
    const cut: Moment[] =
      start > 0 && start <= last ? [{ id: idOfCut(item.id), frame: start, name: `cut to ${item.name}` }] : [];
    const own = source.moments.flatMap((moment): Moment[] => {
      const time = firstTime(item, source, moment, frames);
      if (time === undefined || start + time > last) return [];
      return [{ id: idOutside(item.id, moment.id), frame: start + time, name: moment.name }];
    });
    return [...cut, ...own];
  });
  return moments.sort((a, b) => a.frame - b.frame);
}

/** The clip's own time at which a moment of its source first shows, while the clip lasts. */
function firstTime(clip: Clip, source: Source, { frame }: Moment, frames: number): number | undefined {
  const time = appearances(clip.map, positionOfFrame(source, frame))[0]?.from;
  if (time === undefined || time > frames - WHOLE_FRAME_TOLERANCE) return undefined;
  const whole = Math.round(time);
  return Math.abs(time - whole) <= WHOLE_FRAME_TOLERANCE ? whole : time;
}

/** Where a group's moment comes from: the clip inside and, unless it is its cut, the moment of that clip's source. */
export function originOf(
  project: Project,
  sourceId: string,
  id: string,
): { readonly clip: Clip; readonly momentId: string | undefined } {
  const at = id.indexOf('.');
  const clip = groupOf(project, sourceId).content.items.find((item) => item.id === id.slice(0, at));
  if (at < 0 || clip?.kind !== 'clip') throw new InvalidInput('moment', 'is not in the group any more');
  const momentId = id.slice(at + 1);
  return { clip, momentId: momentId === CUT ? undefined : momentId };
}

/** The clip inside a group that lies at one of its times, with its own time. */
export function clipInside(
  project: Project,
  sourceId: string,
  time: number,
): { readonly clip: Clip; readonly k: number } | undefined {
  const place = placeItems(insideGroup(project, sourceId)).findLast(({ start }) => start <= time);
  return place?.item.kind === 'clip' ? { clip: place.item, k: time - place.start } : undefined;
}
