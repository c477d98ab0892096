import type { EndChoice, Method } from '../clip/sampling.js';
import type { Making, Mend } from '../clip/making.js';
import { EVEN_TEMPER, type FlowTemper } from '../clip/temper.js';
import { clipFrameCount } from '../clip/clip-frames.js';
import { constantClip, constantMap } from '../clip/constant-speed.js';
import { stepOf } from '../cadence/cadence.js';
import { rational } from '../rate/rational.js';
import { naturalSlope, type Rate } from '../rate/rate.js';
import { usableFrames, type Skips } from '../repeats/skip.js';
import type { TimeMap } from '../time-map/time-map.js';
import type { BeatGrid } from '../beats/grid.js';
import type { ColourSpace } from '../colour/colour-space.js';
import type { Framing } from '../framing/framing.js';
import type { Steady } from '../steady/steady.js';
import type { AccentSet } from '../accent/accent.js';
import { OWN_SOUND, type ClipSound } from '../warp/clip-sound.js';
import { NO_BLUR, type Blur } from '../blur/blur.js';
import type { Join } from '../join/join-choice.js';

/** The version of the document this code writes; older ones are migrated when read. */
export const PROJECT_VERSION = 8;

/** A source frame the editor cares about; `frame` counts native source frames. */
export interface Moment {
  readonly id: string;
  readonly frame: number;
  readonly name: string;
}

/** A time on the reel to be met, in timeline frames (a real number). */
export interface Cue {
  readonly id: string;
  readonly frame: number;
  readonly name: string;
  /** Where it belongs to a sound it moves with it: `frame` then follows. */
  readonly beat: SoundPlace | null;
}

/** A place in a sound of the reel, in seconds from the file's beginning. */
export interface SoundPlace {
  readonly soundId: string;
  readonly second: number;
}

/** Music or an effect, laid under the picture. Its media is the server's footage `footageId`. Times are seconds. */
export interface Sound {
  readonly id: string;
  readonly footageId: string;
  readonly name: string;
  /** Where on the reel `from` is heard; what comes before the reel's beginning is not. */
  readonly start: number;
  /** The part of the file that is heard. */
  readonly from: number;
  readonly to: number;
  /** Decibels. */
  readonly gain: number;
  readonly fadeIn: number;
  readonly fadeOut: number;
  /** What was heard in it, as the editor has put it right; none before it was listened to. */
  readonly beats: BeatGrid | null;
}

/** Items bound into one: a small reel with times of its own. */
export interface Bound {
  readonly items: readonly ReelItem[];
  readonly cues: readonly Cue[];
  readonly joins: readonly Join[];
}

/**
 * What a clip is of. Footage, as a rule: the media itself is the server's, under the same id. Or items bound into a group: then its
 * frames are those of the bound reel, its rate is the reel's, and its moments are those of the clips inside, where they show.
 */
export interface Source {
  readonly id: string;
  readonly name: string;
  readonly frames: number;
  readonly nativeRate: Rate;
  /** The rate the editor takes it to have; only k₀ depends on it. */
  readonly readAs: Rate;
  readonly moments: readonly Moment[];
  /** Repeated frames that are left out; none are when there is no such choice. */
  readonly skips: Skips | null;
  /** Only a group has it. */
  readonly bound?: Bound;
}

/** A moment of a clip's source tied to a cue of the reel: the clip is to show that very frame there. */
export interface Tie {
  readonly momentId: string;
  readonly cueId: string;
}

/** Another curve for a clip, kept under a name. */
export interface ClipVersion {
  readonly id: string;
  readonly name: string;
  readonly map: TimeMap;
}

/** The speeds a landing may use, as magnitudes (1 = 100 %). Freezes are exempt. */
export interface SpeedLimits {
  readonly slowest: number;
  readonly fastest: number;
}

/** A reach whose in-betweens are made another way than the clip's. */
export interface ReachMethod {
  readonly reach: number;
  readonly method: Method;
}

export interface Clip {
  readonly kind: 'clip';
  readonly id: string;
  readonly name: string;
  readonly sourceId: string;
  readonly map: TimeMap;
  /** How in-betweens are made; none: as the reel says. */
  readonly method: Method | null;
  /** How Flow makes them; none: as the reel says. */
  readonly temper: FlowTemper | null;
  /** Reaches that are made another way, by index, increasing. */
  readonly reachMethods: readonly ReachMethod[];
  /** Stretches of the source that are made another way. */
  readonly mends: readonly Mend[];
  readonly end: EndChoice;
  /** At most one for each moment. */
  readonly ties: readonly Tie[];
  /** Reaches whose speed a landing leaves alone, by index, increasing. */
  readonly locks: readonly number[];
  readonly limits: SpeedLimits | null;
  readonly versions: readonly ClipVersion[];
  /** The cue its first frame stays on: then what comes before it gives. */
  readonly pin: string | null;
  /** Its speed follows the room it has, so that it fills that exactly. */
  readonly fills: boolean;
  /** How its picture lies in the reel's; without one it is fitted in. */
  readonly framing: Framing | null;
  /** Its motion blur; none: as the reel says. */
  readonly blur: Blur | null;
  /** What of it is held steady. */
  readonly steady: Steady | null;
  /** Its own sound, where its source has one. */
  readonly sound: ClipSound;
}

export interface Gap {
  readonly kind: 'gap';
  readonly id: string;
  readonly frames: number;
}

export type ReelItem = Clip | Gap;

export interface Reel {
  readonly rate: Rate;
  readonly width: number;
  readonly height: number;
  /** What all its pictures are brought into; none: as the first clip's are. */
  readonly colour: ColourSpace | null;
  /** How in-betweens are made where a clip does not say. */
  readonly method: Method;
  readonly temper: FlowTemper;
  /** Motion blur where a clip does not say. */
  readonly blur: Blur;
  readonly items: readonly ReelItem[];
  readonly cues: readonly Cue[];
  readonly sounds: readonly Sound[];
  /** The highest true peak the whole may have, dBTP; none: it is not held down. */
  readonly ceiling: number | null;
  /** Flashes, punches and the like, where the music or the cuts are. */
  readonly accents: readonly AccentSet[];
  /** Neighbouring clips that race into each other. */
  readonly joins: readonly Join[];
  /** The stretch that is played round and can be rendered alone: from its first frame to the one past its last. */
  readonly range: Stretch | null;
}

/** Timeline frames from … to − 1, whole numbers. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

/** A whole edit, as a value: an edit makes a new one, undo is keeping the old. */
export interface Project {
  readonly format: 'idle-bend-project';
  readonly version: typeof PROJECT_VERSION;
  readonly reel: Reel;
  readonly sources: readonly Source[];
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
      temper: EVEN_TEMPER,
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

/** A clip that plays source frames first to last, both included, at 100 %; the whole source by default. */
export function plainClip(
  id: string,
  source: Source,
  reelRate: Rate,
  first = 0,
  last = usableFrames(source) - 1,
): Clip {
  const map = plainMap(source, reelRate, first, last);
  const asReel = { method: null, temper: null, reachMethods: [], mends: [] };
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

export function plainMap(source: Source, reelRate: Rate, first: number, last: number): TimeMap {
  return constantMap(
    constantClip({ first, last, frames: usableFrames(source) }, stepOf(rational(1n, 1n), source.readAs, reelRate)),
  );
}

export function sourceOf(project: Project, clip: Clip): Source {
  const source = project.sources.find((s) => s.id === clip.sourceId);
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
    const inside = source.bound && each(source.bound.items);
    return !inside || inside === source.bound!.items
      ? source
      : { ...source, bound: { ...source.bound!, items: inside } };
  });
  return {
    ...project,
    reel: items === project.reel.items ? project.reel : { ...project.reel, items },
    sources: sources.every((source, i) => source === project.sources[i]) ? project.sources : sources,
  };
}

/** Every clip of the project, those inside groups too. */
export const allClips = ({ reel, sources }: Project): Clip[] =>
  [reel.items, ...sources.flatMap(({ bound }) => (bound ? [bound.items] : []))]
    .flat()
    .filter((item) => item.kind === 'clip');

export function clipSlope(project: Project, clip: Clip): number {
  return naturalSlope(sourceOf(project, clip).readAs, project.reel.rate);
}

/** How the group a clip is inside of says its in-betweens are made, where it does. */
export interface MadeAs {
  readonly method?: Method | undefined;
  readonly temper?: FlowTemper | undefined;
  readonly blur?: Blur | undefined;
}

/** The way a clip's in-betweens are made, reaches and mends apart. */
export const methodOf = ({ reel }: Project, clip: Clip, madeAs: MadeAs = {}): Method =>
  clip.method ?? madeAs.method ?? reel.method;

export const temperOf = ({ reel }: Project, clip: Clip, madeAs: MadeAs = {}): FlowTemper =>
  clip.temper ?? madeAs.temper ?? reel.temper;

/** How a clip's in-betweens are made, with everything it says of stretches. */
export function makingOf(project: Project, clip: Clip, madeAs: MadeAs = {}): Making {
  const { vertices } = clip.map;
  const stretches = clip.reachMethods.map(({ reach, method }) => ({
    // The first and the last reach own what lies beyond them too.
    from: reach === 0 ? -Infinity : vertices[reach]!.t,
    to: reach === vertices.length - 2 ? Infinity : vertices[reach + 1]!.t,
    method,
  }));
  return {
    method: methodOf(project, clip, madeAs),
    temper: temperOf(project, clip, madeAs),
    stretches,
    mends: clip.mends,
  };
}

/** The motion blur of a clip at its frame t: of a join where it ramps, else its own, its group's, the reel's. */
export function blurOf({ reel }: Project, clip: Clip, t: number, madeAs: MadeAs = {}): Blur {
  const joined = reel.joins.find((join) => join.blur && inRamp(join, clip, t));
  return joined?.blur ?? clip.blur ?? madeAs.blur ?? reel.blur;
}

const inRamp = ({ before, after, into, outOf }: Join, { id, map }: Clip, t: number): boolean =>
  (before === id && t >= map.vertices.at(-1)!.t - into) || (after === id && t < outOf);

/** Whether any clip may be blurred. */
export const usesBlur = (project: Project): boolean =>
  [
    project.reel.blur,
    ...allClips(project).map(({ blur }) => blur),
    ...project.reel.joins.map(({ blur }) => blur),
    ...project.sources.flatMap(({ bound }) => bound?.joins.map(({ blur }) => blur) ?? []),
  ].some((blur) => blur && blur.kind !== 'none');

/** A reel item with its place: it covers timeline frames start … start+frames−1. */
export interface PlacedItem {
  readonly item: ReelItem;
  readonly start: number;
  readonly frames: number;
}

/** How many frames an item has of itself; before a pinned cut it may get more or fewer. */
export const ownFrames = (project: Project, item: ReelItem): number =>
  item.kind === 'gap' ? item.frames : clipFrameCount(item.map, usableFrames(sourceOf(project, item)));

/** The reel frame an item is pinned to. */
export function pinnedFrame({ reel }: Project, item: ReelItem | undefined): number | undefined {
  const cue = item?.kind === 'clip' && item.pin !== null ? reel.cues.find((c) => c.id === item.pin) : undefined;
  return cue && Math.round(cue.frame);
}

/**
 * The reel's items in order, each starting where the one before ends. What comes before a pinned cut ends there: shorter than it
 * is, or longer, its curve going on as it ended. It keeps one frame at least, so a pin may be missed when there is no room.
 */
export function placeItems(project: Project): readonly PlacedItem[] {
  let places = placed.get(project);
  if (!places) placed.set(project, (places = placeAll(project)));
  return places;
}

/** Projects are values: what was placed once stays there. */
const placed = new WeakMap<Project, readonly PlacedItem[]>();

function placeAll(project: Project): PlacedItem[] {
  const { items } = project.reel;
  let start = 0;
  return items.map((item, i) => {
    const pinned = pinnedFrame(project, items[i + 1]);
    const frames = pinned === undefined ? ownFrames(project, item) : Math.max(1, pinned - start);
    const place = { item, start, frames };
    start += frames;
    return place;
  });
}

export function placeOf(project: Project, itemId: string): PlacedItem | undefined {
  return placeItems(project).find(({ item }) => item.id === itemId);
}

export function reelFrames(project: Project): number {
  return placeItems(project).reduce((sum, p) => sum + p.frames, 0);
}
