import { type AccentTime, accentTimes } from '../accent/accent-times.js';
import type { Project } from '../model/project.js';
import type { Sound } from '../model/sound.js';
import { REEL_HOUR } from '../render/chapters.js';
import { framesPerSecond } from '../time/rate.js';
import { parseTimecode } from '../time/timecode.js';
import { digestOf } from './digest.js';
import { piecesOf, type ReelPiece, shownFootage } from './pieces.js';
import { startFrame, type StartOf } from './start-times.js';

/** Where in the metadata of an OpenTimelineIO file our own detail is. */
export const OTIO_NAMESPACE = 'idle_bend';

const time = (value: number, fps: number) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: fps });

const range = (start: number, duration: number, fps: number) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: time(start, fps),
  duration: time(duration, fps),
});

const plain = () => ({ effects: [] as object[], markers: [] as object[], enabled: true });

/**
 * The reel as OpenTimelineIO (the JSON of an OTIO file): a picture track of clips, one for every stretch of one speed, within half a source
 * frame of the curve at every frame and exact where each begins, with the standard's own effects for speed and freeze; cues and accents as
 * markers; an audio track for each sound under the picture. A clip's source range begins where its first frame is taken and lasts as long as
 * it does on the reel, as the standard has it under a time warp. The whole document is in the metadata with a digest of the tracks: while
 * those are as they were written, reading the file gives exactly the project.
 * Times of a file are those that it gives its frames: they begin at its start timecode where it has one.
 * @param urlOf the file behind a source's, or a sound's footage's id: its name, or a file URL
 */
export function formatOtio(
  project: Project,
  name: string,
  urlOf: (sourceId: string) => string,
  startOf: StartOf = () => undefined,
): object {
  const { rate, cues, sounds } = project.reel;
  const fps = framesPerSecond(rate);
  const available = new Map(
    shownFootage(project).map((source) => {
      const start = startFrame(startOf(source.id), source, source.nativeRate);
      return [source.id, range(start, source.frames, framesPerSecond(source.nativeRate))];
    }),
  );
  const dissolves = new Map(
    accentTimes(project).flatMap((time) =>
      time.set.look.kind === 'dissolve' && time.frames > 0 ? [[time.frame, time] as const] : [],
    ),
  );
  const children = piecesOf(project).flatMap((piece) => {
    const dissolve = dissolves.get(piece.from);
    return [...(dissolve ? [dissolveOf(dissolve, fps)] : []), childOf(piece, fps, available, urlOf)];
  });
  const markers = [
    ...cues.map(({ frame, name: cue }) => marker(cue || 'cue', 'GREEN', frame, fps)),
    ...accentTimes(project).flatMap(({ set, frame }) =>
      dissolves.has(frame) && set.look.kind === 'dissolve' ? [] : marker(set.name, 'YELLOW', frame, fps),
    ),
  ];
  const track = (title: string, kind: 'Video' | 'Audio', of: object[], marks: object[] = []) => ({
    OTIO_SCHEMA: 'Track.1',
    name: title,
    kind,
    source_range: null,
    ...plain(),
    markers: marks,
    metadata: {},
    children: of,
  });
  const tracks = [
    track('picture', 'Video', children, markers),
    ...sounds.map((sound) => track(sound.name, 'Audio', soundChildren(sound, fps, urlOf))),
  ];
  return {
    OTIO_SCHEMA: 'Timeline.1',
    name,
    global_start_time: time(parseTimecode(`0${REEL_HOUR}:00:00:00`, rate), fps),
    metadata: { [OTIO_NAMESPACE]: { document: project, digest: digestOf(tracks) } },
    tracks: { OTIO_SCHEMA: 'Stack.1', name: 'tracks', source_range: null, ...plain(), metadata: {}, children: tracks },
  };
}

/** Between two clips: how far it reaches into the one before, and into the one after. */
const dissolveOf = ({ lead, frames }: AccentTime, fps: number): object => ({
  OTIO_SCHEMA: 'Transition.1',
  name: 'dissolve',
  transition_type: 'SMPTE_Dissolve',
  in_offset: time(lead, fps),
  out_offset: time(frames - lead, fps),
  metadata: {},
});

function childOf(
  { from, to, of }: ReelPiece,
  fps: number,
  available: ReadonlyMap<string, ReturnType<typeof range>>,
  urlOf: (id: string) => string,
): object {
  if (!of) return { OTIO_SCHEMA: 'Gap.1', name: '', source_range: range(0, to - from, fps), ...plain(), metadata: {} };
  const sourceFps = framesPerSecond(of.source.nativeRate);
  const media = available.get(of.source.id);
  const first = (media?.start_time.value ?? 0) + of.start;
  return {
    OTIO_SCHEMA: 'Clip.1',
    name: of.clip.name,
    source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(first, sourceFps), duration: time(to - from, fps) },
    ...plain(),
    effects: effectsOf(of.speed),
    metadata: { [OTIO_NAMESPACE]: { clip: of.clip.id, part: of.part, parts: of.parts } },
    media_reference: media
      ? mediaOf(of.source.name, media, urlOf(of.source.id))
      : { OTIO_SCHEMA: 'MissingReference.1', name: of.source.name, available_range: null, metadata: {} },
  };
}

const mediaOf = (name: string, available: object | null, url: string) => ({
  OTIO_SCHEMA: 'ExternalReference.1',
  name,
  available_range: available,
  target_url: url,
  metadata: {},
});

/** A sound under the picture: silence before it, and the part of its file that is heard on the reel. */
function soundChildren(
  { name, footageId, startSeconds: start, fromSeconds: from, toSeconds: to }: Sound,
  fps: number,
  urlOf: (id: string) => string,
): object[] {
  const begin = Math.max(0, start);
  const first = from + Math.max(0, -start);
  const gap = { OTIO_SCHEMA: 'Gap.1', name: '', source_range: range(0, begin * fps, fps), ...plain(), metadata: {} };
  const clip = {
    OTIO_SCHEMA: 'Clip.1',
    name,
    source_range: range(first * fps, Math.max(0, to - first) * fps, fps),
    ...plain(),
    metadata: {},
    media_reference: mediaOf(name, null, urlOf(footageId)),
  };
  return begin > 0 ? [gap, clip] : [clip];
}

function effectsOf(speed: number): object[] {
  if (Math.abs(speed - 1) < 1e-9) return [];
  if (speed === 0)
    return [{ OTIO_SCHEMA: 'FreezeFrame.1', name: '', effect_name: 'FreezeFrame', time_scalar: 0, metadata: {} }];
  return [
    { OTIO_SCHEMA: 'LinearTimeWarp.1', name: '', effect_name: 'LinearTimeWarp', time_scalar: speed, metadata: {} },
  ];
}

const marker = (name: string, color: string, frame: number, fps: number) => ({
  OTIO_SCHEMA: 'Marker.2',
  name,
  color,
  comment: '',
  marked_range: range(Math.max(0, Math.round(frame)), 0, fps),
  metadata: {},
});
