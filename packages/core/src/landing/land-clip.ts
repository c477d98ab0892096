import { updateClip, withMap } from '../edit/edit.js';
import type { Clip } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { clipSlope, sourceOf } from '../reel/clips.js';
import { placeItems } from '../reel/places.js';
import { positionOfFrame } from '../sampling/dropped-repeats.js';
import { MAX_SPEED, MIN_SPEED } from '../time-map/edit.js';
import { positionAt } from '../time-map/evaluate.js';
import { TIME_EPSILON, type TimeMap } from '../time-map/time-map.js';
import { land } from './conflicts.js';
import { landByMovingCut } from './land-by-moving-cut.js';
import { type LandedClip, landedOrOffered } from './landed.js';
import { checkLandings, type Landing, SOLVE_DEFAULTS, type SolveChoice } from './solve.js';

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

/**
 * What of a clip a landing may change: all reaches; only those before the last cue; only those beside a cue; or none, so that every
 * speed stays: then the in point gives and the curve slips in the source, or the cut gives and the clip moves on the reel.
 */
export type LandingFreedom = 'all' | 'before' | 'beside' | 'start' | 'cut';

export interface LandChoice extends SolveChoice {
  readonly gives: LandingFreedom;
  /** Whether what would do instead is searched for where landings are at odds. */
  readonly offers: boolean;
}

/**
 * Bends a clip so that all its ties are landings, within its limits and leaving its locked reaches alone. Where that cannot be, it says which are at odds. Throws `InvalidInput` for a cue outside the clip.
 */
export function landClip(
  project: Project,
  clipId: string,
  { gives = 'all', offers = true, ...choice }: Partial<LandChoice> = {},
): LandedClip {
  const clip = project.reel.items.find((item) => item.id === clipId);
  if (clip?.kind !== 'clip') return { project, conflicts: [], nearest: undefined };
  const k0 = clipSlope(project, clip);
  const limits = {
    slowest: (clip.limits?.slowest ?? MIN_SPEED) * k0,
    fastest: (clip.limits?.fastest ?? MAX_SPEED) * k0,
  };
  const landings = landingsOf(project, clipId);
  if (gives === 'start') return slipToLanding(project, clip, landings);
  if (gives === 'cut') return landByMovingCut(project, clip, landings);
  const locked = [...new Set([...clip.locks, ...keptReaches(clip.map, landings, gives), ...(choice.locked ?? [])])];
  // What keeps its speed after the last cue has to slide with it.
  const freeEnd = gives === 'before' || (choice.freeEnd ?? SOLVE_DEFAULTS.freeEnd);
  const { map, conflicts } = land(
    clip.map,
    landings,
    { ...SOLVE_DEFAULTS, limits, ...choice, locked, freeEnd },
    offers,
  );
  const bent = map === clip.map ? undefined : updateClip(project, clipId, (c) => withMap(c, map));
  return conflicts.length > 0
    ? { project, conflicts, nearest: bent }
    : { project: bent ?? project, conflicts, nearest: undefined };
}

/** Reaches that keep their speed when only those before, or beside, the landings may give. */
function keptReaches(map: TimeMap, landings: readonly Landing[], gives: 'all' | 'before' | 'beside'): number[] {
  if (gives === 'all' || landings.length === 0) return [];
  const reaches = Array.from({ length: map.vertices.length - 1 }, (_, i) => i);
  const lastCue = Math.max(...landings.map(({ cue }) => cue));
  const [from, to] = [(i: number) => map.vertices[i]!.t, (i: number) => map.vertices[i + 1]!.t];
  if (gives === 'before') return reaches.filter((i) => from(i) >= lastCue - TIME_EPSILON);
  return reaches.filter(
    (i) => !landings.some(({ cue }) => cue >= from(i) - TIME_EPSILON && cue <= to(i) + TIME_EPSILON),
  );
}

/** Slips the whole curve in the source so that the first landing is met; the others are then met or, at their speeds, cannot be. */
function slipToLanding(project: Project, clip: Clip, landings: readonly Landing[]): LandedClip {
  const first = landings[0];
  if (!first) return { project, conflicts: [], nearest: undefined };
  checkLandings(clip.map, landings);
  const slip = first.moment - positionAt(clip.map, first.cue);
  const map = { ...clip.map, vertices: clip.map.vertices.map((v) => ({ t: v.t, s: v.s + slip })) };
  const slipped = slip === 0 ? project : updateClip(project, clip.id, (c) => withMap(c, map));
  return landedOrOffered(project, slipped, map, landings);
}
