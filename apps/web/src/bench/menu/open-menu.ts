import type { Project } from '@idle-bend/core/model';
import type { MouseEvent } from 'react';
import { benchStore, goTo, goToReelFrame, select, type MenuPlace } from '../../session/bench-state.ts';

type Press = MouseEvent<Element>;

function open(event: Press, of: MenuPlace): void {
  event.preventDefault();
  benchStore.setState({ menu: { of, x: event.clientX, y: event.clientY } });
}

/** The menu of what the pointer is on, which is selected: a cue, a sound, a clip, or the reel at that frame. */
export function openReelMenu(event: Press, project: Project, frame: number): void {
  const on = (name: string) => (event.target as Element).closest(`[data-${name}]`)?.getAttribute(`data-${name}`);
  const [cue, sound] = [on('cue'), on('sound')];
  if (cue || sound) {
    select(cue ? { kind: 'cue', id: cue } : { kind: 'sound', id: sound! });
    return open(event, cue ? 'cue' : 'sound');
  }
  benchStore.setState({ clock: 0 });
  goToReelFrame(project, frame);
  if (on('clip')) select({ kind: 'clip' });
  open(event, on('clip') ? 'clip' : 'reel');
}

/** The chart's menu, for the frame under the pointer. */
export function openChartMenu(event: Press, frame: number, frames: number): void {
  benchStore.setState({ clock: 0 });
  goTo(frame, frames);
  open(event, 'chart');
}

/** The same menu by its button, under it. */
export function openBelow(button: Element, of: MenuPlace): void {
  const { left, bottom } = button.getBoundingClientRect();
  benchStore.setState({ menu: { of, x: left, y: bottom + 4 } });
}
