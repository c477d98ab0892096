import { clipDrifts, landClip, positionAt, positionOfFrame, tie, untie, type Conflict, type Cue, type Drift, type Moment, type Project } from '@idle-bend/core';
import { toast } from 'sonner';
import { edit, useProject } from '../shell/project-store.ts';
import { select, useBench, type BenchClip } from './bench-store.ts';
import { attempt, current } from './edits.ts';

export const driftsOf = ({ clip, start, frames, source, project }: BenchClip): Drift[] =>
  clipDrifts(clip, start, frames, source.moments, project.reel.cues, (frame) => positionOfFrame(source, frame));

const nearestTo = <T>(list: readonly T[], distance: (entry: T) => number): T | undefined =>
  list.reduce<T | undefined>((best, entry) => (best === undefined || distance(entry) < distance(best) ? entry : best), undefined);

/** The moment and the cue a landing is asked for: what is selected, else the moment nearest to the picture, and the cue nearest to where it shows. */
function wanted({ clip, source, start, project }: BenchClip): { moment: Moment; cue: Cue } | undefined {
  const { selection, k } = useBench.getState();
  const shown = positionAt(clip.map, k);
  const chosen = selection.kind === 'moment' ? source.moments.find((m) => m.id === selection.id) : undefined;
  const moment = chosen ?? nearestTo(source.moments, (m) => Math.abs(positionOfFrame(source, m.frame) - shown));
  if (!moment) return undefined;
  const pairs = clipDrifts({ map: clip.map, ties: [] }, start, Infinity, [moment], project.reel.cues, (frame) => positionOfFrame(source, frame));
  const chosenCue = selection.kind === 'cue' ? project.reel.cues.find((c) => c.id === selection.id) : undefined;
  const cue = chosenCue ?? pairs[0]?.cue ?? nearestTo(project.reel.cues, (c) => Math.abs(c.frame - start - k));
  return cue && { moment, cue };
}

/** Ties the moment to its cue and bends the clip so that it lands: one gesture, one undo. */
export function landHere(): void {
  const bench = current();
  if (!bench) return;
  const pair = wanted(bench);
  if (!pair) {
    toast(bench.source.moments.length === 0 ? 'Mark a moment first (M): what is to land.' : 'Set a cue first (C): where it is to land.');
    return;
  }
  land(bench, (project) => tie(project, bench.clip.id, pair.moment.id, pair.cue.id));
  select({ kind: 'moment', id: pair.moment.id });
}

/** Bends the clip so that its ties land again. */
export function landAgain(): void {
  const bench = current();
  if (bench) land(bench, (project) => project);
}

export function untieMoment(momentId: string): void {
  const bench = current();
  if (bench) edit((project) => untie(project, bench.clip.id, momentId));
}

function land(bench: BenchClip, before: (project: Project) => Project): void {
  attempt(() => {
    const tied = before(bench.project);
    const freeEnd = useBench.getState().keep === 'content';
    const { project, conflicts, nearest } = landClip(tied, bench.clip.id, { freeEnd, gives: useBench.getState().gives });
    edit(() => project);
    if (conflicts.length === 0) return;
    toast.error(conflictSentence(tied, bench, conflicts), {
      id: 'conflict',
      duration: 20_000,
      // What was offered fits this document only; after other edits it is worked out anew.
      ...(nearest && {
        action: { label: 'Take the nearest', onClick: () => (useProject.getState().document === project ? edit(() => nearest) : landAgain()) },
      }),
    });
  });
}

/** Which landings are at odds, by how much, and what would do. */
function conflictSentence(project: Project, { clip, source }: BenchClip, [conflict]: readonly Conflict[]): string {
  const clipNow = project.reel.items.find((item) => item.id === clip.id);
  const ties = clipNow?.kind === 'clip' ? clipNow.ties : [];
  const names = conflict!.landings.map((i) => {
    const moment = project.sources.find((s) => s.id === source.id)!.moments.find((m) => m.id === ties[i]!.momentId)!;
    return `“${moment.name || `frame ${moment.frame}`}”`;
  });
  const frames = `${conflict!.frames} frame${conflict!.frames === 1 ? '' : 's'}`;
  const who =
    names.length === 1 ? `${names[0]} cannot land with the clip’s ends where they are: it misses` : `${names.join(' and ')} cannot both land: they miss`;
  return `${who} by ${frames}.${conflict!.offer ? '' : ' Nothing near will do.'}`;
}
