import { InvalidInput } from '../errors.js';
import type { Rate } from '../rate/rate.js';
import { plainClip, type Clip, type Cue, type Moment, type Project, type Source, type Tie } from './project.js';

/** Puts footage into the project. Its id must be new. */
export function addSource(project: Project, source: Source): Project {
  if (project.sources.some((s) => s.id === source.id)) throw new InvalidInput('source', `"${source.name}" is in the project already`);
  return { ...project, sources: [...project.sources, source] };
}

/** Takes footage out. Refused while a clip uses it, naming the clip. */
export function removeSource(project: Project, sourceId: string): Project {
  const user = project.reel.items.find((item) => item.kind === 'clip' && item.sourceId === sourceId);
  if (user?.kind === 'clip') throw new InvalidInput('source', `the clip "${user.name}" still uses it; take that off the reel first`);
  return { ...project, sources: project.sources.filter((s) => s.id !== sourceId) };
}

/** Appends a clip that plays the whole source at 100 %. */
export function appendClip(project: Project, clipId: string, sourceId: string): Project {
  const source = findSource(project, sourceId);
  return { ...project, reel: { ...project.reel, items: [...project.reel.items, plainClip(clipId, source, project.reel.rate)] } };
}

export function removeItem(project: Project, itemId: string): Project {
  return { ...project, reel: { ...project.reel, items: project.reel.items.filter((i) => i.id !== itemId) } };
}

/** Replaces a clip by what `change` makes of it. */
export function updateClip(project: Project, clipId: string, change: (clip: Clip) => Clip): Project {
  if (!project.reel.items.some((i) => i.kind === 'clip' && i.id === clipId)) throw new InvalidInput('clip', 'is not on the reel any more');
  const items = project.reel.items.map((item) => (item.kind === 'clip' && item.id === clipId ? change(item) : item));
  return { ...project, reel: { ...project.reel, items } };
}

/** Marks a moment. A frame that carries one already keeps it. */
export function addMoment(project: Project, sourceId: string, moment: Moment): Project {
  return updateSource(project, sourceId, (source) => {
    if (!Number.isInteger(moment.frame) || moment.frame < 0 || moment.frame >= source.frames)
      throw new InvalidInput('moment', `frame ${moment.frame} is not in "${source.name}", which has frames 0 to ${source.frames - 1}`);
    if (source.moments.some((m) => m.frame === moment.frame)) return source;
    return { ...source, moments: [...source.moments, moment].sort((a, b) => a.frame - b.frame) };
  });
}

export function updateMoment(project: Project, sourceId: string, momentId: string, change: Partial<Omit<Moment, 'id'>>): Project {
  return updateSource(project, sourceId, (source) => ({
    ...source,
    moments: source.moments.map((m) => (m.id === momentId ? { ...m, ...change } : m)).sort((a, b) => a.frame - b.frame),
  }));
}

/** Takes a moment out, and the ties that name it. */
export function removeMoment(project: Project, sourceId: string, momentId: string): Project {
  return updateSource(
    withoutTies(project, (tie) => tie.momentId === momentId),
    sourceId,
    (source) => ({ ...source, moments: source.moments.filter((m) => m.id !== momentId) }),
  );
}

/** Sets a cue on the reel. A time that carries one already keeps it. */
export function addCue(project: Project, cue: Cue): Project {
  if (!Number.isFinite(cue.frame) || cue.frame < 0) throw new InvalidInput('cue', `${cue.frame} is not a time on the reel`);
  if (project.reel.cues.some((c) => c.frame === cue.frame)) return project;
  return withCues(project, [...project.reel.cues, cue]);
}

export function updateCue(project: Project, cueId: string, change: Partial<Omit<Cue, 'id'>>): Project {
  return withCues(
    project,
    project.reel.cues.map((c) => (c.id === cueId ? { ...c, ...change } : c)),
  );
}

/** Takes a cue out, and the ties that name it. */
export function removeCue(project: Project, cueId: string): Project {
  return withCues(
    withoutTies(project, (tie) => tie.cueId === cueId),
    project.reel.cues.filter((c) => c.id !== cueId),
  );
}

/** Reads a source at another rate: its frames stay, only how fast they are taken to have been shot changes. */
export function setReadAs(project: Project, sourceId: string, readAs: Rate): Project {
  return updateSource(project, sourceId, (source) => ({ ...source, readAs }));
}

/** Ties a moment of a clip's source to a cue; a moment that was tied elsewhere is tied here instead. */
export function tie(project: Project, clipId: string, momentId: string, cueId: string): Project {
  return updateClip(project, clipId, (clip) => ({ ...clip, ties: [...clip.ties.filter((t) => t.momentId !== momentId), { momentId, cueId }] }));
}

export function untie(project: Project, clipId: string, momentId: string): Project {
  return updateClip(project, clipId, (clip) => ({ ...clip, ties: clip.ties.filter((t) => t.momentId !== momentId) }));
}

function withoutTies(project: Project, gone: (tie: Tie) => boolean): Project {
  const items = project.reel.items.map((item) => (item.kind === 'clip' && item.ties.some(gone) ? { ...item, ties: item.ties.filter((t) => !gone(t)) } : item));
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
  return changed === source ? project : { ...project, sources: project.sources.map((s) => (s === source ? changed : s)) };
}
