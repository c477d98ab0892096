import { InvalidInput } from '../foundation/errors.js';
import {
  array,
  boolean,
  finite,
  object,
  oneOf,
  onlyFields,
  readId,
  string,
  unique,
  whole,
} from '../foundation/readers.js';
import { readMap } from '../time-map/read-map.js';
import type { TimeMap } from '../time-map/time-map.js';
import { type Blur, readBlur } from './blur.js';
import { type ClipSound, readClipSound } from './clip-sound.js';
import type { Cue } from './cue.js';
import { type Framing, readFraming } from './framing.js';
import {
  END_CHOICES,
  type EndChoice,
  type FlowTuning,
  type Mend,
  type Method,
  METHODS,
  type ReachMethod,
  readMends,
  readReachMethods,
  readTuning,
} from './interpolation.js';
import { type SourceFacts, readMomentId } from './source.js';
import { readSteady, type Steady } from './steady.js';

/** A moment of a clip's source tied to a cue of the reel: the clip is to show that very frame there. */
export interface Tie {
  readonly momentId: string;
  readonly cueId: string;
}

/** Another curve for a clip, kept under a name. */
interface ClipVersion {
  readonly id: string;
  readonly name: string;
  readonly map: TimeMap;
}

/** The speeds a landing may use, as magnitudes (1 = 100 %). Freezes are exempt. */
export interface SpeedLimits {
  readonly slowest: number;
  readonly fastest: number;
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
  readonly tuning: FlowTuning | null;
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

export function readItem(
  value: unknown,
  field: string,
  sources: readonly SourceFacts[],
  cues: readonly Cue[],
): ReelItem {
  const item = object(value, field);
  const id = readId(item['id'], `${field}.id`);
  if (oneOf(item['kind'], ['clip', 'gap'] as const, `${field}.kind`) === 'gap') {
    onlyFields(item, ['kind', 'id', 'frames'], field);
    return { kind: 'gap', id, frames: whole(item['frames'], `${field}.frames`, 1, 1e9) };
  }
  onlyFields(
    item,
    [
      'kind',
      'id',
      'name',
      'sourceId',
      'map',
      'method',
      'tuning',
      'reachMethods',
      'mends',
      'end',
      'ties',
      'locks',
      'limits',
      'versions',
      'pin',
      'fills',
      'framing',
      'blur',
      'steady',
      'sound',
    ],
    field,
  );
  const sourceId = readId(item['sourceId'], `${field}.sourceId`);
  const source = sources.find((s) => s.id === sourceId);
  if (!source) throw new InvalidInput(`${field}.sourceId`, `"${sourceId}" is not among the sources`);
  const map = readMap(item['map'], `${field}.map`);
  return {
    kind: 'clip',
    id,
    name: string(item['name'], `${field}.name`),
    sourceId,
    map,
    method: item['method'] === null ? null : oneOf(item['method'], METHODS, `${field}.method`),
    tuning: item['tuning'] === null ? null : readTuning(item['tuning'], `${field}.tuning`),
    reachMethods: readReachMethods(item['reachMethods'], `${field}.reachMethods`, map.vertices.length - 1),
    mends: readMends(item['mends'], `${field}.mends`, source.frames),
    end: oneOf(item['end'], END_CHOICES, `${field}.end`),
    ties: readTies(item['ties'], `${field}.ties`, source, cues),
    locks: array(item['locks'], `${field}.locks`).map((n, i) =>
      whole(n, `${field}.locks[${i}]`, 0, map.vertices.length - 2),
    ),
    limits: item['limits'] === null ? null : readLimits(item['limits'], `${field}.limits`),
    versions: readVersions(item['versions'], `${field}.versions`),
    pin: item['pin'] === null ? null : readPin(item['pin'], `${field}.pin`, cues),
    fills: boolean(item['fills'], `${field}.fills`),
    framing: item['framing'] === null ? null : readFraming(item['framing'], `${field}.framing`),
    steady: item['steady'] === null ? null : readSteady(item['steady'], `${field}.steady`, source.frames),
    sound: readClipSound(item['sound'], `${field}.sound`, map.vertices.length - 1),
    blur: item['blur'] === null ? null : readBlur(item['blur'], `${field}.blur`),
  };
}

function readPin(value: unknown, field: string, cues: readonly Cue[]): string {
  const id = readId(value, field);
  if (!cues.some((c) => c.id === id)) throw new InvalidInput(field, `"${id}" is not a cue of the reel`);
  return id;
}

function readLimits(value: unknown, field: string): SpeedLimits {
  const limits = object(value, field);
  onlyFields(limits, ['slowest', 'fastest'], field);
  const [slowest, fastest] = [
    finite(limits['slowest'], `${field}.slowest`),
    finite(limits['fastest'], `${field}.fastest`),
  ];
  if (!(slowest > 0 && fastest >= slowest))
    throw new InvalidInput(field, 'the slowest must be above 0 and not above the fastest');
  return { slowest, fastest };
}

function readVersions(value: unknown, field: string): ClipVersion[] {
  const versions = array(value, field, 1000).map((entry, i) => {
    const at = `${field}[${i}]`;
    const version = object(entry, at);
    onlyFields(version, ['id', 'name', 'map'], at);
    return {
      id: readId(version['id'], `${at}.id`),
      name: string(version['name'], `${at}.name`),
      map: readMap(version['map'], `${at}.map`),
    };
  });
  unique(versions, field);
  return versions;
}

function readTies(value: unknown, field: string, source: SourceFacts, cues: readonly Cue[]): Tie[] {
  const ties = array(value, field, 10_000).map((entry, i) => {
    const at = `${field}[${i}]`;
    const tie = object(entry, at);
    onlyFields(tie, ['momentId', 'cueId'], at);
    const momentId = readMomentId(tie['momentId'], `${at}.momentId`);
    const cueId = readId(tie['cueId'], `${at}.cueId`);
    if (!source.moments.some((m) => m.id === momentId))
      throw new InvalidInput(`${at}.momentId`, `"${momentId}" is not a moment of ${source.name}`);
    if (!cues.some((c) => c.id === cueId)) throw new InvalidInput(`${at}.cueId`, `"${cueId}" is not a cue of the reel`);
    return { momentId, cueId };
  });
  unique(
    ties.map(({ momentId }) => ({ id: momentId })),
    field,
  );
  return ties;
}
