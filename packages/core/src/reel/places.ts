import { byId } from '../foundation/by-id.js';
import type { ReelItem } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { usableFrames } from '../sampling/dropped-repeats.js';
import { clipFrameCount } from '../sampling/frame-count.js';
import { sourceOf } from './clips.js';

/** A reel item with its place: it covers timeline frames start … start+frames−1. */
export interface PlacedItem {
  readonly item: ReelItem;
  readonly start: number;
  readonly frames: number;
}

/** How many frames an item has of itself; before a pinned cut it may get more or fewer. */
const ownFrames = (project: Project, item: ReelItem): number =>
  item.kind === 'gap' ? item.frames : clipFrameCount(item.map, usableFrames(sourceOf(project, item)));

/** The reel frame an item is pinned to. */
export function pinnedFrame({ reel }: Project, item: ReelItem | undefined): number | undefined {
  const cue = item?.kind === 'clip' && item.pin !== null ? byId(reel.cues).get(item.pin) : undefined;
  return cue && Math.round(cue.frame);
}

/**
 * The reel's items in order, each starting where the one before ends. What comes before a pinned cut ends there: shorter than it
 * is, or longer, its curve going on as it ended. It keeps one frame at least, so a pin may be missed when there is no room.
 */
export function placeItems(project: Project): readonly PlacedItem[] {
  let places = placed.get(project);
  if (!places) placed.set(project, (places = placeAll(project)));
  return places;
}

/** Projects are values: what was placed once stays there. */
const placed = new WeakMap<Project, readonly PlacedItem[]>();

function placeAll(project: Project): PlacedItem[] {
  const { items } = project.reel;
  let start = 0;
  return items.map((item, i) => {
    const pinned = pinnedFrame(project, items[i + 1]);
    const frames = pinned === undefined ? ownFrames(project, item) : Math.max(1, pinned - start);
    const place = { item, start, frames };
    start += frames;
    return place;
  });
}

export function placeOf(project: Project, itemId: string): PlacedItem | undefined {
  return placeItems(project).find(({ item }) => item.id === itemId);
}

export function reelFrames(project: Project): number {
  return placeItems(project).reduce((sum, p) => sum + p.frames, 0);
}
