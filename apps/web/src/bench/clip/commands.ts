import {
  addCue,
  addMoment,
  backToPlain,
  mergeClips,
  moveItem,
  removeItem,
  splitClip,
  updateClip,
} from '@idle-bend/core/edit';
import type { Method } from '@idle-bend/core/model';
import { interpolationOf } from '@idle-bend/core/reel';
import { frameOfPosition, methodAt } from '@idle-bend/core/sampling';
import {
  addVertex,
  freezeAt,
  moveVertex,
  positionAt,
  reverseMap,
  setBend,
  slideVertex,
  type TimeMap,
} from '@idle-bend/core/time-map';
import { foundAt } from '../landing/found.ts';
import { kindOf } from '../../session/selections.ts';
import { applyMap, attempt, changeMap, current, newId } from '../../session/command.ts';
import { tell } from '../../session/notices.ts';
import { edit } from '../../session/session.ts';
import { activate, benchClips, benchStore, goTo, reelFrameOf, select, selected } from '../../session/bench-state.ts';

export const NEW_BEND_FRAMES = 12;

export function bendHere(t = benchStore.getState().k): void {
  changeMap((map) => {
    const added = addVertex(map, t, { widthFrames: NEW_BEND_FRAMES, ease: 'soft' });
    select({ kind: 'vertex', index: added.index });
    return added.map;
  });
}

/** Holds the frame at the playhead; `rampFrames` slow down into the hold and speed up out of it. Throws `InvalidInput`. */
export function hold(frames: number, rampFrames: number): void {
  const { k } = benchStore.getState();
  const bench = current();
  const stepped = bench !== undefined && methodAt(interpolationOf(bench.project, bench.clip), k) === 'step';
  applyMap((map) => {
    const frozen = freezeAt(map, k, frames, { widthFrames: rampFrames, ease: 'soft' }, stepped);
    select({ kind: 'reach', index: frozen.reach });
    return frozen.map;
  });
}

export const holdHere = (frames: number, rampFrames = 0) => attempt(() => hold(frames, rampFrames));

/** Cuts the clip in two at the playhead; the second part comes to the bench. */
export function splitHere(): void {
  const bench = current();
  if (!bench) return;
  const { k } = benchStore.getState();
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
  if (current()!.project === bench.project) tell(`"${bench.clip.name}" is plain.`);
  goTo(benchStore.getState().k, current()!.frames);
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

/** All that are picked, and the clip on the bench with them; one undo. */
export function takePickedOff(): void {
  const bench = current();
  if (!bench) return;
  const { picked } = benchStore.getState();
  const clips = benchClips(bench.project);
  const isPicked = (id: string) => id === bench.clip.id || picked.includes(id);
  // What was picked may be gone by now.
  const gone = clips.map(({ clip }) => clip.id).filter(isPicked);
  if (gone.length === 1) return takeOffReel();
  const left = clips.filter(({ clip }) => !isPicked(clip.id));
  const next = left.find(({ start }) => start > bench.start) ?? left.at(-1);
  edit((project) => gone.reduce(removeItem, project));
  benchStore.setState({ picked: [] });
  if (next) activate(next.clip.id);
  tell(`${gone.length} clips taken off; one undo brings all back.`);
}

export function reverseClip(): void {
  changeMap(reverseMap);
  select({ kind: 'clip' });
}

/** Changes the map at the selected bend. */
function changeBend(change: (map: TimeMap, index: number) => TimeMap): void {
  const bench = current();
  if (!bench) return;
  const selection = selected(bench);
  if (selection.kind === 'vertex') changeMap((map) => change(map, selection.index));
  else tell('Select a bend on the chart first.');
}

/** Widens (or narrows, below 0) the selected bend. */
export const widenBend = (byFrames: number): void =>
  changeBend((map, index) =>
    setBend(map, index, { widthFrames: Math.max(0, map.bends[index]!.widthFrames + byFrames) }),
  );

export function markMoment(): void {
  const bench = current();
  if (!bench) return;
  const { k } = benchStore.getState();
  // On one that was found, it is that frame, though the curve shows one beside it.
  const frame = foundAt(bench.clip.id, k) ?? Math.round(frameOfPosition(bench.source, positionAt(bench.clip.map, k)));
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
  else tell('Select what is to go; Shift Del takes clips off.');
  select({ kind: 'clip' });
}

/** The next bend before or after the playhead, or the vertex `from`: goes there and selects it. */
export function walkBends(direction: 1 | -1, from?: number): void {
  const bench = current();
  if (!bench) return;
  const k = from === undefined ? benchStore.getState().k : Math.round(bench.clip.map.vertices[from]!.t);
  const inner = bench.clip.map.vertices.map(({ t }, index) => ({ t: Math.round(t), index })).slice(1, -1);
  const next = direction > 0 ? inner.find(({ t }) => t > k) : inner.findLast(({ t }) => t < k);
  if (inner.length === 0) tell('This clip has no bend; B sets one.');
  if (!next) return;
  benchStore.setState({ k: Math.min(next.t, bench.frames - 1), original: undefined });
  select({ kind: 'vertex', index: next.index });
}

export function changeMethod(method: Method): void {
  const bench = current();
  if (bench && bench.clip.method !== method)
    edit((project) => updateClip(project, bench.clip.id, (clip) => ({ ...clip, method })));
}

/** A map with a bend at another time, which keeps what bends keep now. The clip's ends keep their source frame. */
export function movedBend(map: TimeMap, index: number, t: number): TimeMap {
  const { bendKeeps, keep } = benchStore.getState();
  const isInner = index > 0 && index < map.vertices.length - 1;
  if (isInner && bendKeeps === 'speeds') return slideVertex(map, index, t, keep);
  return moveVertex(map, index, { t, s: map.vertices[index]!.s }, isInner && bendKeeps === 'neither' ? 'left' : 'free');
}

/** Moves the selected vertex by frames of the timeline and of the source. */
export const nudge = (timelineFrames: number, sourceFrames: number): void =>
  changeBend((map, index) => {
    const { t, s } = map.vertices[index]!;
    return moveVertex(map, index, { t: t + timelineFrames, s: s + sourceFrames });
  });
