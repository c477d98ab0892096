import { groupItems, ungroup, withGapsBetween } from '@idle-bend/core/group';
import { isGroup } from '@idle-bend/core/model';
import { placeOf } from '@idle-bend/core/reel';
import { framesShowing, positionAt } from '@idle-bend/core/time-map';
import { tell } from '../../session/notices.ts';
import { seeAll } from '../reel/reel-view.ts';
import { edit, openGroup, projectStore } from '../../session/session.ts';
import { activate, benchStore, goToReelFrame, reelFrameOf } from '../../session/bench-state.ts';
import { attempt, current, newId } from '../../session/command.ts';

/** Binds the clip and those that are picked with it, and the gaps between them, into a group. */
export function groupHere(): void {
  const bench = current();
  if (!bench) return;
  const picked = new Set([bench.clip.id, ...benchStore.getState().picked]);
  const ids = withGapsBetween(bench.project, picked);
  const at = reelFrameOf(bench);
  const clipId = newId('group');
  attempt(() => {
    const start = placeOf(bench.project, ids[0]!)!.start;
    edit((before) => groupItems(before, ids, { clipId, sourceId: newId('inside'), name: `group of ${picked.size}` }));
    activate(clipId, Math.max(0, at - start));
    benchStore.setState({ picked: [] });
  });
}

/** Goes into the group on the bench: its clips are the reel until it is closed. */
export function openHere(): void {
  const bench = current();
  if (!bench) return;
  if (!isGroup(bench.source)) {
    tell('This clip is no group. Pick neighbours with Ctrl and a press, then group them (Ctrl B).');
    return;
  }
  const at = positionAt(bench.clip.map, Math.min(benchStore.getState().k, bench.frames - 1));
  settle(() => openGroup({ sourceId: bench.source.id, clipId: bench.clip.id }));
  goToReelFrame(projectStore.getState().document!, Math.max(0, Math.floor(at + 1e-6)));
}

/** Goes out of the group that is open, to where it shows what is seen now. */
export function closeHere(): void {
  const group = projectStore.getState().within.at(-1);
  if (!group) return;
  const inside = current();
  const at = inside ? reelFrameOf(inside) : 0;
  settle(() => openGroup(undefined));
  activate(group.clipId);
  const outside = current();
  if (!outside || outside.clip.id !== group.clipId) return;
  const shown = framesShowing(outside.clip.map, at).find((k) => k < outside.frames);
  if (shown !== undefined) activate(group.clipId, shown);
}

/** What is picked, looped and compared belongs to the reel it is on. */
function settle(change: () => void): void {
  benchStore.setState({
    clock: 0,
    picked: [],
    loop: undefined,
    range: undefined,
    compare: undefined,
    selection: { kind: 'clip' },
  });
  change();
  seeAll();
}

export function ungroupHere(): void {
  const bench = current();
  if (!bench) return;
  const at = reelFrameOf(bench);
  attempt(() => {
    edit((before) => ungroup(before, bench.clip.id));
    goToReelFrame(projectStore.getState().document!, at);
  });
}
