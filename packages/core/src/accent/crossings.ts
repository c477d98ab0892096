import { definitionOf } from '../look/looks.js';
import type { Project } from '../model/project.js';
import { placeItems } from '../reel/places.js';
import type { Crossing } from '../sound/sound-path.js';
import { accentTimes } from './accent-times.js';
import { isTransition } from './transition.js';

const NONE: Crossing = { before: 0, after: 0, comes: 0, goes: 0 };

/**
 * How the sounds of clips come and go where there are transitions, by the clips' ids; those that are not in it are cut. Where both
 * clips run on they are heard over the same frames as they are seen; at a dip one fades out and the other in.
 */
export function crossingsOf(project: Project): ReadonlyMap<string, Crossing> {
  const found = new Map<string, Crossing>();
  const put = (id: string | undefined, change: Partial<Crossing>) =>
    id !== undefined && found.set(id, { ...(found.get(id) ?? NONE), ...change });
  const places = placeItems(project);
  for (const { set, frame, lead, frames } of accentTimes(project)) {
    const { runsOn } = definitionOf(set.look);
    if (!isTransition(set) || frames === 0 || (!runsOn && set.look.kind !== 'dip')) continue;
    const i = places.findIndex(({ start }) => start === frame);
    const tail = frames - lead;
    put(places[i - 1]?.item.id, runsOn ? { after: tail, goes: frames } : { goes: lead });
    put(places[i]?.item.id, runsOn ? { before: lead, comes: frames } : { comes: tail });
  }
  return found;
}
