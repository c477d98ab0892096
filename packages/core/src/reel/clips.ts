import { stepOf } from '../cadence/cadence.js';
import { byId } from '../foundation/by-id.js';
import { OWN_SOUND } from '../model/clip-sound.js';
import type { Clip, ReelItem } from '../model/clip.js';
import type { Source } from '../model/group.js';
import type { Project } from '../model/project.js';
import { usableFrames } from '../sampling/dropped-repeats.js';
import { constantClip, constantMap } from '../time-map/constant-speed.js';
import type { TimeMap } from '../time-map/time-map.js';
import { naturalSlope, type Rate } from '../time/rate.js';
import { rational } from '../time/rational.js';

/** A clip that plays source frames first to last, both included, at 100 %; the whole source by default. */
export function plainClip(
  id: string,
  source: Source,
  reelRate: Rate,
  first = 0,
  last = usableFrames(source) - 1,
): Clip {
  const map = plainMap(source, reelRate, first, last);
  const asReel = { method: null, tuning: null, reachMethods: [], mends: [] };
  return {
    kind: 'clip',
    id,
    name: source.name,
    sourceId: source.id,
    map,
    ...asReel,
    end: 'hold',
    ties: [],
    locks: [],
    limits: null,
    versions: [],
    pin: null,
    fills: false,
    framing: null,
    blur: null,
    steady: null,
    sound: OWN_SOUND,
  };
}

/** A name no clip of the reel has: as given, else with the next free number after it. */
export function freeName({ reel }: Project, name: string): string {
  const taken = new Set(reel.items.map((item) => (item.kind === 'clip' ? item.name : '')));
  if (!taken.has(name)) return name;
  // "bell 2" once more is "bell 3"; "take 2" that is a name of its own becomes "take 2 2".
  const before = name.replace(/ \d{1,4}$/, '');
  const stem = taken.has(before) ? before : name;
  let number = 2;
  while (taken.has(`${stem} ${number}`)) number++;
  return `${stem} ${number}`;
}

export function plainMap(source: Source, reelRate: Rate, first: number, last: number): TimeMap {
  return constantMap(
    constantClip({ first, last, frames: usableFrames(source) }, stepOf(rational(1n, 1n), source.readAs, reelRate)),
  );
}

export function sourceOf(project: Project, clip: Clip): Source {
  const source = byId(project.sources).get(clip.sourceId);
  if (!source) throw new RangeError(`clip ${clip.id} uses source ${clip.sourceId}, which the project does not have`);
  return source;
}

/** Changes every clip, those inside groups too. */
export function mapClips(project: Project, change: (clip: Clip) => Clip): Project {
  const each = (items: readonly ReelItem[]): readonly ReelItem[] => {
    const changed = items.map((item) => (item.kind === 'clip' ? change(item) : item));
    return changed.every((item, i) => item === items[i]) ? items : changed;
  };
  const items = each(project.reel.items);
  const sources = project.sources.map((source) => {
    const inside = source.content && each(source.content.items);
    return !inside || inside === source.content.items
      ? source
      : { ...source, content: { ...source.content, items: inside } };
  });
  return {
    ...project,
    reel: items === project.reel.items ? project.reel : { ...project.reel, items },
    sources: sources.every((source, i) => source === project.sources[i]) ? project.sources : sources,
  };
}

/** Every clip of the project, those inside groups too. */
export const allClips = ({ reel, sources }: Project): Clip[] =>
  [reel.items, ...sources.flatMap(({ content }) => (content ? [content.items] : []))]
    .flat()
    .filter((item) => item.kind === 'clip');

export function clipSlope(project: Project, clip: Clip): number {
  return naturalSlope(sourceOf(project, clip).readAs, project.reel.rate);
}
