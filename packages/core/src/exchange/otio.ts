import { InvalidInput } from '../errors.js';
import { accentMarks } from '../accent/marks.js';
import { parseProject } from '../project/parse.js';
import { array, finite, object, string } from '../project/read.js';
import { emptyProject, type Project, type ReelItem, type Source } from '../project/project.js';
import { framesPerSecond, parseRate, type Rate } from '../rate/rate.js';
import { piecesOf, shownFootage, type ReelPiece } from './pieces.js';
import { bareName, constantSegment, type KnownFootage, type TakenTimeline } from './taken-clip.js';

/** Where in the metadata of an OpenTimelineIO file our own detail is. */
export const OTIO_NAMESPACE = 'idle_bend';

const time = (value: number, fps: number) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: fps });
const range = (start: number, duration: number, fps: number) => ({ OTIO_SCHEMA: 'TimeRange.1', start_time: time(start, fps), duration: time(duration, fps) });

/**
 * The reel as OpenTimelineIO (the JSON of an OTIO file): a track of clips, one for every stretch of one speed, each with the standard's
 * own effects for speed and freeze; cues and accents as markers. A clip's source range begins where its first frame is taken and lasts as
 * long as it does on the reel, as the standard has it under a time warp. The whole document is in the metadata, so that reading it back
 * gives exactly the project.
 * @param urlOf where the media behind a source's id is
 */
export function formatOtio(project: Project, name: string, urlOf: (sourceId: string) => string): object {
  const fps = framesPerSecond(project.reel.rate);
  const available = new Map(shownFootage(project).map((source) => [source.id, range(0, source.frames, framesPerSecond(source.nativeRate))]));
  const children = piecesOf(project).map((piece) => childOf(piece, fps, available, urlOf));
  const markers = [
    ...project.reel.cues.map(({ frame, name: cue }) => marker(cue || 'cue', 'GREEN', frame, fps)),
    ...accentMarks(project).map(({ set, frame }) => marker(set.name, 'YELLOW', frame, fps)),
  ];
  return {
    OTIO_SCHEMA: 'Timeline.1',
    name,
    global_start_time: null,
    metadata: { [OTIO_NAMESPACE]: { document: project } },
    tracks: {
      OTIO_SCHEMA: 'Stack.1',
      name: 'tracks',
      source_range: null,
      effects: [],
      markers: [],
      enabled: true,
      metadata: {},
      children: [{ OTIO_SCHEMA: 'Track.1', name: 'picture', kind: 'Video', source_range: null, effects: [], markers, enabled: true, metadata: {}, children }],
    },
  };
}

function childOf({ from, to, of }: ReelPiece, fps: number, available: ReadonlyMap<string, object>, urlOf: (id: string) => string): object {
  const plain = { effects: [] as object[], markers: [], enabled: true };
  if (!of) return { OTIO_SCHEMA: 'Gap.1', name: '', source_range: range(0, to - from, fps), ...plain, metadata: {} };
  const sourceFps = framesPerSecond(of.source.nativeRate);
  const media = available.get(of.source.id);
  return {
    OTIO_SCHEMA: 'Clip.1',
    name: of.clip.name,
    source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(of.start, sourceFps), duration: time(to - from, fps) },
    ...plain,
    effects: effectsOf(of.speed),
    metadata: { [OTIO_NAMESPACE]: { clip: of.clip.id, part: of.part, parts: of.parts } },
    media_reference: media
      ? { OTIO_SCHEMA: 'ExternalReference.1', name: of.source.name, available_range: media, target_url: urlOf(of.source.id), metadata: {} }
      : { OTIO_SCHEMA: 'MissingReference.1', name: of.source.name, available_range: null, metadata: {} },
  };
}

function effectsOf(speed: number): object[] {
  if (Math.abs(speed - 1) < 1e-9) return [];
  if (speed === 0) return [{ OTIO_SCHEMA: 'FreezeFrame.1', name: '', effect_name: 'FreezeFrame', time_scalar: 0, metadata: {} }];
  return [{ OTIO_SCHEMA: 'LinearTimeWarp.1', name: '', effect_name: 'LinearTimeWarp', time_scalar: speed, metadata: {} }];
}

const marker = (name: string, color: string, frame: number, fps: number) => ({
  OTIO_SCHEMA: 'Marker.2',
  name,
  color,
  comment: '',
  marked_range: range(Math.max(0, Math.round(frame)), 0, fps),
  metadata: {},
});

/**
 * Reads an OpenTimelineIO file. One of ours is the very project it was made of; of any other the first picture track is taken: clips with
 * their linear speeds and freezes, gaps, and markers as cues. Throws `InvalidInput` naming the place.
 */
export function parseOtio(value: unknown, footage: readonly KnownFootage[]): TakenTimeline {
  const timeline = object(value, 'timeline');
  if (!/^Timeline\.\d+$/.test(string(timeline['OTIO_SCHEMA'], 'timeline.OTIO_SCHEMA'))) throw new InvalidInput('timeline.OTIO_SCHEMA', 'is not a timeline');
  const own = (timeline['metadata'] as Record<string, unknown> | undefined)?.[OTIO_NAMESPACE] as Record<string, unknown> | undefined;
  if (own?.['document']) return { project: parseProject(own['document']), losses: [] };
  const tracks = array(object(timeline['tracks'], 'timeline.tracks')['children'], 'timeline.tracks.children').map((t, i) => object(t, `tracks[${i}]`));
  const track = tracks.find(({ kind }) => kind === 'Video');
  if (!track) throw new InvalidInput('timeline.tracks', 'has no picture track');
  const losses = tracks.length > 1 ? [`${tracks.length - 1} other track${tracks.length === 2 ? ' is' : 's are'} left out.`] : [];
  const children = array(track['children'], 'track.children', 100_000).map((child, i) => object(child, `track.children[${i}]`));
  const rate = rateOf(children);
  const reader = new TrackReader(emptyProject(rate), rate, footage);
  children.forEach((child, i) => reader.take(child, `track.children[${i}]`));
  const cues = array(track['markers'] ?? [], 'track.markers').map((each, i) => {
    const at = `track.markers[${i}]`;
    const one = object(each, at);
    const marked = object(object(one['marked_range'], `${at}.marked_range`)['start_time'], `${at}.start`);
    return {
      id: `cue-${i}`,
      frame: (finite(marked['value'], at) / finite(marked['rate'], at)) * framesPerSecond(rate),
      name: string(one['name'] ?? '', `${at}.name`),
      beat: null,
    };
  });
  const project = { ...reader.project(), reel: { ...reader.project().reel, cues } };
  return { project: parseProject(JSON.parse(JSON.stringify(project))), losses: [...losses, ...reader.losses] };
}

/** The rate the track's lengths are in. */
function rateOf(children: readonly Record<string, unknown>[]): Rate {
  for (const child of children) {
    const duration = (child['source_range'] as Record<string, Record<string, unknown>> | null)?.['duration'];
    if (duration) return parseRate(String(finite(duration['rate'], 'track.rate')));
  }
  throw new InvalidInput('track', 'is empty');
}

class TrackReader {
  readonly losses: string[] = [];
  private readonly items: ReelItem[] = [];
  private readonly sources = new Map<string, Source>();

  constructor(
    private readonly empty: Project,
    private readonly rate: Rate,
    private readonly footage: readonly KnownFootage[],
  ) {}

  project(): Project {
    return { ...this.empty, sources: [...this.sources.values()], reel: { ...this.empty.reel, items: this.items } };
  }

  take(child: Record<string, unknown>, field: string): void {
    const schema = string(child['OTIO_SCHEMA'], `${field}.OTIO_SCHEMA`).replace(/\.\d+$/, '');
    if (schema === 'Transition') return void this.losses.push(`The transition "${string(child['name'] ?? '', `${field}.name`)}" is left out.`);
    if (schema !== 'Clip' && schema !== 'Gap') return void this.losses.push(`${schema} at ${field} is left out.`);
    const name = string(child['name'] ?? '', `${field}.name`) || 'clip';
    const source = object(child['source_range'], `${field}.source_range`);
    const [start, duration] = [timeOf(source['start_time'], `${field}.start_time`), timeOf(source['duration'], `${field}.duration`)];
    const frames = Math.max(1, Math.round(duration * framesPerSecond(this.rate)));
    const media = schema === 'Clip' ? this.mediaOf(child, name) : undefined;
    const id = `item-${this.items.length}`;
    if (!media) return void this.items.push({ kind: 'gap', id, frames });
    const speed = this.speedOf(child, field, name);
    this.items.push({ ...constantSegment(id, media, this.rate, frames, start * framesPerSecond(media.nativeRate), speed), name });
  }

  private speedOf(child: Record<string, unknown>, field: string, name: string): number {
    let speed = 1;
    for (const [i, each] of array(child['effects'] ?? [], `${field}.effects`).entries()) {
      const effect = object(each, `${field}.effects[${i}]`);
      const schema = string(effect['OTIO_SCHEMA'], `${field}.effects[${i}].OTIO_SCHEMA`).replace(/\.\d+$/, '');
      if (schema === 'FreezeFrame') speed = 0;
      else if (schema === 'LinearTimeWarp') speed *= finite(effect['time_scalar'], `${field}.effects[${i}].time_scalar`);
      else this.losses.push(`The effect "${schema}" of "${name}" is left out.`);
    }
    return speed;
  }

  /** The footage behind a clip, by the name of its media or its file. */
  private mediaOf(child: Record<string, unknown>, clipName: string): Source | undefined {
    const references = child['media_references'] as Record<string, unknown> | undefined;
    const reference = (child['media_reference'] ?? references?.[String(child['active_media_reference_key'] ?? 'DEFAULT_MEDIA')] ?? {}) as Record<
      string,
      unknown
    >;
    const bare = (text: unknown) => (typeof text === 'string' ? bareName(text) : '');
    const wanted = [reference['target_url'], reference['name'], clipName].map(bare).filter((text) => text !== '');
    const found = this.footage.find(({ name }) => wanted.includes(bare(name)));
    if (!found) {
      this.losses.push(`The footage of "${clipName}" is not in the project; black is in its place.`);
      return undefined;
    }
    const { id, frames, nativeRate } = found;
    const source: Source = { id, name: found.name.replace(/\.\w+$/, ''), frames, nativeRate, readAs: nativeRate, moments: [], skips: null };
    this.sources.set(found.id, source);
    return source;
  }
}

function timeOf(value: unknown, field: string): number {
  const one = object(value, field);
  const rate = finite(one['rate'], `${field}.rate`);
  if (!(rate > 0)) throw new InvalidInput(`${field}.rate`, 'must be above 0');
  return finite(one['value'], `${field}.value`) / rate;
}
