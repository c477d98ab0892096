import type { Clip, Project } from '@idle-bend/core/model';
import { benchStore } from '../src/session/bench-state.ts';
import { current } from '../src/session/command.ts';
import { showNoticesWith } from '../src/session/notices.ts';
import { projectStore } from '../src/session/session.ts';
import { parade } from './parade.ts';

const START = benchStore.getState();

/** What was said to the editor since the bench was opened. */
export const said: string[] = [];
showNoticesWith({
  show: (sentence, tone) => void said.push(tone === 'error' ? `! ${sentence}` : sentence),
  showBusy: () => () => undefined,
});

/** A bench with nothing done on it yet. */
export function openBench(document: Project = parade()): void {
  said.length = 0;
  const none = { past: [], future: [], within: [], gestureStart: undefined };
  projectStore.setState({ id: undefined, document, whole: document, keep: 'kept', ...none });
  benchStore.setState(START, true);
}

export const bench = () => benchStore.getState();
export const project = (): Project => projectStore.getState().document!;
export const onBench = () => current()!;
export const clipOf = (id: string) => project().reel.items.find((item) => item.id === id) as Clip;
export const itemIds = () => project().reel.items.map(({ id }) => id);
export const steps = () => projectStore.getState().past.length;
