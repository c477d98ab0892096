import { insertGap, setGap, slipClip, trimEnd } from '../edit/reel-edit.js';
import type { Clip } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { placeItems, placeOf } from '../reel/places.js';
import { positionAt } from '../time-map/evaluate.js';
import { framesShowing } from '../time-map/inverse.js';
import { type LandedClip, landedOrOffered } from './landed.js';
import type { Landing } from '../clean/landing.js';

/**
 * Meets a clip's first landing without any other speed: its cut moves, and what comes before it lasts as much longer or shorter;
 * what is left, less than a frame, the content slips. Other landings of the clip are then met or, at their speeds, cannot be. A cut
 * that is pinned does not move, and neither does one whose neighbour has no more to show.
 */
export function landByMovingCut(project: Project, clip: Clip, landings: readonly Landing[]): LandedClip {
  const first = landings[0];
  const placed = placeOf(project, clip.id);
  if (!first || !placed) return { project, conflicts: [], nearest: undefined };
  const shows = framesShowing(clip.map, first.moment);
  const shown = shows.toSorted((a, b) => Math.abs(a - first.cue) - Math.abs(b - first.cue))[0];
  const by = shown === undefined ? 0 : first.cue - shown;
  const moved = shown === undefined || clip.pin !== null ? project : withCutMoved(project, clip, by);
  const came = placeOf(moved, clip.id)!.start - placed.start;
  const rest = first.moment - positionAt(clip.map, first.cue - came);
  const landed = shown !== undefined && came === by ? slipClip(moved, clip.id, rest) : moved;
  const { map } = placeOf(landed, clip.id)!.item as Clip;
  return landedOrOffered(
    project,
    landed,
    map,
    landings.map(({ moment, cue }) => ({ moment, cue: cue - came })),
  );
}

/** The reel with a clip's cut `by` frames later (earlier below 0), as far as what comes before it goes. */
function withCutMoved(project: Project, clip: Clip, by: number): Project {
  if (by === 0) return project;
  const places = placeItems(project);
  const index = places.findIndex(({ item }) => item.id === clip.id);
  const before = places[index - 1];
  if (!before) return by < 0 ? project : insertGap(project, index, idOfGap(project, clip.id), by);
  const frames = Math.max(1, before.frames + by);
  return before.item.kind === 'gap'
    ? setGap(project, before.item.id, frames)
    : trimEnd(project, before.item.id, frames);
}

function idOfGap({ reel }: Project, clipId: string): string {
  let id = `gap-${clipId}`.slice(0, 60);
  for (let n = 2; reel.items.some((item) => item.id === id); n++) id = `gap-${n}-${clipId}`.slice(0, 60);
  return id;
}
