import type { Clip } from '../model/clip.js';
import type { RampJoin, RampUndo } from '../model/join.js';
import type { Project } from '../model/project.js';
import { turnedRound, unrampEnd } from '../time-map/ramp.js';
import { bendWindow, reachSlope } from '../time-map/time-map.js';
import { clipAfter, joinAfter, joinBefore, peakSpeeds } from './active-joins.js';
import { clipSlope } from './clips.js';
import { withMap } from './with-map.js';

/** The end of a clip that is at a join's cut. */
type AtCut = 'first' | 'last';

/** Joins whose clips are no neighbours any more, or of which one was bent at the cut by hand, are taken off: so is what is left of their ramps. */
export function reconcileJoins(project: Project): Project {
  // The last one first: what it was laid on is as it was when it was made.
  const broken = project.reel.joins.findLast((join) => !isIntact(project, join));
  if (!broken) return project;
  return reconcileJoins(withoutJoinAndRamps(project, broken));
}

const withoutJoin = (project: Project, { id }: RampJoin): Project => ({
  ...project,
  reel: { ...project.reel, joins: project.reel.joins.filter((join) => join.id !== id) },
});

/**
 * Takes a join's ramps off its clips, as far as they are there: each is bent as it was before, and keeps what was done to the rest of it since.
 * The join itself stays for others to see that it is broken.
 */
export function withoutRamps(project: Project, join: RampJoin): Project {
  const { before, after } = join.undo;
  const [peakBefore, peakAfter] = peakSpeeds(join);
  const others = withoutJoin(project, join);
  const items = project.reel.items.map((item) => {
    if (item.kind === 'gap') return item;
    if (item.id === join.before && isRamped(project, item, 'last', peakBefore))
      return unramped(item, 'last', before, joinBefore(others, item.id) ? 1 : 0);
    if (item.id === join.after && isRamped(project, item, 'first', peakAfter))
      return unramped(item, 'first', after, joinAfter(others, item.id) ? 1 : 0);
    return item;
  });
  return { ...project, reel: { ...project.reel, items } };
}

export const withoutJoinAndRamps = (project: Project, join: RampJoin): Project =>
  withoutJoin(withoutRamps(project, join), join);

/** Whether frame `at` of a clip is inside that join's ramp. */
export function isInRamp(project: Project, join: RampJoin, clipId: string, at: number): boolean {
  const clip = project.reel.items.find(({ id }) => id === clipId);
  if (clip?.kind !== 'clip') return false;
  const [peakBefore, peakAfter] = peakSpeeds(join);
  const last = clip.map.vertices.length - 1;
  if (clip.id === join.before)
    return isRamped(project, clip, 'last', peakBefore) && at > bendWindow(clip.map, last - 1).from;
  return isRamped(project, clip, 'first', peakAfter) && at < bendWindow(clip.map, 1).to;
}

const reachAt = (clip: Clip, which: AtCut) => (which === 'first' ? 0 : clip.map.vertices.length - 2);

/** A clip as it was where nothing was done to it since; else with what the ramp replaced put back. */
function unramped(clip: Clip, which: AtCut, undo: RampUndo, free: number): Clip {
  const untouched = JSON.stringify(clip.map) === JSON.stringify(undo.ramped);
  const locks = clip.locks.filter((reach) => reach !== reachAt(clip, which));
  const off = () =>
    which === 'last'
      ? unrampEnd(clip.map, undo.original, undo, free)
      : turnedRound(unrampEnd(turnedRound(clip.map), turnedRound(undo.original), undo, free));
  return withMap({ ...clip, locks }, untouched ? undo.original : off());
}

function isIntact(project: Project, join: RampJoin): boolean {
  const before = project.reel.items.find(({ id }) => id === join.before);
  if (before?.kind !== 'clip') return false;
  const after = clipAfter(project, before.id);
  if (after?.id !== join.after) return false;
  const [peakBefore, peakAfter] = peakSpeeds(join);
  return isRamped(project, before, 'last', peakBefore) && isRamped(project, after, 'first', peakAfter);
}

/** Whether a clip still has its ramp at the cut: nobody has changed its speed there. */
const isRamped = (project: Project, clip: Clip, which: AtCut, peak: number): boolean =>
  clip.map.vertices.length > 2 &&
  Math.abs(Math.abs(reachSlope(clip.map, reachAt(clip, which))) / clipSlope(project, clip) / peak - 1) < 1e-6;
