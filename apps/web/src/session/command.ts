import { updateClip, withMap } from '@idle-bend/core/edit';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { Project } from '@idle-bend/core/model';
import type { TimeMap } from '@idle-bend/core/time-map';
import { randomId } from '../random-id.ts';
import { benchClip, goToReelFrame, type BenchClip } from './bench-state.ts';
import { tell } from './notices.ts';
import { edit, projectStore } from './session.ts';

export const newId = (kind: string) => `${kind}-${randomId()}`;

/** The clip on the bench now, for commands called from keys and buttons. */
export const current = (): BenchClip | undefined => benchClip(projectStore.getState().document);

/** Moves the playhead to a frame of the reel as it is now. */
export function goToFrame(frame: number): void {
  const { document } = projectStore.getState();
  if (document) goToReelFrame(document, frame);
}

/** Runs a command; what core refuses is told in its own words, and nothing changes. */
export function attempt(command: () => void): void {
  try {
    command();
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    tell(capital(error.problem) + '.');
  }
}

export const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** One edit of the clip's map; throws `InvalidInput` when core refuses it. */
export function applyMap(change: (map: TimeMap, bench: BenchClip) => TimeMap): void {
  const bench = current();
  if (bench) edit((project) => editMap(project, bench.clip.id, (map) => change(map, bench)));
}

/** The same for keys and buttons, which have nowhere else to say a refusal. */
export const changeMap: typeof applyMap = (change) => attempt(() => applyMap(change));

export const editMap = (project: Project, clipId: string, change: (map: TimeMap) => TimeMap) =>
  updateClip(project, clipId, (clip) => withMap(clip, change(clip.map)));
