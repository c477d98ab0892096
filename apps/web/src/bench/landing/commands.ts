import { cueOnSound, tie, untie } from '@idle-bend/core/edit';
import { clipDrifts, landClip, reelDrifts, type Conflict, type Drift } from '@idle-bend/core/landing';
import type { Moment, Project } from '@idle-bend/core/model';
import { reelBeats } from '@idle-bend/core/reel';
import { positionOfFrame } from '@idle-bend/core/sampling';
import { framesPerSecond } from '@idle-bend/core/time';
import { positionAt } from '@idle-bend/core/time-map';
import { solve } from './solving.ts';
import { edit, projectStore } from '../../session/session.ts';
import { activate, benchClips, benchStore, select, type BenchClip } from '../../session/bench-state.ts';
import { attempt, current, newId } from '../../session/command.ts';
import { tell, tellError } from '../../session/notices.ts';

export const driftsOf = ({ clip, start, frames, source, project }: BenchClip): Drift[] =>
  clipDrifts(clip, start, frames, source.moments, project.reel.cues, (frame) => positionOfFrame(source, frame));

const nearestTo = <T>(list: readonly T[], distance: (entry: T) => number): T | undefined =>
  list.reduce<T | undefined>(
    (best, entry) => (best === undefined || distance(entry) < distance(best) ? entry : best),
    undefined,
  );

/** What a moment may land on: a cue, or a place of a sound, which becomes one. */
export type Target = { readonly frame: number } & (
  { readonly cueId: string } | { readonly soundId: string; readonly second: number }
);

/** Everything there is to land on. A cue that stands on a beat is that cue. */
function targets(project: Project): Target[] {
  const { cues } = project.reel;
  const taken = new Set(cues.flatMap(({ beat }) => (beat ? [`${beat.soundId} ${beat.second}`] : [])));
  const beats = reelBeats(project).filter(({ soundId, second }) => !taken.has(`${soundId} ${second}`));
  return [
    ...cues.map((cue): Target => ({ frame: cue.frame, cueId: cue.id })),
    ...beats.map(({ frame, soundId, second }): Target => ({ frame, soundId, second })),
  ];
}

/** What there is to land on within the clip, in order. */
export const targetsIn = ({ project, start, frames }: BenchClip): Target[] =>
  targets(project)
    .filter(({ frame }) => Math.round(frame) >= start && Math.round(frame) < start + frames)
    .sort((a, b) => a.frame - b.frame);

/** The moment and the target a landing is asked for: what is selected, else the moment nearest to the picture, and the cue or beat nearest to where it shows. */
function wanted(bench: BenchClip): { moment: Moment; target: Target } | undefined {
  const { clip, source, start, project } = bench;
  const { selection, k } = benchStore.getState();
  const shown = positionAt(clip.map, k);
  const chosen = selection.kind === 'moment' ? source.moments.find((m) => m.id === selection.id) : undefined;
  const moment = chosen ?? nearestTo(source.moments, (m) => Math.abs(positionOfFrame(source, m.frame) - shown));
  if (!moment) return undefined;
  const cueOf = (id: string) => project.reel.cues.find((c) => c.id === id);
  const chosenCue = selection.kind === 'cue' ? cueOf(selection.id) : undefined;
  if (chosenCue) return { moment, target: { frame: chosenCue.frame, cueId: chosenCue.id } };
  // Where the moment shows, of several appearances the one nearest to anything.
  const appears = clipDrifts(
    { map: clip.map, ties: [] },
    start,
    Infinity,
    [moment],
    [{ id: '', frame: start + k, name: '', beat: null }],
    (frame) => positionOfFrame(source, frame),
  );
  const at = appears[0]?.shownAt ?? start + k;
  const inClip = targetsIn(bench);
  // A cue somebody set is meant before a beat that happens to be nearer: half a second before.
  const ahead = framesPerSecond(project.reel.rate) / 2;
  const away = (each: Target) => Math.max(0, Math.abs(each.frame - at) - ('cueId' in each ? ahead : 0));
  const target = nearestTo(inClip.length > 0 ? inClip : targets(project), away);
  return target && { moment, target };
}

/** Ties the moment to its cue, or to the nearest beat, and bends the clip so that it lands: one gesture, one undo. */
export function landHere(): void {
  const bench = current();
  if (!bench) return;
  const pair = wanted(bench);
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
    const { project: cued, cueId } =
      'cueId' in target
        ? { project, cueId: target.cueId }
        : cueOnSound(project, target.soundId, target.second, newId('cue'));
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

export function untieMoment(momentId: string): void {
  const bench = current();
  if (bench) edit((project) => untie(project, bench.clip.id, momentId));
}

function land(bench: BenchClip, before: (project: Project) => Project): void {
  attempt(() => {
    const tied = before(bench.project);
    const freeEnd = benchStore.getState().keep === 'content';
    const { project, conflicts, nearest } = landClip(tied, bench.clip.id, {
      freeEnd,
      gives: benchStore.getState().gives,
    });
    edit(() => project);
    if (conflicts.length === 0) return;
    tellError(conflictSentence(tied, bench, conflicts), {
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
    names.length === 1
      ? `${names[0]} cannot land with the clip’s ends where they are: it misses`
      : `${names.join(' and ')} cannot both land: they miss`;
  return `${who} by ${frames}.${conflict!.offer ? '' : ' Nothing near will do.'}`;
}
