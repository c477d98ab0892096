import { tie, untie } from '@idle-bend/core/edit';
import {
  clipDrifts,
  conflictSentence,
  landClip,
  type LandedClip,
  type LandingReport,
  proposeLanding,
  reelDrifts,
  reportSentence,
  withCueAt,
  type Drift,
  type Target,
} from '@idle-bend/core/landing';
import type { Project } from '@idle-bend/core/model';
import { positionOfFrame } from '@idle-bend/core/sampling';
import { solve } from './solving.ts';
import { edit, projectStore } from '../../session/session.ts';
import {
  activate,
  benchClips,
  benchStore,
  select,
  type BenchClip,
  type OtherLanding,
} from '../../session/bench-state.ts';
import { attempt, current, newId } from '../../session/command.ts';
import { tell, tellError } from '../../session/notices.ts';

export const driftsOf = ({ clip, start, frames, source, project }: BenchClip): Drift[] =>
  clipDrifts(clip, start, frames, source.moments, project.reel.cues, (frame) => positionOfFrame(source, frame));

/**
 * Ties the moment to its cue, or to the nearest beat, and bends the clip so that it lands: one gesture, one undo. Again, while nothing else
 * was done: the other way to land it.
 */
export function landHere(): void {
  const bench = current();
  if (!bench) return;
  const { otherLanding } = benchStore.getState();
  if (otherLanding?.of === bench.project && otherLanding.clipId === bench.clip.id) return takeOther(otherLanding);
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
  if (conflicts.length > 0)
    tellError(
      `Not everything can land: ${names.join(', ')} ${names.length === 1 ? 'stays as it was' : 'stay as they were'}.`,
      { durationMs: 12_000 },
    );
}

/** Says what a landing did, and keeps the other way to meet it where there is one. */
function tellLanding(clipId: string, report: LandingReport, other: Pick<LandedClip, 'project' | 'report'>): void {
  const of = projectStore.getState().document!;
  const isOther = other.report && other.report.way !== report.way;
  const otherLanding = isOther
    ? { of, clipId, project: other.project, report: other.report, taken: report }
    : undefined;
  benchStore.setState({ otherLanding });
  tell(reportSentence(report), {
    id: 'landing',
    durationMs: 8000,
    ...(otherLanding && { action: { label: `${wayText(otherLanding.report)} (T)`, run: landHere } }),
  });
}

/** What the other way is called where it can be taken. */
export const wayText = ({ way }: LandingReport): string =>
  way === 'speeds' ? 'Change speeds' : way === 'cut' ? 'Move the cut' : 'Keep speeds';

/** Takes the other way; this one is then the other. */
function takeOther({ clipId, project, report, taken }: OtherLanding): void {
  const before = projectStore.getState().document!;
  edit(() => project);
  tellLanding(clipId, report, { project: before, report: taken });
}

export function untieMoment(momentId: string): void {
  const bench = current();
  if (bench) edit((project) => untie(project, bench.clip.id, momentId));
}

function land(bench: BenchClip, before: (project: Project) => Project): void {
  attempt(() => {
    const tied = before(bench.project);
    const freeEnd = benchStore.getState().keep === 'content';
    const { gives } = benchStore.getState();
    const { project, conflicts, nearest, report } = landClip(tied, bench.clip.id, { freeEnd, gives });
    edit(() => project);
    if (report) {
      const by = report.way === 'speeds' ? 'places' : 'all';
      const other = landClip(tied, bench.clip.id, { freeEnd, gives: by, offers: false });
      tellLanding(bench.clip.id, report, other);
    }
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
