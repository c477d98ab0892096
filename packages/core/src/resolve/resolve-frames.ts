import { effectsOf } from '../accent/effects.js';
import { type Effects, NO_EFFECTS } from '../look/look.js';
import type { Project } from '../model/project.js';
import { type PlacedItem, placeItems } from '../reel/places.js';
import { resolveClip, type ClipFrame } from './resolve-clip.js';

/** What a frame of the reel shows, before any picture is looked at. */
export interface ResolvedFrame {
  /** Nothing where it is black because no clip is there. */
  readonly clipFrame: ClipFrame | undefined;
  /** What accents do to it. */
  readonly effects: Effects;
  /** While one clip gives way to another: what the other one shows. */
  readonly beside: ClipFrame | undefined;
  /** Whether, while one clip gives way to another, the frame is of the one that goes. */
  readonly goes: boolean;
}

/** What every frame of a reel shows. Frames that are not on it are black. */
export const resolveReel = (project: Project): ((frame: number) => ResolvedFrame) =>
  resolveFrames(project, placeItems(project), effectsOf(project));

/**
 * The same of items of a project, in order of time, wherever they were placed; frames and effects count in the time of the places. A clip
 * gives way to the one next to it in the list, if that touches it.
 */
export function resolveFrames(
  project: Project,
  places: readonly PlacedItem[],
  effectsAt: (frame: number) => Effects,
): (frame: number) => ResolvedFrame {
  const shows = new Map<number, (k: number) => ClipFrame | undefined>();
  const showAt = (i: number, frame: number): ClipFrame | undefined => {
    const place = places[i];
    if (place?.item.kind !== 'clip') return undefined;
    let show = shows.get(i);
    if (!show) shows.set(i, (show = resolveClip(project, place.item)));
    return show(frame - place.start);
  };
  return (frame) => {
    const i = indexAt(places, frame);
    if (i < 0) return { clipFrame: undefined, effects: NO_EFFECTS, beside: undefined, goes: false };
    const effects = effectsAt(frame);
    const { across, held } = effects;
    const goes = across !== undefined && frame < across.cut;
    // A picture that stands still stays within its clip.
    const at = held === undefined ? frame : Math.max(places[i]!.start, held);
    return { clipFrame: showAt(i, at), effects, goes, beside: across && showAt(goes ? i + 1 : i - 1, frame) };
  };
}

/** Which item a frame falls in, or −1. */
function indexAt(places: readonly PlacedItem[], frame: number): number {
  let [low, high] = [0, places.length - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (places[middle]!.start <= frame) low = middle;
    else high = middle - 1;
  }
  const place = places[low];
  return place && frame >= place.start && frame < place.start + place.frames ? low : -1;
}
