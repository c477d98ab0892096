import {
  addCue,
  addMoment,
  backToPlain,
  mergeClips,
  moveItem,
  removeItem,
  splitClip,
  updateClip,
  withMap,
} from '@idle-bend/core/edit';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { Method, Project } from '@idle-bend/core/model';
import { frameOfPosition } from '@idle-bend/core/sampling';
import {
  addVertex,
  freezeAt,
  moveVertex,
  positionAt,
  reverseMap,
  setBend,
  type TimeMap,
} from '@idle-bend/core/time-map';
import { toast } from 'sonner';
import { edit, useProject } from '../shell/project-store.ts';
import {
  activate,
  benchClip,
  benchClips,
  goTo,
  reelFrameOf,
  select,
  selected,
  useBench,
  type BenchClip,
} from './bench-store.ts';
import { kindOf } from './selections.ts';

export const newId = (kind: string) => `${kind}-${crypto.randomUUID().slice(0, 8)}`;

/** The clip on the bench now, for actions called from keys and buttons. */
export const current = (): BenchClip | undefined => benchClip(useProject.getState().document);

/** Runs an edit; what core refuses is told in its own words, and nothing changes. */
export function attempt(action: () => void): void {
  try {
    action();
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    toast(capital(error.problem) + '.');
  }
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** One edit of the clip's map; throws `InvalidInput` when core refuses it. */
export function applyMap(change: (map: TimeMap, bench: BenchClip) => TimeMap): void {
  const bench = current();
  if (bench) edit((project) => editMap(project, bench.clip.id, (map) => change(map, bench)));
}

/** The same for keys and buttons, which have nowhere else to say a refusal. */
export const changeMap: typeof applyMap = (change) => attempt(() => applyMap(change));

export const editMap = (project: Project, clipId: string, change: (map: TimeMap) => TimeMap) =>
  updateClip(project, clipId, (clip) => withMap(clip, change(clip.map)));

export const NEW_BEND_FRAMES = 12;

export function bendHere(t = useBench.getState().k): void {
  changeMap((map) => {
    const added = addVertex(map, t, { widthFrames: NEW_BEND_FRAMES, ease: 'soft' });
    select({ kind: 'vertex', index: added.index });
    return added.map;
  });
}

/** Holds the frame at the playhead; `rampFrames` slow down into the hold and speed up out of it. Throws `InvalidInput`. */
export function hold(frames: number, rampFrames: number): void {
  applyMap((map) => {
    const frozen = freezeAt(map, useBench.getState().k, frames, { widthFrames: rampFrames, ease: 'soft' });
    select({ kind: 'reach', index: frozen.reach });
    return frozen.map;
  });
}

export const holdHere = (frames: number, rampFrames = 0) => attempt(() => hold(frames, rampFrames));

/** Cuts the clip in two at the playhead; the second part comes to the bench. */
export function splitHere(): void {
  const bench = current();
  if (!bench) return;
  const { k } = useBench.getState();
  const id = newId('clip');
  attempt(() => {
    edit((project) => splitClip(project, bench.clip.id, k, id));
    activate(id);
  });
}

export function joinWithNext(): void {
  const bench = current();
  if (bench) attempt(() => edit((project) => mergeClips(project, bench.clip.id)));
}

/** Takes all retiming off the clip. */
export function plainAgain(): void {
  const bench = current();
  if (!bench) return;
  attempt(() => edit((project) => backToPlain(project, bench.clip.id)));
  goTo(useBench.getState().k, current()!.frames);
  select({ kind: 'clip' });
}

/** Moves the clip one place earlier or later on the reel. */
export function moveClip(by: 1 | -1): void {
  const bench = current();
  if (bench)
    edit((project) =>
      moveItem(project, bench.clip.id, project.reel.items.findIndex((i) => i.id === bench.clip.id) + by),
    );
}

export function takeOffReel(): void {
  const bench = current();
  if (!bench) return;
  const next = benchClips(bench.project).find(({ start }) => start > bench.start) ?? benchClips(bench.project).at(-2);
  edit((project) => removeItem(project, bench.clip.id));
  if (next) activate(next.clip.id);
}

export function reverseClip(): void {
  changeMap(reverseMap);
  select({ kind: 'clip' });
}

/** Widens (or narrows, below 0) the selected bend. */
export function widenBend(byFrames: number): void {
  const bench = current();
  const selection = bench && selected(bench);
  if (selection?.kind === 'vertex')
    changeMap((map) =>
      setBend(map, selection.index, { widthFrames: Math.max(0, map.bends[selection.index]!.widthFrames + byFrames) }),
    );
}

export function markMoment(): void {
  const bench = current();
  if (!bench) return;
  const frame = Math.round(frameOfPosition(bench.source, positionAt(bench.clip.map, useBench.getState().k)));
  attempt(() => {
    const existing = bench.source.moments.find((m) => m.frame === frame);
    const id = existing?.id ?? newId('moment');
    edit((project) =>
      addMoment(project, bench.source.id, { id, frame, name: `moment ${bench.source.moments.length + 1}` }),
    );
    select({ kind: 'moment', id });
  });
}

export function setCue(): void {
  const bench = current();
  if (!bench) return;
  const frame = reelFrameOf(bench);
  const id = bench.project.reel.cues.find((c) => c.frame === frame)?.id ?? newId('cue');
  attempt(() => edit((project) => addCue(project, { id, frame, name: `cue ${project.reel.cues.length + 1}` })));
  select({ kind: 'cue', id });
}

export function removeSelected(): void {
  const bench = current();
  if (!bench) return;
  const selection = selected(bench);
  const { remove } = kindOf(selection);
  if (remove) attempt(() => edit((project) => remove(project, selection, bench)));
  select({ kind: 'clip' });
}

/** The next bend before or after the playhead: goes there and selects it. */
export function walkBends(direction: 1 | -1): void {
  const bench = current();
  if (!bench) return;
  const { k } = useBench.getState();
  const inner = bench.clip.map.vertices.map(({ t }, index) => ({ t: Math.round(t), index })).slice(1, -1);
  const next = direction > 0 ? inner.find(({ t }) => t > k) : inner.findLast(({ t }) => t < k);
  if (!next) return;
  useBench.setState({ k: Math.min(next.t, bench.frames - 1), original: undefined });
  select({ kind: 'vertex', index: next.index });
}

export function changeMethod(method: Method): void {
  const bench = current();
  if (bench && bench.clip.method !== method)
    edit((project) => updateClip(project, bench.clip.id, (clip) => ({ ...clip, method })));
}

/** Moves the selected vertex by frames of the timeline and of the source. */
export function nudge(timelineFrames: number, sourceFrames: number): void {
  const bench = current();
  const selection = bench && selected(bench);
  if (selection?.kind !== 'vertex') return;
  changeMap((map) => {
    const { t, s } = map.vertices[selection.index]!;
    return moveVertex(map, selection.index, { t: t + timelineFrames, s: s + sourceFrames });
  });
}
