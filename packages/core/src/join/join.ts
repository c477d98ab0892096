import { updateClip } from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { InvalidInput } from '../foundation/errors.js';
import type { Landing } from '../clean/index.js';
import { landClip, landingsOf } from '../landing/land-clip.js';
import { reelDrifts } from '../landing/land-reel.js';
import type { Clip } from '../model/clip.js';
import { checkJoin, choiceOf, type RampJoin, type JoinChoice, type RampUndo } from '../model/join.js';
import type { Project } from '../model/project.js';
import { clipAfter, joinAfter, joinBefore, peakSpeeds } from '../reel/active-joins.js';
import { clipSlope, sourceOf } from '../reel/clips.js';
import { pinnedFrame, placeOf } from '../reel/places.js';
import { withoutJoinAndRamps } from '../reel/ramps.js';
import { usableFrames } from '../sampling/dropped-repeats.js';
import { positionAt } from '../time-map/evaluate.js';
import { reachSlope, TIME_EPSILON, type TimeMap } from '../time-map/time-map.js';
import { type Kept, rampEndByPlaces } from './ramp-by-places.js';
import {
  type End,
  type Ramp,
  type Ramped,
  rampEnd,
  rampEndKeepingContent,
  rampEndSlipping,
  type Room,
  roomTurned,
  turnedRound,
} from '../time-map/ramp.js';

/**
 * Has a clip race into the one after it; a join that is there already is changed. The cut stays where it is when slots are kept, and
 * always where it is pinned. Throws `InvalidInput` where there is no neighbour, no room or no source, with what would fit.
 */
export function putJoin(project: Project, beforeId: string, choice: JoinChoice, id: string): Project {
  checkJoin(choice);
  const old = joinAfter(project, beforeId);
  const plain = old ? takeJoinOff(project, old.id) : project;
  const after = clipAfter(plain, beforeId);
  const place = placeOf(plain, beforeId);
  if (!after || place?.item.kind !== 'clip')
    throw new InvalidInput('join', 'a clip has to follow right after this one');
  const before = place.item;
  const [peakBefore, peakAfter] = peakSpeeds(choice);
  const pinned = pinnedFrame(plain, after) !== undefined;
  const lands: Pick<RampJoin, 'lands'> = old && !old.lands ? {} : { lands: 'places' };
  const outChoice = { ...choice, ...lands, ...(pinned && { keeps: 'slot' as const }) };
  const first = rampOut(plain, before, place.frames, peakBefore, outChoice);
  const second = rampIn(plain, after, peakAfter, { ...choice, ...lands });
  const bent = withLock(withLock(plain, beforeId, first.map, 'last'), after.id, second.map, 'first');
  const landed = landedAgain(project, bent, [beforeId, after.id], lands);
  const side = (clip: Clip, { startFrames: from, slowed }: Ramped): RampUndo => ({
    original: clip.map,
    ramped: clipNow(landed, clip.id).map,
    startFrames: from,
    slowed,
  });
  const undo = { before: side(before, first), after: side(after, second) };
  return withJoins(landed, [
    ...landed.reel.joins,
    { ...choiceOf(choice), id: old?.id ?? id, before: beforeId, after: after.id, undo, ...lands },
  ]);
}

const withJoins = (project: Project, joins: readonly RampJoin[]): Project => ({
  ...project,
  reel: { ...project.reel, joins },
});

const clipNow = (project: Project, clipId: string): Clip => project.reel.items.find(({ id }) => id === clipId) as Clip;

/** Of those clips that had landed before, those that have not any more are landed again, where they can be. */
function landedAgain(
  before: Project,
  after: Project,
  clipIds: readonly string[],
  { lands }: Pick<RampJoin, 'lands'>,
): Project {
  return clipIds.reduce((project, id) => {
    const had = reelDrifts(before, id);
    if (had.length === 0 || !had.every(({ landed }) => landed) || reelDrifts(project, id).every(({ landed }) => landed))
      return project;
    try {
      const answer = landClip(project, id, { offers: false, gives: lands ?? 'all' });
      return answer.conflicts.length === 0 ? answer.project : project;
    } catch (error) {
      // Its cue is outside the clip now: the thread says so.
      if (error instanceof InvalidInput) return project;
      throw error;
    }
  }, after);
}

/** A join at every cut between those clips, made by `put`, one after another; how many there are, and what kept the others from it. */
export function joinChain(
  project: Project,
  clipIds: readonly string[],
  put: (project: Project, beforeId: string) => Project,
): { readonly project: Project; readonly joined: number; readonly refused: readonly InvalidInput[] } {
  const refused: InvalidInput[] = [];
  let [joined, count] = [project, 0];
  for (const clipId of clipIds) {
    const next = clipAfter(joined, clipId);
    if (!next || !clipIds.includes(next.id)) continue;
    try {
      joined = put(joined, clipId);
      count++;
    } catch (error) {
      if (!(error instanceof InvalidInput)) throw error;
      refused.push(error);
    }
  }
  return { project: joined, joined: count, refused };
}

/**
 * Takes a join off: both clips are bent as they were before it, and keep what was done to the rest of them since. Joins that were made after
 * it at their other ends are made again, as if it had never been.
 */
export function takeJoinOff(project: Project, joinId: string): Project {
  const join = project.reel.joins.find(({ id }) => id === joinId);
  if (!join) throw new InvalidInput('join', 'is not on the reel any more');
  const off = withoutLater(project, join) ?? withoutJoinAndRamps(project, join);
  return landedAgain(project, off, [join.before, join.after], join);
}

/** Without a join, those that were made after it off before and made again; `undefined` where a clip was bent since, or one cannot be made again. */
function withoutLater(project: Project, join: RampJoin): Project | undefined {
  const { joins } = project.reel;
  const touched = new Set([join.before, join.after]);
  const later = joins.slice(joins.indexOf(join) + 1).filter(({ before, after }) => {
    const meets = touched.has(before) || touched.has(after);
    if (meets) touched.add(before).add(after);
    return meets;
  });
  const isBentSince = [...touched].some((id) => {
    const last = [join, ...later].findLast(({ before, after }) => before === id || after === id)!;
    const { ramped } = last.before === id ? last.undo.before : last.undo.after;
    return JSON.stringify(clipNow(project, id).map) !== JSON.stringify(ramped);
  });
  if (later.length === 0 || isBentSince || later.some(({ lands }) => !lands)) return undefined;
  try {
    const off = withoutJoinAndRamps(later.reduceRight(withoutJoinAndRamps, project), join);
    return later.reduce((again, each) => putJoin(again, each.before, choiceOf(each), each.id), off);
  } catch (error) {
    if (error instanceof InvalidInput) return undefined;
    throw error;
  }
}

/** How a clip is to race, and whether it keeps its speeds where that can be: joins from before have them changed. */
type RampChoice = JoinChoice & Pick<RampJoin, 'lands'>;

function rampOut(project: Project, clip: Clip, frames: number, peak: number, choice: RampChoice): Ramped {
  const source = usableFrames(sourceOf(project, clip));
  const end: End = { frames, shown: frames - 1, free: joinBefore(project, clip.id) ? 1 : 0 };
  // In the join's terms, whose peak may be shared out unevenly.
  const normal = (clipSlope(project, clip) * peak) / choice.peak;
  const slope = wayOf(clip.map, clip.map.vertices.length - 2) * choice.peak * normal;
  return rampFor(
    clip.map,
    end,
    { frames: choice.into, hold: choice.hold, slope, normal, ease: choice.ease },
    roomIn(source, choice),
    choice,
    { slips: maySlip(project, clip), locked: clip.locks, landings: landedIn(project, clip) },
  );
}

function rampIn(project: Project, clip: Clip, peak: number, choice: RampChoice): Ramped {
  const source = usableFrames(sourceOf(project, clip));
  const turned = turnedRound(clip.map);
  const frames = turned.vertices.at(-1)!.t;
  const end: End = { frames, shown: frames, free: joinAfter(project, clip.id) ? 1 : 0 };
  // In the join's terms, whose peak may be shared out unevenly.
  const normal = (clipSlope(project, clip) * peak) / choice.peak;
  const slope = wayOf(turned, turned.vertices.length - 2) * choice.peak * normal;
  const ramp = { frames: choice.outOf, hold: choice.hold, slope, normal, ease: choice.ease };
  const { map, ...rest } = rampFor(turned, end, ramp, roomTurned(roomIn(source, choice)), choice, {
    slips: maySlip(project, clip),
    locked: clip.locks.map((reach) => turned.vertices.length - 2 - reach),
    landings: landedIn(project, clip).map(({ moment, cue }) => ({ moment: 0 - moment, cue: frames - cue })),
  });
  return { map: turnedRound(map), ...rest };
}

/** What has landed, or races in at its other end, is not slipped. */
const maySlip = (project: Project, clip: Clip): boolean =>
  clip.ties.length === 0 && clip.locks.length === 0 && !joinBefore(project, clip.id) && !joinAfter(project, clip.id);

/** What of a clip has landed on its cue. */
const landedIn = (project: Project, clip: Clip): Landing[] =>
  landingsOf(project, clip.id).filter(({ moment, cue }) => Math.abs(positionAt(clip.map, cue) - moment) < 1e-6);

function rampFor(
  map: TimeMap,
  end: End,
  ramp: Ramp,
  room: Room,
  { keeps, lands }: RampChoice,
  { slips, ...kept }: Kept & { readonly slips: boolean },
): Ramped {
  if (keeps === 'content') return rampEndKeepingContent(map, end, ramp, room);
  const ramped = (slips ? rampEndSlipping : rampEnd)(map, end, ramp, room);
  return (ramped.slowed < 1 && lands && rampEndByPlaces(map, end, ramp, room, kept)) || ramped;
}

const roomIn = (frames: number, { spare }: JoinChoice): Room => ({ from: spare, to: frames - 1 - spare });

/** 1 forward, −1 in reverse; a frozen end races forward. */
const wayOf = (map: TimeMap, reach: number): 1 | -1 => (reachSlope(map, reach) < -TIME_EPSILON ? -1 : 1);

const reachAt = (map: TimeMap, which: 'first' | 'last') => (which === 'first' ? 0 : map.vertices.length - 2);

/** The peak's reach is locked: landings leave it alone. */
const withLock = (project: Project, clipId: string, map: TimeMap, which: 'first' | 'last'): Project =>
  updateClip(project, clipId, (clip) => {
    const bent = withMap(clip, map);
    return { ...bent, locks: [...new Set([...bent.locks, reachAt(map, which)])].sort((a, b) => a - b) };
  });
