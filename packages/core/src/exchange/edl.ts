import type { Project } from '../model/project.js';
import { REEL_HOUR } from '../render/chapters.js';
import { framesPerSecond } from '../time/rate.js';
import { canDropFrames, formatTimecode, parseTimecode } from '../time/timecode.js';
import { lossesOf, type PieceGrain, piecesOf, type ReelPiece } from './pieces.js';
import { countsDropFrames, startFrame, type StartOf } from './start-times.js';

/** The most events such a list can number; a longer reel is several lists. */
export const MAX_EVENTS = 999;

export interface EditDecisionList {
  /** One, or as many as the events take; record times go on from one to the next. */
  readonly lists: readonly string[];
  /** What it could not say, in sentences. */
  readonly losses: readonly string[];
}

export interface EdlChoice {
  /** Drop-frame counting, where the rate has it; without it as the footage counts. */
  readonly drop?: boolean | undefined;
  readonly startOf?: StartOf | undefined;
  /** The name of the file behind a source, with its ending; without it the source's. */
  readonly fileOf?: ((sourceId: string) => string) | undefined;
}

/**
 * The reel as an edit decision list in the manner of CMX 3600: an event for every stretch of one speed, its speed in an M2 line in frames
 * per second of the reel's rate (freeze 0, reverse below 0). The record begins at 01:00:00:00 at every rate. Source times are seconds of the
 * file at the reel's rate, from its start timecode; they span the frames that are shown, so a reversed event ends with the frame it begins
 * with. At every frame the source is within half a frame of the list's rate. Cues are LOC comments of the event they fall in.
 */
export function formatEdl(
  project: Project,
  title: string,
  { drop, startOf = () => undefined, fileOf }: EdlChoice = {},
): EditDecisionList {
  const { rate } = project.reel;
  const fps = framesPerSecond(rate);
  const dropped = drop === undefined ? countsDropFrames(project, startOf) : drop && canDropFrames(rate);
  const code = (frame: number) => formatTimecode(Math.max(0, frame), rate, dropped);
  const hour = parseTimecode(`0${REEL_HOUR}:00:00${dropped ? ';' : ':'}00`, rate);
  const names = tapeNames(project);
  const starts = new Map(project.sources.map((source) => [source.id, startFrame(startOf(source.id), source, rate)]));
  const pieces = piecesOf(project, grainOf(fps));
  const cues = project.reel.cues
    .map(({ frame, name }) => ({ at: Math.round(frame), name }))
    .sort((a, b) => a.at - b.at);
  const event = ({ from, to, of }: ReelPiece, number: string): string[] => {
    const record = `${code(hour + from)} ${code(hour + to)}`;
    const marks = cues
      .filter(({ at }) => at >= from && at < to)
      .map(({ at, name }) => `* LOC: ${code(hour + at)} GREEN   ${plainText(name) || 'CUE'}`);
    if (!of) return [`${number}  BL       V     C        ${code(0)} ${code(to - from)} ${record}`, ...marks, ''];
    const unit = fps / framesPerSecond(of.source.nativeRate);
    const start = starts.get(of.source.id)!;
    const [first, slope] = [start + Math.round(of.start * unit), of.slope * unit];
    const last = first + Math.round(slope * (to - from - 1));
    const [low, high] = [Math.min(first, last), Math.max(first, last) + 1];
    const tape = names.get(of.source.id)!;
    return [
      `${number}  ${tape.padEnd(8)} V     C        ${code(low)} ${code(high)} ${record}`,
      ...(slope === 1
        ? []
        : [`M2   ${tape.padEnd(8)}       ${motionSpeed(slope * fps)}                ${code(first)}`]),
      ...(slope === 0 ? [`* FREEZE FRAME: SOURCE FRAME ${Math.round(of.start)}`] : []),
      `* FROM CLIP NAME: ${plainText(of.clip.name)}${of.parts > 1 ? ` (${of.part + 1} OF ${of.parts})` : ''}`,
      `* SOURCE FILE: ${plainText(fileOf?.(of.source.id) ?? of.source.name)}`,
      ...marks,
      '',
    ];
  };
  const lists = Array.from({ length: Math.max(1, Math.ceil(pieces.length / MAX_EVENTS)) }, (_, n) => {
    const own = pieces.slice(n * MAX_EVENTS, (n + 1) * MAX_EVENTS);
    const part = n > 0 || pieces.length > MAX_EVENTS ? ` ${n + 1}` : '';
    const head = [
      `TITLE: ${plainText(title).slice(0, 68)}${part}`,
      `FCM: ${dropped ? 'DROP FRAME' : 'NON-DROP FRAME'}`,
      '',
    ];
    return [...head, ...own.flatMap((piece, i) => event(piece, String(i + 1).padStart(3, '0')))].join('\r\n');
  });
  return { lists, losses: lossesOf(project, { marks: false, sounds: false, method: false }) };
}

/** A name as one line: what breaks lines would begin another statement of the list. */
const plainText = (text: string) => text.replace(/[\p{Cc}\u2028\u2029]+/gu, ' ').trim();

/** Starts are whole frames of the list, speeds tenths of a frame a second. */
const grainOf = (fps: number): PieceGrain => ({
  unit: (source) => fps / framesPerSecond(source.nativeRate),
  start: Math.round,
  slope: (low, high, wanted) => {
    const tenths = (slope: number) => Math.round(slope * fps * 10) / 10 / fps;
    // Its own speed has no speed line at all.
    const candidates = [1, tenths(wanted), tenths(wanted) + 0.1 / fps, tenths(wanted) - 0.1 / fps].map((slope) =>
      Math.abs(slope) < 1e-9 ? 0 : slope,
    );
    const fitting = candidates.filter((slope) => slope >= low && slope <= high);
    return fitting.sort((a, b) => Math.abs(a - wanted) - Math.abs(b - wanted))[0];
  },
});

/** Frames a second in five letters or more, its sign first: `012.0`, `-06.5`. */
function motionSpeed(framesPerSecond: number): string {
  const digits = Math.abs(framesPerSecond).toFixed(1);
  return framesPerSecond < 0 && Number(digits) > 0 ? `-${digits.padStart(4, '0')}` : digits.padStart(5, '0');
}

/** Names of at most eight letters and digits, one for each source, none twice. */
function tapeNames({ sources }: Project): Map<string, string> {
  const taken = new Set<string>(['BL', 'AX']);
  return new Map(
    sources.map(({ id, name }) => {
      const plain =
        name
          .toUpperCase()
          .replace(/\.\w+$/, '')
          .replace(/[^A-Z0-9]/g, '')
          .slice(0, 8) || 'SOURCE';
      let tape = plain;
      for (let n = 2; taken.has(tape); n++) tape = plain.slice(0, 8 - String(n).length) + n;
      taken.add(tape);
      return [id, tape];
    }),
  );
}
