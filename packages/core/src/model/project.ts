import { byId } from '../foundation/by-id.js';
import { InvalidInput } from '../foundation/errors.js';
import { array, object, onlyFields, unique } from '../foundation/readers.js';
import { mapDuration } from '../time-map/time-map.js';
import { framesPerSecond, type Rate } from '../time/rate.js';
import { NO_BLUR } from './blur.js';
import type { ReelItem } from './clip.js';
import { readGroupContent, type Source, sourcesInside } from './group.js';
import { DEFAULT_TUNING } from './interpolation.js';
import { migrate, PROJECT_VERSION } from './migrations/migrate.js';
import { readReel, type Reel } from './reel.js';
import { readSource } from './source.js';

/** Groups within groups within groups: deeper than this, nobody finds anything again. */
const MAX_GROUP_DEPTH = 16;

/** No reel, and no group, lasts longer: everything that goes over its frames ends. */
const MAX_SECONDS = 24 * 3600;

/** A whole edit, as a value: an edit makes a new one, undo is keeping the old. */
export interface Project {
  readonly format: 'idle-bend-project';
  readonly version: typeof PROJECT_VERSION;
  readonly reel: Reel;
  readonly sources: readonly Source[];
}

/** Throws `InvalidInput` where a group holds itself, or too many are inside each other. */
export function checkDepth(project: Project, field = 'group'): void {
  const depths = new Map<string, number>();
  const depthOf = (id: string, path: readonly string[]): number => {
    const source = byId(project.sources).get(id);
    if (!source?.content) return 0;
    if (path.includes(id)) throw new InvalidInput(field, `"${source.name}" would hold itself`);
    const known = depths.get(id);
    if (known !== undefined) return known;
    if (path.length >= MAX_GROUP_DEPTH)
      throw new InvalidInput(field, `"${source.name}" lies inside ${MAX_GROUP_DEPTH} others; that is the most`);
    const depth = 1 + Math.max(0, ...sourcesInside(source).map((inner) => depthOf(inner, [...path, id])));
    depths.set(id, depth);
    return depth;
  };
  for (const { id } of project.sources) depthOf(id, []);
}

/** By arithmetic alone: what is too long must not be gone over to find that out. */
function checkLength(project: Project): void {
  const most = Math.ceil(MAX_SECONDS * framesPerSecond(project.reel.rate));
  const check = (items: readonly ReelItem[], field: string) => {
    const frames = items.reduce((sum, item) => sum + (item.kind === 'gap' ? item.frames : mapDuration(item.map)), 0);
    if (!(frames <= most))
      throw new InvalidInput(
        field,
        `last ${Math.round(frames)} frames; a reel lasts ${most} at most, which are 24 hours`,
      );
  };
  check(project.reel.items, 'reel.items');
  project.sources.forEach(({ content }, i) => content && check(content.items, `sources[${i}].content.items`));
  const late = project.reel.cues.findIndex(
    (cue) => project.reel.items.some((item) => item.kind === 'clip' && item.pin === cue.id) && cue.frame > most,
  );
  if (late >= 0)
    throw new InvalidInput(`reel.cues[${late}].frame`, `a cut is pinned there; a reel lasts ${most} frames at most`);
}

export function emptyProject(rate: Rate, width = 1280, height = 720): Project {
  return {
    format: 'idle-bend-project',
    version: PROJECT_VERSION,
    reel: {
      rate,
      width,
      height,
      colour: null,
      method: 'step',
      tuning: DEFAULT_TUNING,
      blur: NO_BLUR,
      items: [],
      cues: [],
      sounds: [],
      ceiling: null,
      accents: [],
      joins: [],
      range: null,
    },
    sources: [],
  };
}

/** Reads a project document that came from outside, of any version. Throws `InvalidInput` naming the place. */
export function parseProject(value: unknown): Project {
  const raw = object(value, 'project');
  if (raw['format'] !== 'idle-bend-project') throw new InvalidInput('project, format', 'is not an Idle Bend project');
  const document = migrate(raw);
  onlyFields(document, ['format', 'version', 'reel', 'sources'], 'project');
  const unread = array(document['sources'], 'sources', 10_000).map((s, i) => readSource(s, `sources[${i}]`));
  unique(unread, 'sources');
  // A group's clips are of other sources, which have to be known first.
  const sources = unread.map(({ content, ...source }, i) =>
    content === undefined ? source : { ...source, content: readGroupContent(content, `sources[${i}].content`, unread) },
  );
  const project: Project = {
    format: 'idle-bend-project',
    version: PROJECT_VERSION,
    reel: readReel(document['reel'], 'reel', sources),
    sources,
  };
  checkDepth(project, 'sources');
  checkLength(project);
  return project;
}
