import { putTransition, transitionInto } from '@idle-bend/core/accent';
import { InvalidInput } from '@idle-bend/core/foundation';
import { benchClips, benchStore, goTo, select } from '../../session/bench-state.ts';
import { attempt, current, newId } from '../../session/command.ts';
import { tell } from '../../session/notices.ts';
import { edit, projectStore } from '../../session/session.ts';

/** Has the clip dissolve into the next one, or, where it gives way to it already, shows how. */
export function dissolveHere(): void {
  const bench = current();
  if (!bench) return;
  attempt(() => {
    const { items } = bench.project.reel;
    const next = items[items.findIndex(({ id }) => id === bench.clip.id) + 1];
    if (next?.kind !== 'clip') throw new InvalidInput('dissolve', 'no clip follows right after this one');
    if (!transitionInto(bench.project, next.id)) dissolveInto([next.id]);
    goTo(bench.frames - 1, bench.frames);
    select({ kind: 'accents', id: transitionInto(projectStore.getState().document!, next.id)?.id });
  });
}

/** Every cut between the picked clips, one undo. */
export function dissolvePicked(): void {
  const bench = current();
  if (!bench) return;
  const { picked } = benchStore.getState();
  const isPicked = (id: string) => id === bench.clip.id || picked.includes(id);
  const clips = benchClips(bench.project);
  const cuts = clips.flatMap(({ clip, start }, i) => {
    const before = clips[i - 1];
    const touches = before && before.start + before.frames === start;
    return touches && isPicked(clip.id) && isPicked(before.clip.id) ? [clip.id] : [];
  });
  attempt(() => {
    if (cuts.length === 0) throw new InvalidInput('dissolve', 'no cut lies between picked clips; pick neighbours');
    dissolveInto(cuts);
    tell(`${cuts.length} cut${cuts.length === 1 ? '' : 's'} dissolved; one undo takes all off.`);
  });
}

function dissolveInto(clipIds: readonly string[]): void {
  const id = newId('accents');
  edit((project) => putTransition(project, clipIds, 'dissolve', id));
}
