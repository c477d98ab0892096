import { MEND_WAYS, type Mend } from '../clip/making.js';
import { END_CHOICES, METHODS } from '../clip/sampling.js';
import type { FlowTemper } from '../clip/temper.js';
import { InvalidInput } from '../errors.js';
import { mapDuration } from '../time-map/time-map.js';
import { framesPerSecond, rate, type Rate } from '../rate/rate.js';
import {
  PROJECT_VERSION,
  type Bound,
  type ClipVersion,
  type Cue,
  type Moment,
  type Project,
  type ReachMethod,
  type ReelItem,
  type Sound,
  type SoundPlace,
  type Source,
  type SpeedLimits,
  type Stretch,
  type Tie,
} from './project.js';
import type { Skips } from '../repeats/skip.js';
import { readSpace, type ColourSpace } from '../colour/colour-space.js';
import { readMap } from './read-map.js';
import { readJoins } from '../join/read-join.js';
import type { BeatGrid } from '../beats/grid.js';
import { checkCeiling, checkSound } from './sounds.js';
import { checkDepth } from '../group/inside.js';
import { readSteady } from '../steady/steady.js';
import { readAccents } from '../accent/read-accents.js';
import { readClipSound } from '../warp/clip-sound.js';
import { readBlur } from '../blur/blur.js';
import { checkFraming, FITS, type Framing } from '../framing/framing.js';
import { migrate } from './migrate.js';
import { array, boolean, finite, object, oneOf, onlyFields, readId, string, unique, whole } from './read.js';

/** Reads a project document that came from outside, of any version. Throws `InvalidInput` naming the place. */
export function parseProject(value: unknown): Project {
  const raw = object(value, 'project');
  if (raw['format'] !== 'idle-bend-project') throw new InvalidInput('project, format', 'is not an Idle Bend project');
  const document = migrate(raw);
  onlyFields(document, ['format', 'version', 'reel', 'sources'], 'project');
  const unbound = array(document['sources'], 'sources', 10_000).map((s, i) => readSource(s, `sources[${i}]`));
  unique(unbound, 'sources');
  // A group's clips are of other sources, which have to be known first.
  const sources = unbound.map(({ bound, ...source }, i) =>
    bound === undefined ? source : { ...source, bound: readBound(bound, `sources[${i}].bound`, unbound) },
  );
  const reel = object(document['reel'], 'reel');
  onlyFields(
    reel,
    [
      'rate',
      'width',
      'height',
      'colour',
      'method',
      'temper',
      'blur',
      'items',
      'cues',
      'sounds',
      'ceiling',
      'accents',
      'joins',
      'range',
    ],
    'reel',
  );
  const sounds = array(reel['sounds'], 'reel.sounds', 1000).map((sound, i) => readSound(sound, `reel.sounds[${i}]`));
  unique(sounds, 'reel.sounds');
  const cues = array(reel['cues'], 'reel.cues', 1_000_000).map((c, i) => readCue(c, `reel.cues[${i}]`, sounds));
  unique(cues, 'reel.cues');
  const items = array(reel['items'], 'reel.items', 100_000).map((item, i) =>
    readItem(item, `reel.items[${i}]`, sources, cues),
  );
  unique(items, 'reel.items');
  const project: Project = {
    format: 'idle-bend-project',
    version: PROJECT_VERSION,
    reel: {
      rate: readRate(reel['rate'], 'reel.rate'),
      width: whole(reel['width'], 'reel.width', 2, 16384),
      height: whole(reel['height'], 'reel.height', 2, 16384),
      colour: reel['colour'] === null ? null : readColour(reel['colour'], 'reel.colour'),
      method: oneOf(reel['method'], METHODS, 'reel.method'),
      temper: readTemper(reel['temper'], 'reel.temper'),
      blur: readBlur(reel['blur'], 'reel.blur'),
      items,
      cues,
      sounds,
      ceiling: reel['ceiling'] === null ? null : checkCeiling(finite(reel['ceiling'], 'reel.ceiling'), 'reel.ceiling'),
      accents: readAccents(reel['accents'], 'reel.accents'),
      joins: readJoins(reel['joins'], 'reel.joins', items),
      range: reel['range'] === null ? null : readStretch(reel['range'], 'reel.range'),
    },
    sources,
  };
  checkDepth(project, 'sources');
  checkLength(project);
  return project;
}

/** No reel, and no group, lasts longer: everything that goes over its frames ends. */
const LONGEST_SECONDS = 24 * 3600;

/** By arithmetic alone: what is too long must not be gone over to find that out. */
function checkLength(project: Project): void {
  const most = Math.ceil(LONGEST_SECONDS * framesPerSecond(project.reel.rate));
  const check = (items: readonly ReelItem[], field: string) => {
    const frames = items.reduce((sum, item) => sum + (item.kind === 'gap' ? item.frames : mapDuration(item.map)), 0);
    if (!(frames <= most))
      throw new InvalidInput(
        field,
        `last ${Math.round(frames)} frames; a reel lasts ${most} at most, which are 24 hours`,
      );
  };
  check(project.reel.items, 'reel.items');
  project.sources.forEach(({ bound }, i) => bound && check(bound.items, `sources[${i}].bound.items`));
  const late = project.reel.cues.findIndex(
    (cue) => project.reel.items.some((item) => item.kind === 'clip' && item.pin === cue.id) && cue.frame > most,
  );
  if (late >= 0)
    throw new InvalidInput(`reel.cues[${late}].frame`, `a cut is pinned there; a reel lasts ${most} frames at most`);
}

function readColour(value: unknown, field: string): ColourSpace {
  const space = object(value, field);
  onlyFields(space, ['matrix', 'primaries', 'transfer', 'range'], field);
  return readSpace(space, field);
}

function readStretch(value: unknown, field: string): Stretch {
  const stretch = object(value, field);
  onlyFields(stretch, ['from', 'to'], field);
  const from = whole(stretch['from'], `${field}.from`);
  return { from, to: whole(stretch['to'], `${field}.to`, from + 1) };
}

function readBound(value: unknown, field: string, sources: readonly KnownSource[]): Bound {
  const bound = object(value, field);
  onlyFields(bound, ['items', 'cues', 'joins'], field);
  const cues = array(bound['cues'], `${field}.cues`).map((c, i) => readCue(c, `${field}.cues[${i}]`, []));
  unique(cues, `${field}.cues`);
  const items = array(bound['items'], `${field}.items`, 100_000).map((item, i) =>
    readItem(item, `${field}.items[${i}]`, sources, cues),
  );
  unique(items, `${field}.items`);
  return { items, cues, joins: readJoins(bound['joins'], `${field}.joins`, items) };
}

/** A moment of a group is named by the clips and the moment it comes from, with dots between. */
function readMomentId(value: unknown, field: string): string {
  const id = string(value, field, 2000);
  if (!/^[\w-]+(\.[\w-]+)*$/.test(id))
    throw new InvalidInput(field, 'must be made of letters, digits, _, - and dots between');
  return id;
}

function readRate(value: unknown, field: string): Rate {
  const r = object(value, field);
  return rate(whole(r['num'], `${field}.num`), whole(r['den'], `${field}.den`), field);
}

type KnownSource = Omit<Source, 'bound'>;

/** A source, what is bound in it as it was found. */
function readSource(value: unknown, field: string): KnownSource & { readonly bound?: unknown } {
  const s = object(value, field);
  onlyFields(s, ['id', 'name', 'frames', 'nativeRate', 'readAs', 'moments', 'skips', 'bound'], field);
  const frames = whole(s['frames'], `${field}.frames`, 1);
  const isGroup = s['bound'] !== undefined;
  const moments = array(s['moments'], `${field}.moments`).map((m, i) =>
    readMoment(m, `${field}.moments[${i}]`, frames, isGroup),
  );
  unique(moments, `${field}.moments`);
  return {
    id: readId(s['id'], `${field}.id`),
    name: string(s['name'], `${field}.name`),
    frames,
    nativeRate: readRate(s['nativeRate'], `${field}.nativeRate`),
    readAs: readRate(s['readAs'], `${field}.readAs`),
    moments,
    skips: s['skips'] === null ? null : readSkips(s['skips'], `${field}.skips`, frames),
    ...(isGroup && { bound: s['bound'] }),
  };
}

function readSkips(value: unknown, field: string, frames: number): Skips {
  const skips = object(value, field);
  onlyFields(skips, ['mode', 'repeats'], field);
  const repeats = array(skips['repeats'], `${field}.repeats`, frames).map((n, i) =>
    whole(n, `${field}.repeats[${i}]`, 1, frames - 1),
  );
  const unordered = repeats.findIndex((n, i) => i > 0 && n <= repeats[i - 1]!);
  if (unordered >= 0)
    throw new InvalidInput(`${field}.repeats[${unordered}]`, 'must be greater than the one before it');
  return { mode: oneOf(skips['mode'], ['keep', 'close'] as const, `${field}.mode`), repeats };
}

/** Of footage a moment is one of its frames; of a group it is any time of it. */
function readMoment(value: unknown, field: string, frames: number, ofGroup: boolean): Moment {
  const m = object(value, field);
  onlyFields(m, ['id', 'frame', 'name'], field);
  const frame = ofGroup ? finite(m['frame'], `${field}.frame`) : whole(m['frame'], `${field}.frame`, 0, frames - 1);
  if (!(frame >= 0 && frame <= frames - 1)) throw new InvalidInput(`${field}.frame`, `must lie in 0 to ${frames - 1}`);
  return { id: readMomentId(m['id'], `${field}.id`), frame, name: string(m['name'], `${field}.name`, 1000) };
}

function readCue(value: unknown, field: string, sounds: readonly Sound[]): Cue {
  const c = object(value, field);
  onlyFields(c, ['id', 'frame', 'name', 'beat'], field);
  const frame = finite(c['frame'], `${field}.frame`);
  const beat = c['beat'] === null ? null : readPlace(c['beat'], `${field}.beat`, sounds);
  // Dragged before the reel's beginning, a sound takes its cues along.
  if (frame < 0 && !beat) throw new InvalidInput(`${field}.frame`, 'must be 0 or more');
  return { id: readId(c['id'], `${field}.id`), frame, name: string(c['name'], `${field}.name`), beat };
}

function readPlace(value: unknown, field: string, sounds: readonly Sound[]): SoundPlace {
  const place = object(value, field);
  onlyFields(place, ['soundId', 'second'], field);
  const soundId = readId(place['soundId'], `${field}.soundId`);
  if (!sounds.some((s) => s.id === soundId))
    throw new InvalidInput(`${field}.soundId`, `"${soundId}" is not a sound of the reel`);
  return { soundId, second: finite(place['second'], `${field}.second`) };
}

function readSound(value: unknown, field: string): Sound {
  const s = object(value, field);
  onlyFields(s, ['id', 'footageId', 'name', 'start', 'from', 'to', 'gain', 'fadeIn', 'fadeOut', 'beats'], field);
  const number = (name: string) => finite(s[name], `${field}.${name}`);
  const sound: Sound = {
    id: readId(s['id'], `${field}.id`),
    footageId: readId(s['footageId'], `${field}.footageId`),
    name: string(s['name'], `${field}.name`),
    start: number('start'),
    from: number('from'),
    to: number('to'),
    gain: number('gain'),
    fadeIn: number('fadeIn'),
    fadeOut: number('fadeOut'),
    beats: s['beats'] === null ? null : readBeatGrid(s['beats'], `${field}.beats`),
  };
  checkSound(sound, field);
  return sound;
}

function readBeatGrid(value: unknown, field: string): BeatGrid {
  const grid = object(value, field);
  onlyFields(grid, ['times', 'bar'], field);
  const times = array(grid['times'], `${field}.times`, 1_000_000).map((t, i) => finite(t, `${field}.times[${i}]`));
  const unordered = times.findIndex((t, i) => i > 0 && t <= times[i - 1]!);
  if (unordered >= 0) throw new InvalidInput(`${field}.times[${unordered}]`, 'must be later than the beat before it');
  const bar = object(grid['bar'], `${field}.bar`);
  onlyFields(bar, ['beats', 'first'], `${field}.bar`);
  const beats = whole(bar['beats'], `${field}.bar.beats`, 1, 64);
  return { times, bar: { beats, first: whole(bar['first'], `${field}.bar.first`, 0, beats - 1) } };
}

function readItem(value: unknown, field: string, sources: readonly KnownSource[], cues: readonly Cue[]): ReelItem {
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
      'temper',
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
    temper: item['temper'] === null ? null : readTemper(item['temper'], `${field}.temper`),
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

function readFraming(value: unknown, field: string): Framing {
  const f = object(value, field);
  onlyFields(f, ['fit', 'scale', 'x', 'y'], field);
  const number = (name: string) => finite(f[name], `${field}.${name}`);
  const framing = {
    fit: oneOf(f['fit'], FITS, `${field}.fit`),
    scale: number('scale'),
    x: number('x'),
    y: number('y'),
  };
  checkFraming(framing, field);
  return framing;
}

function readPin(value: unknown, field: string, cues: readonly Cue[]): string {
  const id = readId(value, field);
  if (!cues.some((c) => c.id === id)) throw new InvalidInput(field, `"${id}" is not a cue of the reel`);
  return id;
}

export function readTemper(value: unknown, field: string): FlowTemper {
  const temper = object(value, field);
  onlyFields(temper, ['trust', 'keenness'], field);
  const [trust, keenness] = [
    finite(temper['trust'], `${field}.trust`),
    finite(temper['keenness'], `${field}.keenness`),
  ];
  if (!(trust >= 0 && trust <= 1)) throw new InvalidInput(`${field}.trust`, 'must lie in 0 to 1');
  if (!(keenness >= -1 && keenness <= 1)) throw new InvalidInput(`${field}.keenness`, 'must lie in −1 to 1');
  return { trust, keenness };
}

function readReachMethods(value: unknown, field: string, reaches: number): ReachMethod[] {
  const entries = array(value, field, reaches).map((entry, i) => {
    const at = `${field}[${i}]`;
    const one = object(entry, at);
    onlyFields(one, ['reach', 'method'], at);
    return {
      reach: whole(one['reach'], `${at}.reach`, 0, reaches - 1),
      method: oneOf(one['method'], METHODS, `${at}.method`),
    };
  });
  const unordered = entries.findIndex(({ reach }, i) => i > 0 && reach <= entries[i - 1]!.reach);
  if (unordered >= 0) throw new InvalidInput(`${field}[${unordered}].reach`, 'must be greater than the one before it');
  return entries;
}

function readMends(value: unknown, field: string, frames: number): Mend[] {
  const mends = array(value, field, 10_000).map((entry, i) => {
    const at = `${field}[${i}]`;
    const mend = object(entry, at);
    onlyFields(mend, ['id', 'from', 'to', 'way', 'soft'], at);
    const [from, to, soft] = (['from', 'to', 'soft'] as const).map((name) => finite(mend[name], `${at}.${name}`)) as [
      number,
      number,
      number,
    ];
    if (!(from >= 0 && to > from && to <= frames))
      throw new InvalidInput(at, `must be a stretch of the source, which has frames 0 to ${frames - 1}`);
    if (!(soft >= 0 && soft <= 1000)) throw new InvalidInput(`${at}.soft`, 'must lie in 0 to 1000');
    return { id: readId(mend['id'], `${at}.id`), from, to, way: oneOf(mend['way'], MEND_WAYS, `${at}.way`), soft };
  });
  unique(mends, field);
  return mends;
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

function readTies(value: unknown, field: string, source: KnownSource, cues: readonly Cue[]): Tie[] {
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
