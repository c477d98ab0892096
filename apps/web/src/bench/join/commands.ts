import { firstJoin, joinAll, takeJoinOff } from '@idle-bend/core/join';
import { joinAfter } from '@idle-bend/core/reel';
import { benchClips, benchStore, goTo, select } from '../../session/bench-state.ts';
import { attempt, current, newId } from '../../session/command.ts';
import { tell } from '../../session/notices.ts';
import { edit } from '../../session/session.ts';

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
  if (ids.length < 2) return tell('No cut lies between picked clips; pick neighbours.');
  attempt(() => {
    const chain = joinAll(bench.project, ids, () => newId('join'));
    edit(() => chain.project);
    const kept =
      chain.refused.length === 0
        ? ''
        : ` ${chain.refused.length} cut${chain.refused.length === 1 ? '' : 's'} left: ${chain.refused[0]!.problem}.`;
    tell(`${chain.joined} cut${chain.joined === 1 ? '' : 's'} joined; one undo takes all off.${kept}`);
  });
}

export function takeOffHere(joinId: string): void {
  attempt(() => edit((project) => takeJoinOff(project, joinId)));
  select({ kind: 'clip' });
}
