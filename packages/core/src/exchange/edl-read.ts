import { InvalidInput } from '../foundation/errors.js';
import type { ReelItem } from '../model/clip.js';
import type { Source } from '../model/group.js';
import { emptyProject, type Project } from '../model/project.js';
import { framesPerSecond, type Rate } from '../time/rate.js';
import { canDropFrames, parseTimecode } from '../time/timecode.js';
import { MAX_EVENTS } from './edl.js';
import { startFrame } from './start-times.js';
import { bareName, constantSegment, type OfferedFootage, type ImportedTimeline } from './imported-timeline.js';

/** Letters of a list: events of pictures and sound, one line each. */
const MAX_LINES = 50 * MAX_EVENTS;

const EVENT =
  /^(\d{1,6})\s+(\S+)\s+(\S+)\s+(C|D|W\d{1,3}|KB?|KO)(?:\s+B)?(?:\s+(\d{1,4}))?\s+(\d[\d:;.]+)\s+(\d[\d:;.]+)\s+(\d[\d:;.]+)\s+(\d[\d:;.]+)\s*$/;

const MOTION = /^M2\s+(\S+)\s+(-?\d+(?:\.\d+)?)/;

interface Event {
  readonly number: string;
  readonly tape: string;
  readonly sourceIn: number;
  readonly sourceOut: number;
  readonly recordIn: number;
  readonly recordOut: number;
  /** Frames of the source a second, at the list's rate; none where no line says. */
  speed: number | undefined;
  names: string[];
  readonly isTransition: boolean;
}

/**
 * Reads an edit decision list in the manner of CMX 3600: picture events with their speed lines (reverse below 0, freeze 0), and black.
 * A list does not say its rate: it is `rate`, the reel's. Footage is known by the names in its comments, else by its tape. Source times
 * count from the start timecode the footage has, where they lie past it, else from 0. Record times may go over midnight; `FCM` may change
 * between events; `* LOC` comments become cues. Throws `InvalidInput` naming the line; what could
 * not be taken is told.
 */
export function parseEdl(text: string, rate: Rate, footage: readonly OfferedFootage[]): ImportedTimeline {
  const losses: string[] = [];
  const { events, marks } = readEvents(text, rate, losses);
  if (events.length === 0) throw new InvalidInput('edit decision list', 'has no picture event');
  const fps = framesPerSecond(rate);
  const sources = new Map<string, Source>();
  const items: ReelItem[] = [];
  let at = events[0]!.recordIn;
  for (const event of events) {
    const { number, recordIn, recordOut } = event;
    if (recordIn < at) {
      losses.push(`Event ${number} lies over the one before and is left out.`);
      continue;
    }
    if (recordIn > at) items.push({ kind: 'gap', id: `gap-${number}`, frames: recordIn - at });
    const frames = recordOut - recordIn;
    at = recordOut;
    const id = `event-${items.length}`;
    const media = event.tape === 'BL' ? undefined : footageOf(event, footage);
    if (!media) {
      if (event.tape !== 'BL')
        losses.push(
          `The footage of event ${number} (${event.names[0] ?? event.tape}) is not in the project; black is in its place.`,
        );
      items.push({ kind: 'gap', id, frames });
      continue;
    }
    const source: Source = {
      id: media.id,
      name: media.name.replace(/\.\w+$/, ''),
      frames: media.frames,
      nativeRate: media.nativeRate,
      readAs: media.nativeRate,
      moments: [],
      droppedRepeats: null,
    };
    sources.set(media.id, source);
    const start = startFrame(media.startTimecode, media, rate);
    const seconds = (frame: number) => (frame >= start ? frame - start : frame) / fps;
    const ratio = event.speed === undefined ? (event.sourceOut - event.sourceIn) / frames || 1 : event.speed / fps;
    // In reverse the list gives the same frames of the source: the last of them is shown first.
    const from = ratio < 0 ? seconds(event.sourceOut - 1) : seconds(event.sourceIn);
    const segment = constantSegment(id, source, rate, frames, from * framesPerSecond(media.nativeRate), ratio);
    items.push({ ...segment, name: clipName(event) || source.name });
  }
  const empty = emptyProject(rate);
  const begin = events[0]!.recordIn;
  const cues = marks.flatMap(({ at: frame, name }, i) =>
    frame >= begin ? [{ id: `cue-${i}`, frame: frame - begin, name, beat: null }] : [],
  );
  const project: Project = { ...empty, sources: [...sources.values()], reel: { ...empty.reel, items, cues } };
  return { project, losses };
}

interface Mark {
  readonly at: number;
  readonly name: string;
}

/** A cue of a list: its time, a colour, and its name. */
const LOC = /^\*\s*LOC:?\s*(\d[\d:;.]+)\s+([A-Z]+)?\s*(.*)$/i;

const KEYS = /^K/;

function readEvents(text: string, rate: Rate, losses: string[]): { readonly events: Event[]; readonly marks: Mark[] } {
  const lines = text.split(/\r\n|\n|\r/);
  if (lines.length > MAX_LINES) throw new InvalidInput('edit decision list', `has more than ${MAX_LINES} lines`);
  const events: Event[] = [];
  const marks: Mark[] = [];
  let lastRecord: number | undefined;
  let days = 0;
  let current: Event | undefined;
  let drop = false;
  lines.forEach((raw, i) => {
    const line = raw.trim();
    const field = `line ${i + 1}`;
    const day = timeOf('24:00:00:00', rate, drop && canDropFrames(rate), field);
    if (/^FCM:/i.test(line)) drop = /DROP/i.test(line) && !/NON/i.test(line);
    const event = EVENT.exec(line);
    if (event) {
      const [, number, tape, track, kind] = event as unknown as [string, string, string, string, string];
      current = undefined;
      if (!/V|B/i.test(track))
        return void losses.push(
          `Event ${number} is ${/^A/i.test(track) ? 'sound' : `on track ${track}, which is no picture,`} and is left out.`,
        );
      const code = (n: number) => timeOf(event[n]!, rate, drop, field);
      if (KEYS.test(kind)) return void losses.push(`Event ${number} is a key over another picture and is left out.`);
      // A reel, and a tape, may go over midnight.
      const after = (out: number, from: number) => (out < from && from - out > day / 2 ? out + day : out);
      const [sourceIn, record] = [code(6), code(8)];
      if (lastRecord !== undefined && record < lastRecord - day / 2) days += day;
      lastRecord = record;
      const times = {
        sourceIn,
        sourceOut: after(code(7), sourceIn),
        recordIn: record + days,
        recordOut: after(code(9), record) + days,
      };
      if (times.recordOut < times.recordIn || times.sourceOut < times.sourceIn)
        throw new InvalidInput(field, 'ends before it begins');
      if (kind !== 'C') losses.push(`The transition of event ${number} is taken as a cut.`);
      // The half of a transition that only says what is left.
      if (times.recordOut === times.recordIn) return;
      current = { number, tape: tape.toUpperCase(), ...times, speed: undefined, names: [], isTransition: kind !== 'C' };
      if (events.length === MAX_EVENTS * 10) throw new InvalidInput(field, 'is one event too many');
      events.push(current);
      return;
    }
    const mark = LOC.exec(line);
    if (mark) {
      const at = timeOf(mark[1]!, rate, drop, field);
      return void marks.push({
        at: at + (lastRecord !== undefined && at < lastRecord - day / 2 ? days + day : days),
        name: mark[3]!.trim(),
      });
    }
    const motion = MOTION.exec(line);
    if (motion && current) current.speed = Number(motion[2]);
    const comment = /^\*\s*(FROM CLIP NAME|TO CLIP NAME|SOURCE FILE|CLIP NAME)\s*:\s*(.+)$/i.exec(line);
    // Of a transition the first name is that of what it comes from; the event is of what it goes to.
    if (comment && current && !(current.isTransition && /^FROM/i.test(comment[1]!)))
      current.names.push(comment[2]!.trim());
    if (!motion && !comment && /^\d{1,6}\s/.test(line))
      throw new InvalidInput(field, 'begins like an event and is not one');
  });
  return { events: events.sort((a, b) => a.recordIn - b.recordIn), marks };
}

function timeOf(text: string, rate: Rate, drop: boolean, field: string): number {
  return parseTimecode(drop ? text.replace(/:(\d+)$/, ';$1') : text, rate, field);
}

/** "bell (2 OF 3)" is how our own lists name a part of a clip. */
const clipName = ({ names }: Event) => (names[0] ?? '').replace(/\s*\(\d+ OF \d+\)$/, '').slice(0, 200);

function footageOf({ names, tape }: Event, footage: readonly OfferedFootage[]): OfferedFootage | undefined {
  const wanted = [...names].reverse().map(bareName);
  const byName = wanted.map((name) => footage.find((f) => bareName(f.name) === name)).find((found) => found);
  const plain = (name: string) =>
    bareName(name)
      .toUpperCase()
      .replace(/[^A-Z0-9]/g, '')
      .slice(0, 8);
  return byName ?? footage.find((f) => plain(f.name) === tape);
}
