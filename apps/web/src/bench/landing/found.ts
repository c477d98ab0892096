import { FOUND_NAMES, type FoundMoment } from '@idle-bend/core/landing';
import { createStore } from 'zustand/vanilla';
import { benchStore, goTo } from '../../session/bench-state.ts';
import { current } from '../../session/command.ts';
import { tell } from '../../session/notices.ts';

/** How many proposals are drawn, and walked through. */
export const SHOWN = 5;

interface Found {
  readonly clipId: string;
  readonly list: readonly FoundMoment[];
}

interface FoundState {
  /** What was found in the clip on the bench; nothing before its pictures were looked at. */
  readonly found: Found | undefined;
  /** The one somebody went to last. */
  readonly visited: { readonly clipId: string; readonly shownAt: number; readonly frame: number } | undefined;
}

export const foundStore = createStore<FoundState>(() => ({ found: undefined, visited: undefined }));

/** Goes to a proposal: M marks its frame, though the curve may show only one beside it. */
export function visitFound(clipId: string, { shownAt, frame }: FoundMoment, frames: number): void {
  benchStore.setState({ clock: 0 });
  goTo(shownAt, frames);
  foundStore.setState({ visited: { clipId, shownAt, frame } });
}

/** To the likeliest frame that may hit; from one of them to the next likeliest, and round. */
export function walkFound(): void {
  const bench = current();
  if (!bench) return;
  const { found } = foundStore.getState();
  const list = found?.clipId === bench.clip.id ? found.list.slice(0, SHOWN) : [];
  if (list.length === 0) {
    tell(
      found?.clipId === bench.clip.id
        ? 'Nothing in this clip looks or sounds like a hit that is not marked yet.'
        : 'The pictures of this clip have not been looked at yet.',
      { id: 'found' },
    );
    return;
  }
  const { k } = benchStore.getState();
  const at = (list.findIndex(({ shownAt }) => shownAt === k) + 1) % list.length;
  const { kind, frame } = list[at]!;
  visitFound(bench.clip.id, list[at]!, bench.frames);
  tell(`${at + 1} of ${list.length}: ${FOUND_NAMES[kind]} at source frame ${frame}. M marks it, Shift M goes on.`, {
    id: 'found',
  });
}

/** The source frame of the proposal that was gone to, where the playhead still is on it. */
export function foundAt(clipId: string, k: number): number | undefined {
  const { visited } = foundStore.getState();
  return visited?.clipId === clipId && visited.shownAt === k ? visited.frame : undefined;
}
