import { addCue, cueOnSound, leaveGap, pinClip } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { placeItems, reelBeats } from '@idle-bend/core/reel';
import { tell } from '../../session/notices.ts';
import { edit } from '../../session/session.ts';
import { attempt, current, newId } from '../../session/command.ts';

/** Keeps the cut before the clip on the cue or beat nearest to it, or lets it flow on again. */
export function pinHere(): void {
  const bench = current();
  if (!bench) return;
  const { clip, project, start } = bench;
  if (clip.pin !== null) return attempt(() => edit((before) => pinClip(before, clip.id, null)));
  const cues = project.reel.cues.map(({ id, frame }) => ({
    frame,
    put: (before: Project) => ({ project: before, cueId: id }),
  }));
  const beats = reelBeats(project).map(({ frame, soundId, second }) => ({
    frame,
    put: (before: Project) => cueOnSound(before, soundId, second, newId('cue')),
  }));
  const all = [...cues, ...beats];
  if (all.length === 0) {
    tell('Set a cue first (C), or lay music under the reel: where the cut is to stay.');
    return;
  }
  const nearest = all.reduce((best, each) =>
    Math.abs(each.frame - start) < Math.abs(best.frame - start) ? each : best,
  );
  attempt(() =>
    edit((before) => {
      const put = nearest.put(before);
      return pinClip(put.project, clip.id, put.cueId);
    }),
  );
}

/** A cue at every cut. */
export function cuesFromCuts(): void {
  const bench = current();
  if (!bench) return;
  const starts = placeItems(bench.project)
    .slice(1)
    .map(({ start }) => start);
  edit((before) =>
    starts.reduce((project, frame, i) => addCue(project, { id: newId('cue'), frame, name: `cut ${i + 1}` }), before),
  );
}

/** Takes the clip off and leaves black in its place. */
export function leaveGapHere(): void {
  const bench = current();
  if (bench) attempt(() => edit((before) => leaveGap(before, bench.clip.id, newId('gap'))));
}
