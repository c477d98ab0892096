import { putAccents } from '../accent/edit-accents.js';
import { InvalidInput } from '../foundation/errors.js';
import { array, finite, object, string } from '../foundation/readers.js';
import { MAX_LOOK_FRAMES } from '../look/look.js';
import type { ReelItem } from '../model/clip.js';
import type { Cue } from '../model/cue.js';
import type { Source } from '../model/group.js';
import { emptyProject, parseProject, type Project } from '../model/project.js';
import { placeOf } from '../reel/places.js';
import { framesPerSecond, type Rate, rate as makeRate } from '../time/rate.js';
import { digestOf } from './digest.js';
import { OTIO_NAMESPACE } from './otio.js';
import { bareName, constantSegment, type OfferedFootage, type ImportedTimeline } from './imported-timeline.js';

type Json = Record<string, unknown>;

/**
 * Reads an OpenTimelineIO file. One of ours whose tracks are as they were written is the very project it was made of. Of any other, and of
 * ours after another tool changed it, the first picture track with anything on it is taken: clips with their linear speeds and freezes, gaps,
 * markers of the track and of clips as cues. Media times count from where the media's available range begins. What is nested, disabled or
 * unknown becomes a gap of its length, and is told. Throws `InvalidInput` naming the place.
 */
export function parseOtio(value: unknown, footage: readonly OfferedFootage[]): ImportedTimeline {
  const timeline = object(value, 'timeline');
  if (schemaOf(timeline, 'timeline') !== 'Timeline')
    throw new InvalidInput('timeline.OTIO_SCHEMA', 'is not a timeline');
  const stack = array(object(timeline['tracks'], 'timeline.tracks')['children'], 'timeline.tracks.children', 10_000);
  const own = (timeline['metadata'] as Json | undefined)?.[OTIO_NAMESPACE] as Json | undefined;
  if (own?.['document'] && own['digest'] === digestOf(stack))
    return { project: parseProject(own['document']), losses: [] };
  const losses = own?.['document']
    ? ['Another tool has changed this file, so it is read from its tracks; what they cannot say is not in it any more.']
    : [];
  const tracks = stack.map((track, i) => object(track, `tracks[${i}]`));
  const pictures = tracks.filter(({ kind }) => kind === 'Video');
  if (pictures.length === 0) throw new InvalidInput('timeline.tracks', 'has no picture track');
  const track = pictures.find(({ children }) => Array.isArray(children) && children.length > 0);
  if (!track) throw new InvalidInput('track', 'is empty');
  const field = `tracks[${tracks.indexOf(track)}]`;
  const leftOut = (count: number, kind: string) => {
    if (count > 0) losses.push(`${count} ${kind} track${count === 1 ? ' is' : 's are'} left out.`);
  };
  const isUsed = (each: Json) => (each['children'] as unknown[] | undefined)?.length;
  const sounds = tracks.filter(({ kind }) => kind === 'Audio').length;
  leftOut(pictures.filter((each) => each !== track && isUsed(each)).length, 'other picture');
  leftOut(sounds, 'sound');
  leftOut(tracks.length - pictures.length - sounds, 'other');
  const children = array(track['children'], `${field}.children`, 100_000).map((child, i) =>
    object(child, `${field}.children[${i}]`),
  );
  const rate = rateOf(track, children);
  const reader = new TrackReader(rate, footage, losses);
  children.forEach((child, i) => reader.take(child, `${field}.children[${i}]`));
  reader.mark(track, field, 0, 0, 1);
  const project = reader.project(trackRange(track, field));
  return { project: parseProject(JSON.parse(JSON.stringify(project))), losses };
}

const schemaOf = (one: Json, field: string): string =>
  string(one['OTIO_SCHEMA'], `${field}.OTIO_SCHEMA`).replace(/\.\d+$/, '');

/** A rate as tools write it, 23.976023976 or 23.98: the one in use that it means. */
function rateLike(value: number, field: string): Rate {
  if (!(value >= 1 && value <= 1000)) throw new InvalidInput(field, `${value} is not a rate from 1 to 1000`);
  const whole = Math.round(value);
  if (Math.abs(value - whole) < 1e-6) return makeRate(whole);
  const dropped = Math.round((value * 1001) / 1000);
  if (Math.abs(value - (dropped * 1000) / 1001) < 6e-3) return makeRate(dropped * 1000, 1001);
  return makeRate(Math.round(value * 1000), 1000);
}

/** The rate the track's lengths are in: of its first clip or gap that says one, else of its own range. */
function rateOf(track: Json, children: readonly Json[]): Rate {
  const ranges = [...children, track].flatMap((one) => [one['source_range'], referenceOf(one)['available_range']]);
  for (const range of ranges) {
    const duration = (range as Record<string, Json> | null | undefined)?.['duration'];
    if (duration) return rateLike(finite(duration['rate'], 'track.rate'), 'track.rate');
  }
  throw new InvalidInput('track', 'says no length, so its rate is not known');
}

function referenceOf(clip: Json): Json {
  const references = clip['media_references'] as Json | undefined;
  return (clip['media_reference'] ??
    references?.[String(clip['active_media_reference_key'] ?? 'DEFAULT_MEDIA')] ??
    {}) as Json;
}

function trackRange(track: Json, field: string): { readonly start: number; readonly duration: number } | undefined {
  return track['source_range'] ? rangeOf(track['source_range'], `${field}.source_range`) : undefined;
}

/** Seconds. */
function rangeOf(value: unknown, field: string): { readonly start: number; readonly duration: number } {
  const one = object(value, field);
  return {
    start: timeOf(one['start_time'], `${field}.start_time`),
    duration: timeOf(one['duration'], `${field}.duration`),
  };
}

function timeOf(value: unknown, field: string): number {
  const one = object(value, field);
  const rate = finite(one['rate'], `${field}.rate`);
  if (!(rate > 0)) throw new InvalidInput(`${field}.rate`, 'must be above 0');
  // A rate that is written short means the exact one.
  return (
    finite(one['value'], `${field}.value`) / (rate >= 1 && rate <= 1000 ? framesPerSecond(rateLike(rate, field)) : rate)
  );
}

/** What stands on the track: from one of its seconds on, for so many. */
interface Entry {
  readonly start: number;
  readonly end: number;
  readonly media: Source | undefined;
  readonly name: string;
  /** Seconds of the media at its start, and a second of the track passes so many of them. */
  readonly from: number;
  readonly speed: number;
}

class TrackReader {
  private readonly entries: Entry[] = [];
  private readonly cues: { readonly second: number; readonly name: string }[] = [];
  private readonly sources = new Map<string, Source>();
  /** Frames of the reel before and after the cut into an entry. */
  private readonly dissolves: { readonly entry: number; readonly lead: number; readonly tail: number }[] = [];
  private at = 0;

  constructor(
    private readonly rate: Rate,
    private readonly footage: readonly OfferedFootage[],
    private readonly losses: string[],
  ) {}

  /** What was read; of a track that shows only a part of itself, that part. */
  project(part: { readonly start: number; readonly duration: number } | undefined): Project {
    const [start, end] = part ? [part.start, part.start + part.duration] : [0, this.at];
    const fps = framesPerSecond(this.rate);
    const frame = (second: number) => Math.round((Math.min(end, Math.max(start, second)) - start) * fps);
    const items = this.entries.flatMap((entry, i): ReelItem[] => {
      const [from, to] = [frame(entry.start), frame(entry.end)];
      if (to <= from) return [];
      const id = `item-${i}`;
      if (!entry.media) return [{ kind: 'gap', id, frames: to - from }];
      const cut = Math.max(0, start - entry.start);
      const position = (entry.from + cut * entry.speed) * framesPerSecond(entry.media.nativeRate);
      return [{ ...constantSegment(id, entry.media, this.rate, to - from, position, entry.speed), name: entry.name }];
    });
    const empty = emptyProject(this.rate);
    const cues = this.cues.flatMap(({ second, name }, i): Cue[] =>
      second >= start && second <= end
        ? [{ id: `cue-${i}`, frame: Math.round((second - start) * fps * 1e6) / 1e6, name, beat: null }]
        : [],
    );
    const project = { ...empty, sources: [...this.sources.values()], reel: { ...empty.reel, items, cues } };
    return this.dissolves.reduce(withDissolve, project);
  }

  take(child: Json, field: string): void {
    const schema = schemaOf(child, field);
    const name = string(child['name'] ?? '', `${field}.name`) || 'clip';
    if (schema === 'Transition') return this.takeTransition(child, field, name);
    const lasts = this.lengthOf(child, field);
    if (schema === 'Gap') return this.put(lasts, undefined, name, 0, 1);
    if (schema !== 'Clip') {
      this.losses.push(`${schema} "${name}" is nested and is left out; black is in its place.`);
      return this.put(lasts, undefined, name, 0, 1);
    }
    if (child['enabled'] === false) {
      this.losses.push(`The clip "${name}" is disabled; black is in its place.`);
      return this.put(lasts, undefined, name, 0, 1);
    }
    const media = this.mediaOf(child, name);
    const speed = this.speedOf(child, field, name);
    const available = referenceOf(child)['available_range'];
    const begins = available ? rangeOf(available, `${field}.media_reference.available_range`).start : 0;
    const first = child['source_range'] ? rangeOf(child['source_range'], `${field}.source_range`).start : begins;
    this.mark(child, field, this.at, first, speed);
    this.put(lasts, media, name, first - begins, speed);
  }

  /** A dissolve between the entry before and the one to come; of others there is nothing to make them of. */
  private takeTransition(child: Json, field: string, name: string): void {
    const fps = framesPerSecond(this.rate);
    const frames = (offset: string) =>
      child[offset] === undefined || child[offset] === null
        ? 0
        : Math.round(timeOf(child[offset], `${field}.${offset}`) * fps);
    const [lead, tail] = [frames('in_offset'), frames('out_offset')];
    const isDissolve = child['transition_type'] === 'SMPTE_Dissolve' && lead >= 0 && tail >= 0 && lead + tail > 0;
    if (!isDissolve || lead + tail > MAX_LOOK_FRAMES) this.losses.push(`The transition "${name}" is left out.`);
    else this.dissolves.push({ entry: this.entries.length, lead, tail });
  }

  /** Markers of a clip, or of the track, as cues: where that moment of it is on the track. */
  mark(one: Json, field: string, at: number, first: number, speed: number): void {
    array(one['markers'] ?? [], `${field}.markers`).forEach((each, i) => {
      const marker = object(each, `${field}.markers[${i}]`);
      const { start } = rangeOf(marker['marked_range'], `${field}.markers[${i}].marked_range`);
      const passed = speed === 0 ? 0 : (start - first) / speed;
      if (passed >= 0)
        this.cues.push({ second: at + passed, name: string(marker['name'] ?? '', `${field}.markers[${i}].name`) });
    });
  }

  private put(lasts: number, media: Source | undefined, name: string, from: number, speed: number): void {
    this.entries.push({ start: this.at, end: this.at + lasts, media, name, from, speed });
    this.at += lasts;
  }

  /** Seconds something lasts on the track: as its range says, else all of what it holds. */
  private lengthOf(one: Json, field: string): number {
    if (one['source_range']) return rangeOf(one['source_range'], `${field}.source_range`).duration;
    const available = referenceOf(one)['available_range'];
    if (available) return rangeOf(available, `${field}.media_reference.available_range`).duration;
    const children = one['children'];
    if (Array.isArray(children)) {
      const lengths = children
        .map((child, i) => object(child, `${field}.children[${i}]`))
        .filter((child) => !/^Transition/.test(String(child['OTIO_SCHEMA'])))
        .map((child, i) => this.lengthOf(child, `${field}.children[${i}]`));
      return schemaOf(one, field) === 'Stack'
        ? Math.max(0, ...lengths)
        : lengths.reduce((sum, length) => sum + length, 0);
    }
    const known = this.footageOf(one, '');
    if (known) return known.frames / framesPerSecond(known.nativeRate);
    throw new InvalidInput(`${field}.source_range`, 'is not there, and neither is the length of its media');
  }

  private speedOf(child: Json, field: string, name: string): number {
    let speed = 1;
    for (const [i, each] of array(child['effects'] ?? [], `${field}.effects`).entries()) {
      const effect = object(each, `${field}.effects[${i}]`);
      const schema = schemaOf(effect, `${field}.effects[${i}]`);
      if (effect['enabled'] === false) continue;
      if (schema === 'FreezeFrame') speed = 0;
      else if (schema === 'LinearTimeWarp')
        speed *= finite(effect['time_scalar'], `${field}.effects[${i}].time_scalar`);
      else this.losses.push(`The effect "${schema}" of "${name}" is left out.`);
    }
    return speed;
  }

  /** The footage behind a clip, by the name of its media or its file. */
  private footageOf(child: Json, clipName: string): OfferedFootage | undefined {
    const reference = referenceOf(child);
    const bare = (text: unknown) => (typeof text === 'string' ? bareName(text) : '');
    const wanted = [reference['target_url'], reference['name'], clipName].map(bare).filter((text) => text !== '');
    return wanted.map((name) => this.footage.find((known) => bare(known.name) === name)).find((found) => found);
  }

  private mediaOf(child: Json, clipName: string): Source | undefined {
    const found = this.footageOf(child, clipName);
    if (!found) {
      this.losses.push(`The footage of "${clipName}" is not in the project; black is in its place.`);
      return undefined;
    }
    const { id, frames, nativeRate } = found;
    const source: Source = {
      id,
      name: found.name.replace(/\.\w+$/, ''),
      frames,
      nativeRate,
      readAs: nativeRate,
      moments: [],
      droppedRepeats: null,
    };
    this.sources.set(found.id, source);
    return source;
  }
}

/** Adds a dissolve into an entry's clip, to the set of those with the same length and place. A clip that nothing comes before gets none. */
function withDissolve(
  project: Project,
  { entry, lead, tail }: { readonly entry: number; readonly lead: number; readonly tail: number },
): Project {
  const clipId = `item-${entry}`;
  const place = placeOf(project, clipId);
  if (place?.item.kind !== 'clip' || place.start === 0) return project;
  const look = { kind: 'dissolve', frames: lead + tail, before: lead / (lead + tail), ease: 'even' } as const;
  const id = `dissolve-${lead}-${tail}`;
  const own = project.reel.accents.find((set) => set.id === id);
  const clipIds = [...(own?.on.kind === 'cuts' ? own.on.clipIds : []), clipId];
  return putAccents(project, { id, name: 'dissolve at cuts', look, strength: 1, on: { kind: 'cuts', clipIds } });
}
