import { InvalidInput } from '../foundation/errors.js';
import type { Clip } from '../model/clip.js';
import { type Group, isGroup, type Source, sourcesInside } from '../model/group.js';
import { checkDepth, type Project } from '../model/project.js';
import { sourceOf } from '../reel/clips.js';
import { sameRate } from '../time/rate.js';

export function groupOf(project: Project, sourceId: string): Group {
  const source = project.sources.find(({ id }) => id === sourceId);
  if (!source || !isGroup(source)) throw new InvalidInput('group', 'is not in the project any more');
  return source;
}

/** Projects are values: a group that was opened once is the same one again. */
const opened = new WeakMap<Project, Map<string, Project>>();

/**
 * The project seen from inside a group: its reel is the group's own, with the group's items and cues and no sounds, so that every
 * edit and every question works there as on the reel. `withInside` puts an edited one back.
 */
export function insideGroup(project: Project, sourceId: string): Project {
  const views = opened.get(project) ?? new Map<string, Project>();
  opened.set(project, views);
  let view = views.get(sourceId);
  if (!view) {
    const { items, cues, joins } = groupOf(project, sourceId).content;
    view = { ...project, reel: { ...project.reel, items, cues, joins, accents: [], sounds: [], range: null } };
    views.set(sourceId, view);
  }
  return view;
}

/** The project with a group as it was edited inside. Throws `InvalidInput` for what only the whole reel can have. */
export function withInside(project: Project, sourceId: string, view: Project): Project {
  const { items, cues, joins, accents, sounds, ...reel } = view.reel;
  if (!sameRate(reel.rate, project.reel.rate))
    throw new InvalidInput('rate', 'belongs to the whole reel; close the group first');
  if (sounds.length > 0) throw new InvalidInput('sound', 'lies under the whole reel; close the group first');
  if (accents.length > 0) throw new InvalidInput('accents', 'lie on the whole reel; close the group first');
  const sources = view.sources.map((source) =>
    source.id === sourceId ? { ...source, content: { items, cues, joins } } : source,
  );
  const {
    items: outside,
    cues: outsideCues,
    joins: outsideJoins,
    accents: outsideAccents,
    sounds: heard,
    range,
  } = project.reel;
  const whole = {
    ...view,
    reel: {
      ...reel,
      items: outside,
      cues: outsideCues,
      joins: outsideJoins,
      accents: outsideAccents,
      sounds: heard,
      range,
    },
    sources,
  };
  checkDepth(whole);
  return whole;
}

/** Everything a clip is of: its source and, of a group, all that is inside, the clip's own first. */
function sourcesOf(project: Project, clip: Clip): Source[] {
  const found = new Map<string, Source>();
  const visit = (source: Source) => {
    if (found.has(source.id)) return;
    found.set(source.id, source);
    for (const id of sourcesInside(source)) {
      const inner = project.sources.find((s) => s.id === id);
      if (inner) visit(inner);
    }
  };
  visit(sourceOf(project, clip));
  return [...found.values()];
}

/** The footage a clip shows. */
export const footageOf = (project: Project, clip: Clip): Source[] =>
  sourcesOf(project, clip).filter((source) => !isGroup(source));

/** The footage that is on the reel, also where it is inside groups. */
export function footageOnReel(project: Project): Set<string> {
  return new Set(
    project.reel.items.flatMap((item) => (item.kind === 'clip' ? footageOf(project, item).map(({ id }) => id) : [])),
  );
}

/** The project with what some of its clips need and nothing else. */
export function excerptOf(project: Project, clips: readonly Clip[]): Project {
  const joins = project.reel.joins.filter(({ before, after }) => clips.some(({ id }) => id === before || id === after));
  const sources = new Map(clips.flatMap((clip) => sourcesOf(project, clip)).map((source) => [source.id, source]));
  return {
    ...project,
    reel: { ...project.reel, items: clips, cues: [], joins, accents: [], sounds: [], range: null },
    sources: [...sources.values()],
  };
}
