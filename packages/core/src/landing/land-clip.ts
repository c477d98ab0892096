import { updateClip, withMap } from '../project/edit.js';
import { clipSlope, placeItems, sourceOf, type Project } from '../project/project.js';
import { positionOfFrame } from '../repeats/skip.js';
import { FASTEST_SPEED, SLOWEST_SPEED } from '../time-map/edit.js';
import { land, type Conflict } from './conflicts.js';
import { SOLVE_DEFAULTS, type Landing, type SolveChoice } from './solve.js';

/** A clip's ties as landings of its map, in the order of its ties. */
export function landingsOf(project: Project, clipId: string): Landing[] {
  const placed = placeItems(project).find(({ item }) => item.id === clipId);
  if (placed?.item.kind !== 'clip') return [];
  const { item: clip, start } = placed;
  const source = sourceOf(project, clip);
  return clip.ties.map(({ momentId, cueId }) => ({
    moment: positionOfFrame(source, source.moments.find((m) => m.id === momentId)!.frame),
    cue: Math.round(project.reel.cues.find((c) => c.id === cueId)!.frame) - start,
  }));
}

export interface LandedClip {
  /** With conflicts, as it was. */
  readonly project: Project;
  readonly conflicts: readonly Conflict[];
  /** With conflicts: the nearest answer found, each landing as close to its cue as can be; none when nothing near will do. */
  readonly nearest: Project | undefined;
}

/**
 * Bends a clip so that all its ties are landings, within its limits and leaving its locked reaches alone. Where that cannot be, it says which are at odds. Throws `InvalidInput` for a cue outside the clip.
 */
export function landClip(project: Project, clipId: string, choice: Partial<SolveChoice> = {}): LandedClip {
  const clip = project.reel.items.find((item) => item.id === clipId);
  if (clip?.kind !== 'clip') return { project, conflicts: [], nearest: undefined };
  const k0 = clipSlope(project, clip);
  const limits = { slowest: (clip.limits?.slowest ?? SLOWEST_SPEED) * k0, fastest: (clip.limits?.fastest ?? FASTEST_SPEED) * k0 };
  const locked = [...new Set([...clip.locks, ...(choice.locked ?? [])])];
  const { map, conflicts } = land(clip.map, landingsOf(project, clipId), { ...SOLVE_DEFAULTS, limits, ...choice, locked });
  const bent = map === clip.map ? undefined : updateClip(project, clipId, (c) => withMap(c, map));
  return conflicts.length > 0 ? { project, conflicts, nearest: bent } : { project: bent ?? project, conflicts, nearest: undefined };
}
