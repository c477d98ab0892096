import { InvalidInput } from '../foundation/errors.js';
import { clipInside, originOf } from '../group/moments-inside.js';
import { checkClipSound, type ClipSound, type SoundMode } from '../model/clip-sound.js';
import type { Clip, Tie } from '../model/clip.js';
import type { Cue } from '../model/cue.js';
import { isGroup, type Source } from '../model/group.js';
import type { Method } from '../model/interpolation.js';
import type { Project } from '../model/project.js';
import type { Moment, DroppedRepeats } from '../model/source.js';
import { joinAfter, joinBefore } from '../reel/active-joins.js';
import { allClips, clipSlope, mapClips, freeName, plainClip, plainMap } from '../reel/clips.js';
import { isInRamp, withoutRamps } from '../reel/ramps.js';
import { inOrder, withMap } from '../reel/with-map.js';
import { placeItems } from '../reel/places.js';
import { frameOfPosition, placeOfFrame, usableFrames } from '../sampling/dropped-repeats.js';
import { clipFrameCount } from '../sampling/frame-count.js';
import { setClipSpeed } from '../time-map/edit.js';
import { positionAt } from '../time-map/evaluate.js';
import { concatMaps, splitMap } from '../time-map/split.js';
import { MIN_VERTEX_FRAMES, fittedMap, mapDuration, TIME_EPSILON, type TimeMap } from '../time-map/time-map.js';
import { type Rate, sameRate } from '../time/rate.js';

/** Puts footage into the project. Its id must be new. */
export function addSource(project: Project, source: Source): Project {
  if (project.sources.some((s) => s.id === source.id))
    throw new InvalidInput('source', `"${source.name}" is in the project already`);
  return { ...project, sources: [...project.sources, source] };
}

/** Takes footage out. Refused while a clip uses it, naming the clip. */
export function removeSource(project: Project, sourceId: string): Project {
  const user = allClips(project).find((clip) => clip.sourceId === sourceId);
  if (user) throw new InvalidInput('source', `the clip "${user.name}" still uses it; take that off the reel first`);
  return { ...project, sources: project.sources.filter((s) => s.id !== sourceId) };
}

/** Appends a clip that plays the whole source, or its frames first to last, at 100 %. */
export function appendClip(project: Project, clipId: string, sourceId: string, first?: number, last?: number): Project {
  const source = findSource(project, sourceId);
  const clip = plainClip(clipId, source, project.reel.rate, first, last);
  return withItems(project, [...project.reel.items, { ...clip, name: freeName(project, clip.name) }]);
}

/** Moves an item to place `index` of the reel; what it passes closes up behind it. */
export function moveItem(project: Project, itemId: string, index: number): Project {
  const { items } = project.reel;
  const from = items.findIndex((i) => i.id === itemId);
  if (from < 0) throw new InvalidInput('clip', 'is not on the reel any more');
  const to = Math.max(0, Math.min(items.length - 1, Math.round(index)));
  return from === to ? project : withItems(project, items.toSpliced(from, 1).toSpliced(to, 0, items[from]!));
}

export function removeItem(project: Project, itemId: string): Project {
  return withItems(
    project,
    project.reel.items.filter((i) => i.id !== itemId),
  );
}

/** Replaces a clip by what `change` makes of it. */
export function updateClip(project: Project, clipId: string, change: (clip: Clip) => Clip): Project {
  if (!project.reel.items.some((i) => i.kind === 'clip' && i.id === clipId))
    throw new InvalidInput('clip', 'is not on the reel any more');
  return withItems(
    project,
    project.reel.items.map((item) => (item.kind === 'clip' && item.id === clipId ? change(item) : item)),
  );
}

/** Makes a reach's in-betweens another way than the clip's, or (null) as the clip's again. */
export function setReachMethod(project: Project, clipId: string, reach: number, method: Method | null): Project {
  return updateClip(project, clipId, (clip) => {
    const others = clip.reachMethods.filter((m) => m.reach !== reach);
    return { ...clip, reachMethods: method ? inOrder([...others, { reach, method }]) : others };
  });
}

/** Changes a clip's own sound. Throws `InvalidInput` for what cannot be. */
export function setClipSound(project: Project, clipId: string, change: Partial<ClipSound>): Project {
  return updateClip(project, clipId, (clip) => {
    const sound = { ...clip.sound, ...change };
    checkClipSound(sound);
    return { ...clip, sound };
  });
}

/** A reach is heard another way than the clip, or (null) as the clip again. */
export function setReachSound(project: Project, clipId: string, reach: number, mode: SoundMode | null): Project {
  return updateClip(project, clipId, (clip) => {
    const others = clip.sound.reaches.filter((m) => m.reach !== reach);
    return { ...clip, sound: { ...clip.sound, reaches: mode ? inOrder([...others, { reach, mode }]) : others } };
  });
}

/** Locks a reach's speed against landings, or frees it. */
export function lockReach(project: Project, clipId: string, reach: number, locked: boolean): Project {
  return updateClip(project, clipId, (clip) => {
    const others = clip.locks.filter((i) => i !== reach);
    return { ...clip, locks: locked ? [...others, reach].sort((a, b) => a - b) : others };
  });
}

/** Takes all retiming off a clip: the source frames it shows, forward, at 100 %, under Step. Its named versions and ties stay. */
export function backToPlain(project: Project, clipId: string): Project {
  return updateClip(project, clipId, (clip) => {
    const source = findSource(project, clip.sourceId);
    const frames = usableFrames(source);
    const shown = Array.from({ length: clipFrameCount(clip.map, frames) }, (_, k) => positionAt(clip.map, k));
    const within = (s: number) => Math.max(0, Math.min(frames - 1, s));
    const first = within(Math.round(shown.reduce((a, b) => Math.min(a, b))));
    const last = within(
      Math.max(
        first,
        Math.floor(shown.reduce((a, b) => Math.max(a, b)) + 1e-6),
        Math.ceil(clip.map.vertices.at(-1)!.s - 1),
      ),
    );
    return {
      ...clip,
      map: plainMap(source, project.reel.rate, first, last),
      method: null,
      tuning: null,
      reachMethods: [],
      mends: [],
      locks: [],
      sound: { ...clip.sound, reaches: [] },
    };
  });
}

/**
 * Cuts a clip in two before its timeline frame `at`; the second part is `newId`. Nothing on the reel moves; ties go where their cues are. A ramp
 * join whose ramp is cut there is taken off first, on both sides.
 */
export function splitClip(project: Project, clipId: string, at: number, newId: string): Project {
  const cut = [joinBefore(project, clipId), joinAfter(project, clipId)].find(
    (join) => join && isInRamp(project, join, clipId, at),
  );
  if (cut) return splitClip(withoutRamps(project, cut), clipId, at, newId);
  const placed = placeItems(project).find(({ item }) => item.id === clipId);
  if (placed?.item.kind !== 'clip') throw new InvalidInput('clip', 'is not on the reel any more');
  const { item: clip, start, frames } = placed;
  if (!Number.isInteger(at) || at < 1 || at >= frames)
    throw new InvalidInput('split', `frame ${at} is not between two frames of the clip`);
  const [before, after] = splitMap(clip.map, at);
  const early = ({ cueId }: Tie) => project.reel.cues.find((c) => c.id === cueId)!.frame - start < at - 0.5;
  const kept = {
    locks: clip.locks.filter((i) => i < before.vertices.length - 1),
    reachMethods: clip.reachMethods.filter((m) => m.reach < before.vertices.length - 1),
    sound: {
      ...clip.sound,
      fadeOutSeconds: 0,
      reaches: clip.sound.reaches.filter((m) => m.reach < before.vertices.length - 1),
    },
  };
  const first: Clip = { ...clip, ...kept, map: before, ties: clip.ties.filter(early), versions: [] };
  const moved = after.vertices.length - clip.map.vertices.length;
  const there = (i: number) => i >= 0 && i < after.vertices.length - 1;
  const locks = clip.locks.map((i) => i + moved).filter(there);
  const reachMethods = clip.reachMethods.map((m) => ({ ...m, reach: m.reach + moved })).filter((m) => there(m.reach));
  const sound = {
    ...clip.sound,
    fadeInSeconds: 0,
    reaches: clip.sound.reaches.map((m) => ({ ...m, reach: m.reach + moved })).filter((m) => there(m.reach)),
  };
  const second: Clip = {
    ...clip,
    id: newId,
    name: freeName(project, clip.name),
    map: after,
    locks,
    reachMethods,
    sound,
    ties: clip.ties.filter((t) => !early(t)),
    versions: [],
    pin: null,
  };
  // A ramp into the next clip is the second part's now.
  const joins = project.reel.joins.map((join) => (join.before === clipId ? { ...join, before: newId } : join));
  const items = project.reel.items.flatMap((item) => (item.id === clipId ? [first, second] : [item]));
  return { ...project, reel: { ...project.reel, joins, items } };
}

/** Makes one clip of a clip and the one after it, where that one goes on at the same source position. Throws `InvalidInput` saying why not. */
export function mergeClips(project: Project, clipId: string): Project {
  const { items } = project.reel;
  const index = items.findIndex((i) => i.id === clipId);
  const [clip, next] = [items[index], items[index + 1]];
  if (clip?.kind !== 'clip') throw new InvalidInput('clip', 'is not on the reel any more');
  if (next?.kind !== 'clip') throw new InvalidInput('join', 'no clip comes right after this one');
  if (next.sourceId !== clip.sourceId)
    throw new InvalidInput(
      'join',
      `"${next.name}" is of other footage; only clips that continue each other can be one`,
    );
  const frames = clipFrameCount(clip.map, usableFrames(findSource(project, clip.sourceId)));
  const before = frames < mapDuration(clip.map) - TIME_EPSILON ? splitMap(clip.map, frames)[0] : clip.map;
  const map = concatMaps(before, next.map);
  const shared = clip.ties.map((t) => t.momentId);
  const ties = [...clip.ties, ...next.ties.filter((t) => !shared.includes(t.momentId))];
  const moved = map.vertices.length - next.map.vertices.length;
  const locks = [...new Set([...clip.locks, ...next.locks.map((i) => i + moved)])].sort((a, b) => a - b);
  const reachMethods = inOrder([
    ...clip.reachMethods,
    ...next.reachMethods.map((m) => ({ ...m, reach: m.reach + moved })),
  ]);
  const reaches = inOrder([
    ...clip.sound.reaches,
    ...next.sound.reaches.map((m) => ({ ...m, reach: m.reach + moved })),
  ]);
  const sound = { ...clip.sound, fadeOutSeconds: next.sound.fadeOutSeconds, reaches };
  const mends = [...clip.mends, ...next.mends.filter(({ id }) => !clip.mends.some((m) => m.id === id))];
  return withItems(project, items.toSpliced(index, 2, { ...clip, map, ties, locks, reachMethods, sound, mends }));
}

/** Keeps the clip's curve of now under a name. */
export function keepVersion(project: Project, clipId: string, id: string, name: string): Project {
  return updateClip(project, clipId, (clip) => ({
    ...clip,
    versions: [...clip.versions, { id, name, map: clip.map }],
  }));
}

/** Puts a named version's curve on the clip. The version stays as it is. */
export function useVersion(project: Project, clipId: string, versionId: string): Project {
  return updateClip(project, clipId, (clip) => {
    const version = clip.versions.find((v) => v.id === versionId);
    if (!version) throw new InvalidInput('version', 'is not there any more');
    return withMap(clip, version.map);
  });
}

export function removeVersion(project: Project, clipId: string, versionId: string): Project {
  return updateClip(project, clipId, (clip) => ({
    ...clip,
    versions: clip.versions.filter((v) => v.id !== versionId),
  }));
}

/**
 * What another file behind a source changes: how many frames it has, and its native rate (a source read at its own rate
 * follows). Throws `InvalidInput` where a marked moment would be lost.
 */
export function replaceSource(project: Project, sourceId: string, frames: number, nativeRate: Rate): Project {
  const source = project.sources.find((s) => s.id === sourceId);
  if (!source) return project;
  const lost = source.moments.find((m) => m.frame >= frames);
  if (lost)
    throw new InvalidInput(
      'file',
      `it has frames 0 to ${frames - 1}, but the moment "${lost.name}" is marked at frame ${lost.frame}; move or remove that first`,
    );
  const readAs = sameRate(source.readAs, source.nativeRate) ? nativeRate : source.readAs;
  const within = ({ mends, ...clip }: Clip): Clip => ({
    ...clip,
    mends: mends.filter(({ from }) => from < frames).map((mend) => ({ ...mend, to: Math.min(mend.to, frames) })),
    // It was measured in the other file.
    steady: null,
  });
  const kept = mapClips(project, (clip) => (clip.sourceId === sourceId ? within(clip) : clip));
  return updateSource(setDroppedRepeats(kept, sourceId, null), sourceId, (s) => ({ ...s, frames, nativeRate, readAs }));
}

export function renameSource(project: Project, sourceId: string, name: string): Project {
  return updateSource(project, sourceId, (source) => ({ ...source, name }));
}

/**
 * Marks a moment. A frame that carries one already keeps it. In a group `frame` is one of its times, and what is marked is the
 * nearest frame of the footage that shows there.
 */
export function addMoment(project: Project, sourceId: string, moment: Moment): Project {
  if (isGroup(findSource(project, sourceId))) {
    const inside = clipInside(project, sourceId, moment.frame);
    if (!inside) throw new InvalidInput('moment', 'there is no clip there');
    const source = findSource(project, inside.clip.sourceId);
    const position = positionAt(inside.clip.map, inside.k);
    const frame = isGroup(source) ? position : Math.round(frameOfPosition(source, position));
    return addMoment(project, source.id, { ...moment, frame });
  }
  return updateSource(project, sourceId, (source) => {
    if (!Number.isInteger(moment.frame) || moment.frame < 0 || moment.frame >= source.frames)
      throw new InvalidInput(
        'moment',
        `frame ${moment.frame} is not in "${source.name}", which has frames 0 to ${source.frames - 1}`,
      );
    if (source.moments.some((m) => m.frame === moment.frame)) return source;
    return { ...source, moments: [...source.moments, moment].sort((a, b) => a.frame - b.frame) };
  });
}

/** Renames or moves a moment; of a group, that of the clip inside, which only a clip inside can move. */
export function updateMoment(
  project: Project,
  sourceId: string,
  momentId: string,
  change: Partial<Omit<Moment, 'id'>>,
): Project {
  if (isGroup(findSource(project, sourceId))) {
    if (change.frame !== undefined)
      throw new InvalidInput('moment', 'belongs to a clip inside the group; open it to move it');
    const [source, id] = insideMoment(project, sourceId, momentId);
    return updateMoment(project, source, id, change);
  }
  return updateSource(project, sourceId, (source) => ({
    ...source,
    moments: source.moments.map((m) => (m.id === momentId ? { ...m, ...change } : m)).sort((a, b) => a.frame - b.frame),
  }));
}

/** The source and the id of the moment behind a group's. */
function insideMoment(
  project: Project,
  sourceId: string,
  momentId: string,
): readonly [sourceId: string, momentId: string] {
  const { clip, momentId: id } = originOf(project, sourceId, momentId);
  if (id === undefined) throw new InvalidInput('moment', 'is a cut inside the group; open it to change that');
  return [clip.sourceId, id];
}

/** Takes a moment out, and the ties that name it; of a group, that of the clip inside. */
export function removeMoment(project: Project, sourceId: string, momentId: string): Project {
  if (isGroup(findSource(project, sourceId)))
    return removeMoment(project, ...insideMoment(project, sourceId, momentId));
  return updateSource(
    withoutTies(project, (tie) => tie.momentId === momentId),
    sourceId,
    (source) => ({ ...source, moments: source.moments.filter((m) => m.id !== momentId) }),
  );
}

/** Sets a cue on the reel. A time that carries one already keeps it. */
export function addCue(
  project: Project,
  { beat = null, ...cue }: Omit<Cue, 'beat'> & Partial<Pick<Cue, 'beat'>>,
): Project {
  if (!Number.isFinite(cue.frame) || cue.frame < 0)
    throw new InvalidInput('cue', `${cue.frame} is not a time on the reel`);
  if (project.reel.cues.some((c) => c.frame === cue.frame)) return project;
  return withCues(project, [...project.reel.cues, { ...cue, beat }]);
}

export function updateCue(project: Project, cueId: string, change: Partial<Omit<Cue, 'id'>>): Project {
  return withCues(
    project,
    // Moved by hand, it does not belong to a sound any more.
    project.reel.cues.map((c) =>
      c.id === cueId ? { ...c, ...(change.frame !== undefined && { beat: null }), ...change } : c,
    ),
  );
}

/** Takes a cue out, and the ties and pins that name it. */
export function removeCue(project: Project, cueId: string): Project {
  const free = withoutTies(project, (tie) => tie.cueId === cueId);
  return withCues(
    mapClips(free, (clip) => (clip.pin === cueId ? { ...clip, pin: null } : clip)),
    project.reel.cues.filter((c) => c.id !== cueId),
  );
}

/**
 * Leaves repeats of a source out, or (null) no longer. Closing up keeps every speed: its clips' curves then count the frames
 * that are left, so what lasted n frames lasts as long as those do. Keeping time changes no curve.
 */
export function setDroppedRepeats(project: Project, sourceId: string, droppedRepeats: DroppedRepeats | null): Project {
  const before = findSource(project, sourceId);
  const after = { ...before, droppedRepeats };
  const changed = updateSource(project, sourceId, () => after);
  const move = (map: TimeMap) => closedMap(map, (s) => placeOfFrame(after, frameOfPosition(before, s)));
  return mapClips(changed, (clip) =>
    clip.sourceId === sourceId
      ? { ...clip, map: move(clip.map), versions: clip.versions.map((v) => ({ ...v, map: move(v.map) })) }
      : clip,
  );
}

/** Moves a map's source positions and keeps the slopes of its reaches: time closes up, or opens, with them. */
function closedMap(map: TimeMap, move: (s: number) => number): TimeMap {
  const { vertices } = map;
  let t = 0;
  const moved = vertices.map((v, i) => {
    const s = move(v.s);
    const before = vertices[i - 1];
    if (before) {
      const [way, run] = [v.s - before.s, v.t - before.t];
      t += Math.max(MIN_VERTEX_FRAMES, way === 0 ? run : (run * (s - move(before.s))) / way);
    }
    return { t, s };
  });
  return moved.every((v, i) => v.s === vertices[i]!.s) ? map : fittedMap(moved, map.bends);
}

/** Reads a source at another rate: its frames stay, only how fast they are taken to have been shot changes. */
export function setReadAs(project: Project, sourceId: string, readAs: Rate): Project {
  return updateSource(project, sourceId, (source) => ({ ...source, readAs }));
}

/**
 * Reads a clip's source at the reel's rate and plays the clip at 100 % of that, or at −100 %: a clip of one speed then shows each of its
 * source frames once. Other clips of the source go on showing what they show. Throws `InvalidInput` for groups, and for clips that end
 * where they start.
 */
export function conform(project: Project, clipId: string): Project {
  const { sourceId } = allClips(project).find(({ id }) => id === clipId)!;
  if (isGroup(findSource(project, sourceId)))
    throw new InvalidInput('clip', 'a group plays at the reel’s rate already');
  const read = setReadAs(project, sourceId, project.reel.rate);
  return updateClip(read, clipId, (clip) => {
    const { vertices } = clip.map;
    const way = vertices.at(-1)!.s < vertices[0]!.s ? -1 : 1;
    return withMap(clip, setClipSpeed(clip.map, way, clipSlope(read, clip)));
  });
}

/** Ties a moment of a clip's source to a cue; a moment that was tied elsewhere is tied here instead. */
export function tie(project: Project, clipId: string, momentId: string, cueId: string): Project {
  return updateClip(project, clipId, (clip) => ({
    ...clip,
    ties: [...clip.ties.filter((t) => t.momentId !== momentId), { momentId, cueId }],
  }));
}

export function untie(project: Project, clipId: string, momentId: string): Project {
  return updateClip(project, clipId, (clip) => ({ ...clip, ties: clip.ties.filter((t) => t.momentId !== momentId) }));
}

function withoutTies(project: Project, gone: (tie: Tie) => boolean): Project {
  return mapClips(project, (clip) =>
    clip.ties.some(gone) ? { ...clip, ties: clip.ties.filter((t) => !gone(t)) } : clip,
  );
}

function withItems(project: Project, items: Project['reel']['items']): Project {
  return { ...project, reel: { ...project.reel, items } };
}

function withCues(project: Project, cues: readonly Cue[]): Project {
  return { ...project, reel: { ...project.reel, cues: cues.toSorted((a, b) => a.frame - b.frame) } };
}

function findSource(project: Project, sourceId: string): Source {
  const source = project.sources.find((s) => s.id === sourceId);
  if (!source) throw new InvalidInput('source', 'is not in the project any more');
  return source;
}

function updateSource(project: Project, sourceId: string, change: (source: Source) => Source): Project {
  const source = findSource(project, sourceId);
  const changed = change(source);
  return changed === source
    ? project
    : { ...project, sources: project.sources.map((s) => (s === source ? changed : s)) };
}
