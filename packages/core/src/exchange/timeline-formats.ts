import { InvalidInput } from '../foundation/errors.js';
import type { Project } from '../model/project.js';
import type { Rate } from '../time/rate.js';
import { formatEdl } from './edl.js';
import { parseEdl } from './edl-read.js';
import { formatFrameMap } from './frame-map.js';
import type { ImportedTimeline, OfferedFootage } from './imported-timeline.js';
import { formatOtio } from './otio.js';
import { parseOtio } from './otio-read.js';
import { lossesOf } from './pieces.js';
import type { StartOf } from './start-times.js';

/** What is known of a project besides its document when it is handed over. */
export interface HandOverContext {
  /** The project's name. */
  readonly name: string;
  /** The file behind a source, or a sound's footage, by its id. */
  readonly nameOf: (id: string) => string;
  /** The start timecode of the file behind a source, where it has one. */
  readonly startOf: StartOf;
  /** Drop-frame counting, where the format counts and the rate has it; undefined: as the footage counts. */
  readonly drop?: boolean | undefined;
}

/** A reel as another tool reads it. */
export interface HandedOver {
  /** One file, or as many as it takes. */
  readonly files: readonly string[];
  /** What they could not say, in sentences. */
  readonly losses: readonly string[];
}

interface TimelineFormat {
  readonly title: string;
  readonly purpose: string;
  /** Endings of its files; the first is written. */
  readonly endings: readonly string[];
  readonly write: (project: Project, context: HandOverContext) => HandedOver;
  /** Reads what another tool wrote, at this rate where it says none. Throws `InvalidInput`. Some are not read. */
  readonly read?: (content: string, rate: Rate, footage: readonly OfferedFootage[]) => ImportedTimeline;
  /** Whether content whose file has no telling name is of this format. */
  readonly isLike?: (content: string) => boolean;
}

/** The files a reel is handed over as. To add one: its writer and reader beside this, and an entry here. */
export const TIMELINE_FORMATS = {
  otio: {
    title: 'OpenTimelineIO',
    purpose: 'Clips with their speeds, cues as markers; read back here it is this very project',
    endings: ['otio', 'json'],
    write: (project, { name, nameOf, startOf }) => ({
      files: [JSON.stringify(formatOtio(project, name, nameOf, startOf), null, 2)],
      losses: lossesOf(project, { marks: true, sounds: true, method: false, dissolves: true }),
    }),
    read: (content, _, footage) => parseOtio(parseJson(content), footage),
  },
  edl: {
    title: 'Edit decision list',
    purpose: 'An event for every speed, in the manner of CMX 3600',
    endings: ['edl', 'txt'],
    write: (project, { name, nameOf, startOf, drop }) => {
      const { lists, losses } = formatEdl(project, name, { drop, startOf, fileOf: nameOf });
      return { files: lists, losses };
    },
    read: parseEdl,
    isLike: (content) => /^\s*TITLE:/i.test(content),
  },
  csv: {
    title: 'Frame map',
    purpose: 'Every frame of the reel with its source frame, as a table',
    endings: ['csv'],
    write: (project, { nameOf }) => ({ files: [formatFrameMap(project, nameOf)], losses: [] }),
  },
  json: {
    title: 'Document',
    purpose: 'The project document itself, for idle-bend export',
    endings: ['json'],
    write: (project) => ({ files: [JSON.stringify(project, null, 2)], losses: [] }),
  },
} as const satisfies Readonly<Record<string, TimelineFormat>>;

export type TimelineFormatName = keyof typeof TIMELINE_FORMATS;

export const TIMELINE_FORMAT_NAMES = Object.keys(TIMELINE_FORMATS) as TimelineFormatName[];

/** The reel as files of a format. */
export const writeTimeline = (format: TimelineFormatName, project: Project, context: HandOverContext): HandedOver =>
  TIMELINE_FORMATS[format].write(project, context);

const READABLE = Object.values<TimelineFormat>(TIMELINE_FORMATS).filter(({ read }) => read !== undefined);

/** Endings of the files that are read, with their dots. */
export const READ_ENDINGS = READABLE.flatMap(({ endings }) => endings.map((ending) => `.${ending}`));

/**
 * Reads a timeline that another tool wrote: by its ending or, where that says nothing, by what it looks like.
 * @param rate of formats that say none
 * @param footage what its media may be
 * Throws `InvalidInput`, for content that is not what the name says too.
 */
export function readTimeline(
  fileName: string,
  content: string,
  rate: Rate,
  footage: readonly OfferedFootage[],
): ImportedTimeline {
  const ending = /\.(\w+)$/.exec(fileName)?.[1]?.toLowerCase();
  const format =
    READABLE.find(({ endings }) => endings.includes(ending ?? '')) ??
    READABLE.find(({ isLike }) => isLike?.(content)) ??
    TIMELINE_FORMATS.otio;
  return format.read!(content, rate, footage);
}

function parseJson(content: string): unknown {
  try {
    return JSON.parse(content) as unknown;
  } catch {
    throw new InvalidInput('file', 'is not JSON, so it is not OpenTimelineIO');
  }
}
