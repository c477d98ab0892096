import { definitionOf, spanOf, type AccentLook } from '../look/looks.js';
import type { Project } from '../model/project.js';
import { sourceOf } from '../reel/clips.js';
import { type PlacedItem, placeItems } from '../reel/places.js';
import { usableFrames } from '../sampling/dropped-repeats.js';
import { WHOLE_FRAME_TOLERANCE } from '../sampling/sample.js';
import { positionAt } from '../time-map/evaluate.js';

/** The frames an accent lasts where it lies, and how many of them are before that. */
interface Span {
  readonly frames: number;
  readonly lead: number;
}

/**
 * The span of a look, at a cut before the `index`th item of the reel. Across a cut it takes no more than half of either clip, so that the next one has its
 * own; and where both clips run on, no more than source frames are left for: no picture is repeated or stands still for it.
 */
export function spanAt(project: Project, look: AccentLook, index: number | undefined): Span {
  const whole = spanOf(look);
  const { acrossCuts, runsOn } = definitionOf(look);
  if (!acrossCuts || index === undefined) return whole;
  const places = placeItems(project);
  const [before, after] = [places[index - 1], places[index]];
  const half = (place: PlacedItem | undefined) => (place ? Math.floor(place.frames / 2) : 0);
  let lead = Math.min(whole.lead, half(before));
  let tail = Math.min(whole.frames - whole.lead, half(after));
  if (runsOn) {
    lead = left(project, after, -1, lead);
    tail = left(project, before, 1, tail);
  }
  return { lead, frames: lead + tail };
}

/** How many frames an item has beyond its end, or, with −1, before its beginning: up to `most`. Black goes on for ever. */
function left(project: Project, place: PlacedItem | undefined, way: 1 | -1, most: number): number {
  if (place?.item.kind !== 'clip') return most;
  const { item, frames } = place;
  const last = usableFrames(sourceOf(project, item)) - 1;
  for (let n = 0; n < most; n++) {
    const position = positionAt(item.map, way > 0 ? frames + n : -1 - n);
    if (position < -WHOLE_FRAME_TOLERANCE || position > last + WHOLE_FRAME_TOLERANCE) return n;
  }
  return most;
}
