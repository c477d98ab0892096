import { InvalidInput } from '@idle-bend/core/foundation';
import { joinChain, putJoin, putMatchedJoin, takeJoinOff } from '@idle-bend/core/join';
import { DEFAULT_JOIN, type JoinChoice, type Project } from '@idle-bend/core/model';
import type { SourceMotion } from '@idle-bend/core/motion';
import { clipAfter, joinAfter, placeOf } from '@idle-bend/core/reel';
import { tell } from '../../session/notices.ts';
import { edit } from '../../session/session.ts';
import { benchClips, benchStore, goTo, select } from '../../session/bench-state.ts';
import { attempt, current, newId } from '../../session/command.ts';

/** Where the source gives too little for the first, the next is tried. */
const PEAKS = [DEFAULT_JOIN.peak, 3, 2, 1.5];

/** Ramps no longer than a third of the clip. */
const lengthFor = (frames: number) => Math.max(4, Math.min(DEFAULT_JOIN.into, Math.floor(frames / 3)));

/** A join as it is made first: as fast as the source allows. Throws `InvalidInput` when it allows none. */
function firstJoin(project: Project, beforeId: string, id: string, peaks: readonly number[] = PEAKS): Project {
  const after = clipAfter(project, beforeId);
  const [into, outOf] = [beforeId, after?.id ?? ''].map((clipId) =>
    lengthFor(placeOf(project, clipId)?.frames ?? 0),
  ) as [number, number];
  for (const peak of peaks) {
    try {
      return putJoin(project, beforeId, { ...DEFAULT_JOIN, into, outOf, peak }, id);
    } catch (error) {
      if (!(error instanceof InvalidInput) || error.field !== 'peak' || peak === peaks.at(-1)) throw error;
    }
  }
  throw new InvalidInput('peak', 'there is too little source for a ramp');
}

/** Has the clip race into the next one, or, where it does already, shows how. */
export function joinHere(): void {
  const bench = current();
  if (!bench) return;
  const { clip } = bench;
  attempt(() => {
    if (!joinAfter(bench.project, clip.id)) edit((project) => firstJoin(project, clip.id, newId('join')));
    goTo(bench.frames, current()!.frames);
    select({ kind: 'join', id: clip.id });
  });
}

/** Every cut between the picked clips, one undo. */
export function joinPicked(): void {
  const bench = current();
  if (!bench) return;
  const { picked } = benchStore.getState();
  const ids = benchClips(bench.project)
    .map(({ clip }) => clip.id)
    .filter((id) => id === bench.clip.id || picked.includes(id));
  attempt(() => {
    // All as fast as the one with the least source can be: the clips between have a ramp at both ends.
    const chains = [...PEAKS, 1.25].map((peak) =>
      joinChain(bench.project, ids, (project, id) => firstJoin(project, id, newId('join'), [peak])),
    );
    const chain = chains.reduce((best, each) => (each.refused.length < best.refused.length ? each : best));
    edit(() => chain.project);
    const kept =
      chain.refused.length === 0
        ? ''
        : ` ${chain.refused.length} cut${chain.refused.length === 1 ? '' : 's'} left: ${chain.refused[0]!.problem}.`;
    tell(`${chain.joined} cut${chain.joined === 1 ? '' : 's'} joined; one undo takes all off.${kept}`);
  });
}

export interface Motions {
  readonly before: SourceMotion | undefined;
  readonly after: SourceMotion | undefined;
}

/** A change of a join; where its speeds are matched by motion, they are matched again. Throws `InvalidInput`. */
export function changeJoin(
  project: Project,
  beforeId: string,
  change: Partial<JoinChoice>,
  { before, after }: Motions,
): Project {
  const join = joinAfter(project, beforeId);
  if (!join) throw new InvalidInput('join', 'is not on the reel any more');
  const choice = { ...join, ...change };
  return choice.matched !== null && before && after
    ? putMatchedJoin(project, beforeId, choice, join.id, { before, after })
    : putJoin(project, beforeId, choice, join.id);
}

/** Where matched speeds ask for more source than there is, a slower peak is tried. */
const SHARES = [1, 0.8, 0.65, 0.5, 0.4, 0.3, 0.2];

/** Has the pictures go equally far on both sides of the cut. Throws `InvalidInput`. */
export function matchJoin(project: Project, beforeId: string, motions: Motions): Project {
  if (!motions.before || !motions.after)
    throw new InvalidInput('matched', 'the motion of this footage is not known yet');
  const peak = joinAfter(project, beforeId)?.peak ?? DEFAULT_JOIN.peak;
  for (const share of SHARES) {
    try {
      return changeJoin(project, beforeId, { matched: 1, peak: Math.round(peak * share * 100) / 100 }, motions);
    } catch (error) {
      if (!(error instanceof InvalidInput) || error.field !== 'peak' || share === SHARES.at(-1)) throw error;
    }
  }
  return project;
}

export function takeOffHere(joinId: string): void {
  attempt(() => edit((project) => takeJoinOff(project, joinId)));
  select({ kind: 'clip' });
}
