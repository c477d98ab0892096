import type { Clip } from '../model/clip.js';
import { type Group, isGroup, sourcesInside } from '../model/group.js';
import type { Project } from '../model/project.js';
import type { Moment } from '../model/source.js';
import { mapClips } from '../reel/clips.js';
import { reelFrames } from '../reel/places.js';
import { TIME_EPSILON, type TimeMap } from '../time-map/time-map.js';
import { sameRate } from '../time/rate.js';
import { insideGroup } from './inside.js';
import { momentsInside } from './moments-inside.js';

/**
 * Brings what groups say of themselves up to date with what is in them, innermost first: their length, their moments, and the
 * clips that show them to the end, which get longer or shorter with them.
 */
export function reconcileGroups(project: Project): Project {
  return innermostFirst(project).reduce(reconcileGroup, project);
}

function innermostFirst(project: Project): string[] {
  const order: string[] = [];
  const groups = new Map(project.sources.filter(isGroup).map((group) => [group.id, group]));
  const visit = (id: string) => {
    const group = groups.get(id);
    if (!group || order.includes(id)) return;
    sourcesInside(group).forEach(visit);
    order.push(id);
  };
  [...groups.keys()].forEach(visit);
  return order;
}

function reconcileGroup(project: Project, id: string): Project {
  const before = project.sources.find((source): source is Group => source.id === id && isGroup(source))!;
  const { rate } = project.reel;
  const inside = insideGroup(project, id);
  const frames = Math.max(1, reelFrames(inside));
  const moments = momentsInside(inside);
  if (frames === before.frames && sameMoments(moments, before.moments) && sameRate(before.readAs, rate)) return project;
  const after: Group = { ...before, frames, moments, nativeRate: rate, readAs: rate };
  const sources = project.sources.map((source) => (source === before ? after : source));
  const there = new Set(moments.map((m) => m.id));
  return mapClips({ ...project, sources }, (clip) =>
    clip.sourceId === id ? followed(clip, before.frames, frames, there) : clip,
  );
}

const sameMoments = (a: readonly Moment[], b: readonly Moment[]): boolean =>
  a.length === b.length && a.every((m, i) => m.id === b[i]!.id && m.frame === b[i]!.frame && m.name === b[i]!.name);

/** A clip of a group that became longer or shorter, without ties to moments that are gone. */
function followed(clip: Clip, before: number, after: number, there: ReadonlySet<string>): Clip {
  const ties = clip.ties.every((tie) => there.has(tie.momentId))
    ? clip.ties
    : clip.ties.filter((tie) => there.has(tie.momentId));
  const map = before === after ? clip.map : endMoved(clip.map, before, after);
  return ties === clip.ties && map === clip.map ? clip : { ...clip, map, ties };
}

/** A map that goes to the end of its source, with that end elsewhere and the speed into it kept, as far as the reach before it allows. */
function endMoved(map: TimeMap, before: number, after: number): TimeMap {
  const last = map.vertices.length - 1;
  const [from, end] = [map.vertices[last - 1]!, map.vertices[last]!];
  const slope = (end.s - from.s) / (end.t - from.t);
  if (slope <= 0 || Math.abs(end.s - before) > 1e-6) return map;
  const least = from.t + map.bends[last - 1]!.widthFrames + Math.max(1 / 64, TIME_EPSILON);
  const t = end.t + (after - end.s) / slope;
  return t < least ? map : { ...map, vertices: map.vertices.with(last, { t, s: after }) };
}
