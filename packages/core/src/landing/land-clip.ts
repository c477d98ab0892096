import { isWithin, type Landing } from '../clean/landing.js';
import { byId } from '../foundation/by-id.js';
import { updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import type { Clip } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { joinAfter, joinBefore } from '../reel/active-joins.js';
import { clipSlope, sourceOf } from '../reel/clips.js';
import { placeOf } from '../reel/places.js';
import { WHOLE_FRAME_TOLERANCE } from '../sampling/sample.js';
import { positionOfFrame, usableFrames } from '../sampling/dropped-repeats.js';
import { clipFrameCount } from '../sampling/frame-count.js';
import { framesPerSecond } from '../time/rate.js';
import { MAX_SPEED, MIN_SPEED } from '../time-map/edit.js';
import { positionAt } from '../time-map/evaluate.js';
import { reachSlope, TIME_EPSILON, type TimeMap } from '../time-map/time-map.js';
import { land } from './conflicts.js';
import { landByMovingCut } from './land-by-moving-cut.js';
import { endedWithin, fitCleanly } from '../clean/fit.js';
import { landByPlaces, MAX_STRETCH_RATIO } from '../clean/land-by-places.js';
import { farthestOff } from './land-map.js';
import { type LandedClip, landedOrOffered, slippedTo, withinSource } from './landed.js';
import { landingReport, type LandingReport, type LandingWay } from './landing-report.js';
import { checkLandings, SOLVE_DEFAULTS, type SolveChoice } from './solve.js';

/** A clip's ties as landings of its map, in the order of its ties. */
export function landingsOf(project: Project, clipId: string): Landing[] {
  const placed = placeOf(project, clipId);
  if (placed?.item.kind !== 'clip') return [];
  const { item: clip, start } = placed;
  const source = sourceOf(project, clip);
  return clip.ties.map(({ momentId, cueId }) => ({
    moment: positionOfFrame(source, byId(source.moments).get(momentId)!.frame),
    cue: Math.round(byId(project.reel.cues).get(cueId)!.frame) - start,
  }));
}

/**
 * What of a clip a landing may change: the places where speeds change, every speed staying; or the speeds, of all reaches, of those before the
 * last cue, of those beside a cue; or neither: then the in point gives and the curve slips in the source, or the cut gives and the clip
 * moves on the reel.
 */
export type LandingFreedom = 'places' | 'all' | 'before' | 'beside' | 'start' | 'cut';

export interface LandChoice extends SolveChoice {
  readonly gives: LandingFreedom;
  /** How far places may move beyond what the landings are off by, timeline frames; half a second where it is not said. */
  readonly patience?: number | undefined;
  /** Whether what would do instead is searched for where landings are at odds. */
  readonly offers: boolean;
}

/**
 * Bends a clip so that all its ties are landings, within its limits and leaving its locked reaches alone. Where places alone do not meet them,
 * a clip of one speed moves its cut, and else the speeds change. Where that cannot be either, it says which are at odds. Throws `InvalidInput`
 * for a cue outside the clip.
 */
export function landClip(
  project: Project,
  clipId: string,
  { gives = 'places', ...choice }: Partial<LandChoice> = {},
): LandedClip {
  const clip = project.reel.items.find((item) => item.id === clipId);
  if (clip?.kind !== 'clip') return { project, conflicts: [], nearest: undefined };
  const landings = landingsOf(project, clipId);
  // No way counts that would run past the source.
  const done = (answer: LandedClip, way: LandingWay) => reported(withinSource(project, answer, landings), clip, way);
  if (gives === 'start') return done(slipToLanding(project, clip, landings), 'in');
  if (gives === 'cut') return done(landByMovingCut(project, clip, landings), 'cut');
  if (gives === 'places') {
    checkLandings(clip.map, landings);
    const map = placesOf(project, clip, landings, choice);
    if (map) {
      const byPlaces = done(landedOrOffered(project, withMapOf(project, clip, map), map, landings), 'places');
      // Of a whole reel only those are looked at twice that lost much.
      const real = byPlaces.report?.real;
      if (map === clip.map || (real && choice.offers === false && real.after >= 0.8 * real.before)) return byPlaces;
      // The speeds are taken where they leave more frames real.
      const bySpeeds = done(landBySpeeds(project, clip, landings, 'all', { ...choice, offers: false }), 'speeds');
      return bySpeeds.report && madeBy(bySpeeds.report) < madeBy(byPlaces.report) ? bySpeeds : byPlaces;
    }
    if (choice.offers !== false && mayMoveCut(project, clip, landings, choice)) {
      const moved = done(landByMovingCut(project, clip, landings), 'cut');
      if (moved.conflicts.length === 0) return moved;
    }
    const divided = dividedToLand(project, clip, landings);
    if (divided) {
      const whole = done(landedOrOffered(project, withMapOf(project, clip, divided), divided, landings), 'places');
      if (whole.conflicts.length === 0) return whole;
    }
  }
  return done(landBySpeeds(project, clip, landings, gives === 'places' ? 'all' : gives, choice), 'speeds');
}

const withMapOf = (project: Project, clip: Clip, map: TimeMap): Project =>
  map === clip.map ? project : updateClip(project, clip.id, (c) => withMap(c, map));

/** How many frames of the clip have to be made after a landing. */
const madeBy = (report: LandingReport | undefined): number => (report ? report.real.of - report.real.after : Infinity);

/** The answer with what it did to the clip. */
function reported(answer: LandedClip, before: Clip, way: LandingWay): LandedClip {
  const after = answer.project.reel.items.find(({ id }) => id === before.id);
  if (answer.conflicts.length > 0 || after?.kind !== 'clip') return answer;
  return { ...answer, report: landingReport(before.map, after.map, way) };
}

/** The slopes a clip's reaches may have. */
function limitsOf(project: Project, clip: Clip): SolveChoice['limits'] {
  const k0 = clipSlope(project, clip);
  return { slowest: (clip.limits?.slowest ?? MIN_SPEED) * k0, fastest: (clip.limits?.fastest ?? MAX_SPEED) * k0 };
}

const patienceOf = (project: Project, { patience }: Partial<LandChoice>): number =>
  patience ?? framesPerSecond(project.reel.rate) / 2;

/** A clip of one speed that is off by little has its cut moved before its speed changes; one that begins the reel would leave a gap. */
const mayMoveCut = (project: Project, clip: Clip, landings: readonly Landing[], choice: Partial<LandChoice>): boolean =>
  clip.map.vertices.length === 2 &&
  project.reel.items[0]?.id !== clip.id &&
  farthestOff(clip.map, landings) <= patienceOf(project, choice);

/** The clip's curve with the places moved, as far as what is about the clip lets it. */
function placesOf(
  project: Project,
  clip: Clip,
  landings: readonly Landing[],
  choice: Partial<LandChoice>,
): TimeMap | undefined {
  // What has landed stays as it is.
  if (landings.every(({ moment, cue }) => Math.abs(positionAt(clip.map, cue) - moment) <= WHOLE_FRAME_TOLERANCE))
    return clip.map;
  const next = project.reel.items[project.reel.items.findIndex(({ id }) => id === clip.id) + 1];
  const isNextPinned = next?.kind === 'clip' && next.pin !== null;
  const isFixed = clip.fills || isNextPinned;
  const found = landByPlaces(clip.map, landings, {
    locked: [...new Set([...clip.locks, ...(choice.locked ?? [])])],
    freeEnd: !isFixed && (choice.freeEnd ?? SOLVE_DEFAULTS.freeEnd),
    trim: {
      in: clip.pin !== null || joinBefore(project, clip.id) ? 0 : undefined,
      out: isNextPinned || joinAfter(project, clip.id) ? 0 : undefined,
    },
    patience: patienceOf(project, choice) + farthestOff(clip.map, landings),
    limits: limitsOf(project, clip),
    room: { from: 0, to: usableFrames(sourceOf(project, clip)) },
  });
  return found?.map;
}

/** A clip of one speed with stretches of neighbouring clean speeds put in where its landings need them, between its first frame and its last. */
function dividedToLand(project: Project, clip: Clip, landings: readonly Landing[]): TimeMap | undefined {
  if (clip.map.vertices.length > 2) return undefined;
  const usable = usableFrames(sourceOf(project, clip));
  const frames = clipFrameCount(clip.map, usable);
  const map = fitCleanly(clip.map, frames, frames, { locked: clip.locks, landings });
  if (!map) return undefined;
  const slope = reachSlope(clip.map, 0);
  const limits = limitsOf(project, clip);
  const isNear = (each: number) => Math.abs(Math.log(each / slope)) <= Math.log(MAX_STRETCH_RATIO) + 1e-9;
  const slopes = map.vertices.slice(1).map((_, i) => reachSlope(map, i));
  return slopes.every((each) => isWithin(each, limits) && isNear(each)) ? endedWithin(map, usable) : undefined;
}

function landBySpeeds(
  project: Project,
  clip: Clip,
  landings: readonly Landing[],
  gives: 'all' | 'before' | 'beside',
  { offers = true, ...choice }: Partial<LandChoice>,
): LandedClip {
  const limits = limitsOf(project, clip);
  const locked = [...new Set([...clip.locks, ...keptReaches(clip.map, landings, gives), ...(choice.locked ?? [])])];
  // What keeps its speed after the last cue has to slide with it.
  const freeEnd = gives === 'before' || (choice.freeEnd ?? SOLVE_DEFAULTS.freeEnd);
  const { map, conflicts } = land(
    clip.map,
    landings,
    { ...SOLVE_DEFAULTS, limits, ...choice, locked, freeEnd },
    offers,
  );
  const bent = map === clip.map ? undefined : withMapOf(project, clip, map);
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
  checkLandings(clip.map, landings);
  const map = slippedTo(clip.map, landings);
  return landedOrOffered(project, withMapOf(project, clip, map), map, landings);
}
