import { InvalidInput } from '../foundation/errors.js';
import type { Clip, ReelItem, Tie } from '../model/clip.js';
import { isGroup, type Source } from '../model/group.js';
import type { RampJoin } from '../model/join.js';
import { checkDepth, type Project } from '../model/project.js';
import { reconcileJoins } from '../reel/ramps.js';
import { allClips, plainClip, sourceOf } from '../reel/clips.js';
import { type PlacedItem, placeItems, reelFrames } from '../reel/places.js';
import { usableFrames } from '../sampling/dropped-repeats.js';
import { clipFrameCount } from '../sampling/frame-count.js';
import { slopeAt } from '../time-map/evaluate.js';
import { splitMap } from '../time-map/split.js';
import { insideGroup } from './inside.js';
import { idOfCut, idOutside, momentsInside } from './moments-inside.js';

export interface NewGroup {
  /** Ids of the clip on the reel and of what it is of. */
  readonly clipId: string;
  readonly sourceId: string;
  readonly name: string;
}

/**
 * Binds neighbouring items into one clip, which plays them as they are and can then be bent as one. What their moments and cuts
 * were tied and pinned to, the group's are. Throws `InvalidInput` when they are not neighbours.
 */
export function groupItems(
  project: Project,
  itemIds: readonly string[],
  { clipId, sourceId, name }: NewGroup,
): Project {
  const placed = placeItems(project);
  const chosen = placed.filter(({ item }) => itemIds.includes(item.id));
  const first = placed.indexOf(chosen[0]!);
  if (chosen.length < 2 || !chosen.some(({ item }) => item.kind === 'clip'))
    throw new InvalidInput('group', 'pick two clips or more that are neighbours');
  if (chosen.some((place, i) => place !== placed[first + i]))
    throw new InvalidInput('group', 'only neighbours can be grouped; something that is not picked lies between these');
  const items = chosen.map((place) => loosened(project, place));
  const { rate } = project.reel;
  const within = new Set(items.map(({ id }) => id));
  const isInside = ({ before, after }: RampJoin) => within.has(before) && within.has(after);
  const content = { items, cues: [], joins: project.reel.joins.filter(isInside) };
  const empty: Source = {
    id: sourceId,
    name,
    frames: 1,
    nativeRate: rate,
    readAs: rate,
    moments: [],
    droppedRepeats: null,
    content,
  };
  const held = { ...project, sources: [...project.sources, empty] };
  const inside = insideGroup(held, sourceId);
  const source = { ...empty, frames: reelFrames(inside), moments: momentsInside(inside) };
  const ties = chosen
    .flatMap(({ item }, i) => (item.kind === 'clip' ? tiesOutside(item, i > 0) : []))
    .filter(isOneOf(source));
  const lead = chosen[0]!.item;
  const group: Clip = { ...plainClip(clipId, source, rate), ties, pin: lead.kind === 'clip' ? lead.pin : null };
  const bindings = { ...project, sources: [...project.sources, source] };
  const joins = project.reel.joins.filter((join) => !within.has(join.before) && !within.has(join.after));
  const whole = {
    ...bindings,
    reel: { ...project.reel, joins, items: project.reel.items.toSpliced(first, chosen.length, group) },
  };
  checkDepth(whole);
  return whole;
}

const isOneOf =
  ({ moments }: Source) =>
  ({ momentId }: Tie, i: number, all: readonly Tie[]) =>
    moments.some((m) => m.id === momentId) && all.findIndex((tie) => tie.momentId === momentId) === i;

const tiesOutside = ({ id, ties, pin }: Clip, inner: boolean): Tie[] => [
  ...ties.map(({ momentId, cueId }) => ({ momentId: idOutside(id, momentId), cueId })),
  ...(inner && pin !== null ? [{ momentId: idOfCut(id), cueId: pin }] : []),
];

/** An item as long as it is on the reel, tied and pinned to nothing. */
function loosened(project: Project, { item, frames }: PlacedItem): ReelItem {
  if (item.kind === 'gap') return { ...item, frames };
  const own = clipFrameCount(item.map, usableFrames(sourceOf(project, item)));
  return { ...item, map: own === frames ? item.map : lasting(item, frames), ties: [], pin: null, fills: false };
}

function lasting({ map }: Clip, frames: number) {
  const last = map.vertices.length - 1;
  const { t, s } = map.vertices[last]!;
  if (frames <= t - 1 / 64) return splitMap(map, frames)[0];
  return { ...map, vertices: map.vertices.with(last, { t: frames, s: s + (frames - t) * slopeAt(map, t) }) };
}

/**
 * Puts the items of a group back on the reel in its place: the part of them it shows when it plays them as they are; all of
 * them, and its own curve goes, when it bends them. Moments and cuts keep what they are tied to.
 */
export function ungroup(project: Project, clipId: string): Project {
  const index = project.reel.items.findIndex(({ id }) => id === clipId);
  const clip = project.reel.items[index];
  if (clip?.kind !== 'clip') throw new InvalidInput('group', 'is not on the reel any more');
  const source = sourceOf(project, clip);
  if (!isGroup(source)) throw new InvalidInput('group', `"${clip.name}" is no group`);
  const taken = new Set(project.reel.items.map(({ id }) => id).filter((id) => id !== clipId));
  const shown = shownItems(insideGroup(project, source.id), clip);
  const items = shown.map((item, i) => freed(item, clip, i === 0, taken));
  const renamed = new Map(shown.map((item, i) => [item.id, items[i]!.id]));
  const joins = source.content.joins.flatMap((join): RampJoin[] => {
    const [before, after] = [renamed.get(join.before), renamed.get(join.after)];
    return before && after ? [{ ...join, before, after }] : [];
  });
  const held = [...project.reel.joins.filter((join) => join.before !== clipId && join.after !== clipId), ...joins];
  const loose = {
    ...project,
    reel: { ...project.reel, joins: held, items: project.reel.items.toSpliced(index, 1, ...items) },
  };
  return withoutUnused(reconcileJoins(loose), source.id);
}

/** Whether a group plays its items as they are: then taking it apart changes nothing. */
export function playsAsItIs({ map }: Clip): boolean {
  const [a, b] = [map.vertices[0]!, map.vertices.at(-1)!];
  const straight = map.vertices.every(({ t, s }) => Math.abs(s - a.s - t) <= 1e-6);
  return straight && Math.abs(b.s - a.s - b.t) <= 1e-6 && Math.abs(a.s - Math.round(a.s)) <= 1e-6;
}

function shownItems(inside: Project, group: Clip): ReelItem[] {
  const places = placeItems(inside);
  if (!playsAsItIs(group)) return places.map(({ item }) => item);
  const from = Math.round(group.map.vertices[0]!.s);
  const to = from + clipFrameCount(group.map, reelFrames(inside));
  return places.flatMap(({ item, start, frames }): ReelItem[] => {
    const [low, high] = [Math.max(0, from - start), Math.min(frames, to - start)];
    if (high <= low) return [];
    if (item.kind === 'gap') return [{ ...item, frames: high - low }];
    const ended = high < frames ? { ...item, map: splitMap(item.map, high)[0] } : item;
    return [low > 0 ? { ...ended, map: splitMap(ended.map, low)[1] } : ended];
  });
}

/** An item on its own again, under an id of its own, with what the group's moments were tied to. */
function freed(item: ReelItem, group: Clip, first: boolean, taken: Set<string>): ReelItem {
  let { id } = item;
  for (let n = 2; taken.has(id); n++) id = `${item.id}-${n}`;
  taken.add(id);
  if (item.kind === 'gap') return { ...item, id };
  const before = idOutside(item.id, '');
  const cut = idOfCut(item.id);
  const ties = group.ties
    .filter(({ momentId }) => momentId.startsWith(before) && momentId !== cut)
    .map(({ momentId, cueId }) => ({ momentId: momentId.slice(before.length), cueId }));
  const pin = first ? group.pin : (group.ties.find(({ momentId }) => momentId === cut)?.cueId ?? null);
  return { ...item, id, ties, pin, method: item.method ?? group.method, tuning: item.tuning ?? group.tuning };
}

/** Takes a group that no clip is of any more out of the project. */
function withoutUnused(project: Project, sourceId: string): Project {
  const used = allClips(project).some((clip) => clip.sourceId === sourceId);
  return used ? project : { ...project, sources: project.sources.filter(({ id }) => id !== sourceId) };
}
