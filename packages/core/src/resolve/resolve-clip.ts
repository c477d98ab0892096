import { exposed, type Exposing } from '../blur/exposed.js';
import { insideGroup } from '../group/inside.js';
import type { Clip } from '../model/clip.js';
import { isGroup, type Source } from '../model/group.js';
import type { EndChoice } from '../model/interpolation.js';
import type { Project } from '../model/project.js';
import type { Similarity } from '../model/steady.js';
import { clipSlope, sourceOf } from '../reel/clips.js';
import { blurOf, type InheritedSettings, interpolationOf } from '../reel/interpolation.js';
import { type PlacedItem, placeItems } from '../reel/places.js';
import { frameOfPosition } from '../sampling/dropped-repeats.js';
import { methodAt, flowSampleAt, sampleInterpolated } from '../sampling/interpolation.js';
import { type Sample, WHOLE_FRAME_TOLERANCE } from '../sampling/sample.js';
import { steadyAt } from '../steady/steady.js';
import { positionAt, slopeAt } from '../time-map/evaluate.js';
import { mapDuration } from '../time-map/time-map.js';

/** What of which footage a frame of a clip shows. */
export interface ClipFrame {
  /** The clip in sight: the clip itself or, of a group, the one inside. */
  readonly clip: Clip;
  readonly source: Source;
  /** That clip's own time and source position. */
  readonly k: number;
  readonly position: number;
  readonly sample: Sample;
  /** How its picture is laid to be held steady; nothing where it is not. */
  readonly laid: Similarity | undefined;
}

/**
 * What every frame of a clip shows, `undefined` where that is black because nothing is there. Through a group the maps compose: the
 * group's gives a time of the reel inside, a real number, and the clip that lies there gives the source position at that time.
 * In-betweens are made, and motion is blurred, as the clip inside says, else as the group does, else as the reel does. `pace` is how
 * many of the clip's frames pass in a frame of the reel.
 */
export function resolveClip(
  project: Project,
  clip: Clip,
  madeAs: InheritedSettings = {},
): (k: number, pace?: number) => ClipFrame | undefined {
  const source = sourceOf(project, clip);
  const making = interpolationOf(project, clip, madeAs);
  const slope = clipSlope(project, clip);
  const exposing: Exposing = {
    position: (t) => positionAt(clip.map, t),
    speed: (t) => slopeAt(clip.map, t) / slope,
    moment: (position) => flowSampleAt(source, making, clip.end, position),
    from: 0,
    to: mapDuration(clip.map),
  };
  if (!isGroup(source))
    return (k, pace = 1) => {
      const position = positionAt(clip.map, k);
      const now = sampleInterpolated(source, making, clip.end, position, k);
      const laid = clip.steady ? steadyAt(clip.steady, frameOfPosition(source, position)) : undefined;
      return {
        clip,
        source,
        k,
        position,
        laid,
        sample: exposed(now, blurOf(project, clip, k, madeAs), exposing, k, pace),
      };
    };
  const inside = insideGroup(project, source.id);
  const places = placeItems(inside);
  const inner = new Map<string, (t: number, pace: number) => ClipFrame | undefined>();
  const own = clip.method ?? madeAs.method;
  return (k, pace = 1) => {
    const at = timeInside(positionAt(clip.map, k), source.frames, clip.end);
    const place = at === undefined ? undefined : placeAt(places, at);
    if (place?.item.kind !== 'clip') return undefined;
    const method = making.stretches.length > 0 ? methodAt(making, k) : own;
    const key = `${place.item.id} ${method}`;
    let show = inner.get(key);
    if (!show)
      inner.set(
        key,
        (show = resolveClip(inside, place.item, {
          method,
          tuning: clip.tuning ?? madeAs.tuning,
          blur: clip.blur ?? madeAs.blur,
        })),
      );
    return show(at! - place.start, Math.abs(pace * slopeAt(clip.map, k)));
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
