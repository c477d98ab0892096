import { methodAt, sampleMade } from '../clip/making.js';
import { WHOLE_FRAME_TOLERANCE, type EndChoice, type Sample } from '../clip/sampling.js';
import { makingOf, placeItems, sourceOf, type Clip, type MadeAs, type PlacedItem, type Project, type Source } from '../project/project.js';
import { positionAt } from '../time-map/evaluate.js';
import { insideGroup, isGroup } from './inside.js';

/** What of which footage a frame of a clip shows. */
export interface Shown {
  /** The clip in sight: the clip itself or, of a group, the one inside. */
  readonly clip: Clip;
  readonly source: Source;
  /** That clip's own time and source position. */
  readonly k: number;
  readonly position: number;
  readonly sample: Sample;
}

/**
 * What every frame of a clip shows, `undefined` where that is black because nothing is there. Through a group the maps compose: the
 * group's gives a time of the bound reel, a real number, and the clip that lies there gives the source position at that time.
 * In-betweens are made as the clip inside says, else as the group does, else as the reel does.
 */
export function showing(project: Project, clip: Clip, madeAs: MadeAs = {}): (k: number) => Shown | undefined {
  const source = sourceOf(project, clip);
  const making = makingOf(project, clip, madeAs);
  if (!isGroup(source))
    return (k) => {
      const position = positionAt(clip.map, k);
      return { clip, source, k, position, sample: sampleMade(source, making, clip.end, position, k) };
    };
  const inside = insideGroup(project, source.id);
  const places = placeItems(inside);
  const inner = new Map<string, (t: number) => Shown | undefined>();
  const own = clip.method ?? madeAs.method;
  return (k) => {
    const at = timeInside(positionAt(clip.map, k), source.frames, clip.end);
    const place = at === undefined ? undefined : placeAt(places, at);
    if (place?.item.kind !== 'clip') return undefined;
    const method = making.stretches.length > 0 ? methodAt(making, k) : own;
    const key = `${place.item.id} ${method}`;
    let show = inner.get(key);
    if (!show) inner.set(key, (show = showing(inside, place.item, { method, temper: clip.temper ?? madeAs.temper })));
    return show(at! - place.start);
  };
}

/** A group's time that stands for a position beyond its ends too, `undefined` for black. */
function timeInside(position: number, frames: number, end: EndChoice): number | undefined {
  const whole = Math.round(position);
  const at = Math.abs(position - whole) <= WHOLE_FRAME_TOLERANCE ? whole : position;
  if (at >= 0 && at <= frames - 1) return at;
  if (end === 'black') return undefined;
  if (end === 'loop') return ((at % frames) + frames) % frames;
  return at < 0 ? 0 : frames - 1;
}

/** The item a time falls in. */
function placeAt(places: readonly PlacedItem[], at: number): PlacedItem | undefined {
  let low = 0;
  let high = places.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (places[middle]!.start <= at) low = middle;
    else high = middle - 1;
  }
  return places[low];
}
