import { definitionOf } from '../look/looks.js';
import type { Project } from '../model/project.js';
import { placeItems } from '../reel/places.js';
import { AT_ONCE, type Crossing } from '../sound/sound-path.js';
import { accentTimes } from './accent-times.js';

/**
 * How the sounds of clips come and go where there are transitions, by the clips' ids; those that are not in it are cut. Where both
 * clips run on they are heard over the same frames as they are seen; at a dip one fades out and the other in.
 */
export function crossingsOf(project: Project): ReadonlyMap<string, Crossing> {
  const found = new Map<string, Crossing>();
  const put = (id: string | undefined, change: Partial<Crossing>) =>
    id !== undefined && found.set(id, { ...(found.get(id) ?? AT_ONCE), ...change });
  const places = placeItems(project);
  const indexOf = new Map(places.map(({ start }, i) => [start, i]));
  for (const { set, frame, lead, frames } of accentTimes(project)) {
    const { sound } = definitionOf(set.look);
    if (!sound || frames === 0) continue;
    const i = indexOf.get(frame) ?? -1;
    const tail = frames - lead;
    put(places[i - 1]?.item.id, sound === 'cross' ? { after: tail, goes: frames } : { goes: lead });
    put(places[i]?.item.id, sound === 'cross' ? { before: lead, comes: frames } : { comes: tail });
  }
  return found;
}
