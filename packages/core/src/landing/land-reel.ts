import { byId } from '../foundation/by-id.js';
import { InvalidInput } from '../foundation/errors.js';
import type { Project } from '../model/project.js';
import { sourceOf } from '../reel/clips.js';
import { placeItems, placeOf } from '../reel/places.js';
import { positionOfFrame } from '../sampling/dropped-repeats.js';
import type { Conflict } from './conflicts.js';
import { clipDrifts, type Drift } from './drift.js';
import { type LandingFreedom, landClip } from './land-clip.js';

export interface LandedReel {
  readonly project: Project;
  /** What could not be met, clip by clip; those clips are as they were. */
  readonly conflicts: readonly { readonly clipId: string; readonly conflicts: readonly Conflict[] }[];
}

/**
 * Lands every tied moment of the reel. A clip whose end gives moves all that follows and is not pinned, so the reel is gone
 * through from its beginning: when a clip's turn comes its place is settled, and nothing after it can change that. Clips that have
 * landed are not touched. What is at odds is said and not searched on: `landClip` finds what would do. Throws nothing for a cue outside its clip: that is a conflict of that clip.
 */
export function landReel(
  project: Project,
  choice: { readonly freeEnd?: boolean; readonly gives?: LandingFreedom } = {},
): LandedReel {
  const conflicts: { clipId: string; conflicts: readonly Conflict[] }[] = [];
  let landed = project;
  for (const { id } of project.reel.items) {
    const drifts = reelDrifts(landed, id);
    if (drifts.every((d) => d.landed)) continue;
    try {
      const answer = landClip(landed, id, { ...choice, offers: false });
      if (answer.conflicts.length > 0) conflicts.push({ clipId: id, conflicts: answer.conflicts });
      landed = answer.project;
    } catch (error) {
      if (!(error instanceof InvalidInput)) throw error;
      conflicts.push({
        clipId: id,
        conflicts: [
          {
            landings: drifts.map((_, i) => i),
            frames: Math.max(...drifts.map((d) => Math.abs(d.frames))),
            offer: undefined,
          },
        ],
      });
    }
  }
  return { project: landed, conflicts };
}

/** A tied moment of a clip, and how it stands to its cue. */
export interface ReelDrift extends Drift {
  readonly clipId: string;
  readonly clipName: string;
}

/** All tied moments of the reel, or of one clip, that are shown. */
export function reelDrifts(project: Project, clipId?: string): ReelDrift[] {
  const one = clipId === undefined ? undefined : placeOf(project, clipId);
  const places = clipId === undefined ? placeItems(project) : one ? [one] : [];
  return places.flatMap(({ item, start, frames }) => {
    if (item.kind !== 'clip' || item.ties.length === 0) return [];
    const source = sourceOf(project, item);
    const tied = source.moments.filter(({ id }) => item.ties.some(({ momentId }) => momentId === id));
    const cues = item.ties.map(({ cueId }) => byId(project.reel.cues).get(cueId)).filter((cue) => cue !== undefined);
    return clipDrifts(item, start, frames, tied, cues, (frame) => positionOfFrame(source, frame)).map((drift) => ({
      ...drift,
      clipId: item.id,
      clipName: item.name,
    }));
  });
}

/** Worst first: those that miss by most, then those that fall between frames, then what has landed. */
export const byDrift = (drifts: readonly ReelDrift[]): ReelDrift[] =>
  drifts.toSorted(
    (a, b) => Number(a.landed) - Number(b.landed) || Math.abs(b.frames) - Math.abs(a.frames) || a.shownAt - b.shownAt,
  );
