import { realFrames } from '@idle-bend/core/clean';
import { stretchClip, tie, untie } from '@idle-bend/core/edit';
import {
  conflictSentence,
  landClip,
  type LandingReport,
  proposeLanding,
  reelDrifts,
  reportSentence,
  withCueAt,
  type Target,
} from '@idle-bend/core/landing';
import { InvalidInput } from '@idle-bend/core/foundation';
import { footageOf, footageOnReel } from '@idle-bend/core/group';
import type { Project } from '@idle-bend/core/model';
import { driftsOf } from './drifts.ts';
import { solve } from './solving.ts';
import { edit, projectStore } from '../../session/session.ts';
import {
  activate,
  benchClips,
  benchStore,
  select,
  type BenchClip,
  type OtherWay,
  type Way,
} from '../../session/bench-state.ts';
import { waitForCount } from '../../footage/estimates.ts';
import { attempt, current, newId } from '../../session/command.ts';
import { tell, tellError } from '../../session/notices.ts';

/**
 * Ties the moment to its cue, or to the nearest beat, and bends the clip so that it lands: one gesture, one undo. Again, while nothing else
 * was done: the other way to land it.
 */
export function landHere(): void {
  const bench = current();
  if (!bench) return;
  const { otherWay } = benchStore.getState();
  if (otherWay?.of === bench.project && otherWay.clipId === bench.clip.id) return takeOther(otherWay);
  const { selection, k } = benchStore.getState();
  const pair = proposeLanding(bench.project, bench.clip.id, k, {
    momentId: selection.kind === 'moment' ? selection.id : undefined,
    cueId: selection.kind === 'cue' ? selection.id : undefined,
  });
  if (!pair) {
    tell(
      bench.source.moments.length === 0
        ? 'Mark a moment first (M): what is to land.'
        : 'Set a cue first (C), or lay music under the reel: where it is to land.',
    );
    return;
  }
  landOn(bench.clip.id, pair.moment.id, pair.target);
}

/** Ties a moment of a clip to a target and bends the clip so that it lands there. */
export function landOn(clipId: string, momentId: string, target: Target): void {
  const bench = current();
  if (!bench) return;
  if (bench.clip.id !== clipId) activate(clipId);
  land(current()!, (project) => {
    const { project: cued, cueId } = withCueAt(project, target, newId('cue'));
    return tie(cued, clipId, momentId, cueId);
  });
  select({ kind: 'moment', id: momentId });
}

/** Bends the clip so that its ties land again. */
export function landAgain(): void {
  const bench = current();
  if (bench) land(bench, (project) => project);
}

/** Lands every tied moment of the reel, clip after clip: one undo. What cannot be met is told, the rest lands. */
export async function landWholeReel(): Promise<void> {
  const bench = current();
  if (!bench) return;
  const { project } = bench;
  if (waitForCount(footageOnReel(project), 'the reel can land')) return;
  if (reelDrifts(project).length === 0) {
    tell('No moment is tied yet: mark one (M) and land it (T), or draw its thread to a beat.');
    return;
  }
  const { keep, gives } = benchStore.getState();
  const { items, conflicts } = await solve({ kind: 'land', project, freeEnd: keep === 'content', gives });
  // What was edited meanwhile is not lost: then it is worked out again.
  if (projectStore.getState().document !== project) return landWholeReel();
  edit((before) => ({
    ...before,
    reel: { ...before.reel, items: items.map((item) => (typeof item === 'number' ? before.reel.items[item]! : item)) },
  }));
  select({ kind: 'landings' });
  const names = conflicts.map(({ clipId }) => benchClips(project).find(({ clip }) => clip.id === clipId)?.clip.name);
  const [first] = conflicts;
  if (first)
    tellError(
      `Not everything can land: ${names.join(', ')} ${names.length === 1 ? 'stays as it was' : 'stay as they were'}. ` +
        conflictSentence(project, first.clipId, first.conflicts[0]!),
      { durationMs: 12_000 },
    );
}

type WithProject = Way & { readonly project: Project };

/** Says what was done to a clip, and keeps the other way to do it where there is one. */
function tellWay(clipId: string, taken: Way, other: WithProject | undefined): void {
  const of = projectStore.getState().document!;
  benchStore.setState({ otherWay: other && { ...other, of, clipId, taken } });
  tell(taken.sentence, {
    id: 'landing',
    durationMs: 8000,
    // After another edit the offer is over, though the notice may still be there.
    ...(other && { action: { label: `${other.name} (T)`, run: () => takeOffered(clipId) } }),
  });
}

function wayOf(report: LandingReport): Way {
  const name = { speeds: 'Change speeds', cut: 'Move the cut', places: 'Keep speeds', in: 'Keep speeds' }[report.way];
  return { name, sentence: reportSentence(report), real: report.real };
}

function takeOffered(clipId: string): void {
  const { otherWay } = benchStore.getState();
  if (otherWay?.of === projectStore.getState().document && otherWay?.clipId === clipId) takeOther(otherWay);
}

/** Takes the other way; this one is then the other. */
function takeOther({ clipId, project, taken, ...other }: OtherWay): void {
  const before = projectStore.getState().document!;
  edit(() => project);
  tellWay(clipId, other, { ...taken, project: before });
}

/** Gives a clip another length, what it shows staying: at clean speeds, or, with one key, all alike. */
export function stretchHere(clipId: string, frames: number): void {
  const before = projectStore.getState().document!;
  const whole = Math.max(1, Math.round(frames));
  attempt(() => {
    edit((project) => stretchClip(project, clipId, whole));
    offerAlike(clipId, whole, before);
  });
}

/** Says what stretching a clip did to it, and offers all its speeds changed alike. */
export function offerAlike(clipId: string, frames: number, before: Project): void {
  const alike = stretchClip(before, clipId, frames, 'alike');
  const way = (project: Project, name: string): Way | undefined => {
    const clip = project.reel.items.find(({ id }) => id === clipId);
    if (clip?.kind !== 'clip') return undefined;
    const { real, of } = realFrames(clip.map);
    return { name, sentence: `${name}: ${real} of ${of} frames real.`, real: { after: real, of } };
  };
  const [clean, other] = [way(projectStore.getState().document!, 'Clean speeds'), way(alike, 'All alike')];
  if (clean && other && clean.real.after !== other.real.after) tellWay(clipId, clean, { ...other, project: alike });
}

export function untieMoment(momentId: string): void {
  const bench = current();
  if (bench) edit((project) => untie(project, bench.clip.id, momentId));
}

/** The way besides the one reported, where there is one. */
function otherWayToLand(tied: Project, clipId: string, report: LandingReport): WithProject | undefined {
  const freeEnd = benchStore.getState().keep === 'content';
  const gives = report.way === 'speeds' ? 'places' : 'all';
  const other = landClip(tied, clipId, { freeEnd, gives, offers: false });
  return other.report && other.report.way !== report.way
    ? { ...wayOf(other.report), project: other.project }
    : undefined;
}

/** Both ways to land a moment, before either is taken, first the one that would be. None where it has landed, or cannot. */
export function waysToLand(bench: BenchClip, momentId: string): readonly WithProject[] {
  const { k, keep, gives } = benchStore.getState();
  const pair = proposeLanding(bench.project, bench.clip.id, k, { momentId });
  // One that undo has just taken away is still chosen for a moment.
  if (pair?.moment.id !== momentId) return [];
  if (driftsOf(bench).some(({ moment, tied, landed }) => moment.id === momentId && tied && landed)) return [];
  try {
    const { project: cued, cueId } = withCueAt(bench.project, pair.target, 'cue-to-be');
    const tied = tie(cued, bench.clip.id, momentId, cueId);
    const { project, report } = landClip(tied, bench.clip.id, { freeEnd: keep === 'content', gives });
    if (!report) return [];
    const other = otherWayToLand(tied, bench.clip.id, report);
    return [{ ...wayOf(report), project }, ...(other ? [other] : [])];
  } catch (error) {
    // A cue outside the clip: pressing T says so.
    if (error instanceof InvalidInput) return [];
    throw error;
  }
}

function land(bench: BenchClip, before: (project: Project) => Project): void {
  const footage = footageOf(bench.project, bench.clip).map(({ id }) => id);
  if (waitForCount(footage, 'it can land')) return;
  attempt(() => {
    const tied = before(bench.project);
    const freeEnd = benchStore.getState().keep === 'content';
    const { gives } = benchStore.getState();
    const { project, conflicts, nearest, report } = landClip(tied, bench.clip.id, { freeEnd, gives });
    edit(() => project);
    if (report) tellWay(bench.clip.id, wayOf(report), otherWayToLand(tied, bench.clip.id, report));
    if (conflicts.length === 0) return;
    tellError(conflictSentence(tied, bench.clip.id, conflicts[0]!), {
      id: 'conflict',
      durationMs: 20_000,
      // What was offered fits this document only; after other edits it is worked out again.
      ...(nearest && {
        action: {
          label: 'Take the nearest',
          run: () => (projectStore.getState().document === project ? edit(() => nearest) : landAgain()),
        },
      }),
    });
  });
}
