import { framesPerSecond } from '../rate/rate.js';
import { canDropFrames, formatTimecode } from '../rate/timecode.js';
import type { Project } from '../project/project.js';
import { REEL_HOUR } from '../render/marks.js';
import { lossesOf, piecesOf } from './pieces.js';

/** The most events such a list can number. */
export const MOST_EVENTS = 999;

export interface EditDecisionList {
  readonly text: string;
  /** What it could not say, in sentences. */
  readonly losses: readonly string[];
}

/**
 * The reel as an edit decision list in the manner of CMX 3600: an event for every stretch of one speed, its speed in an M2 line in frames
 * per second of the reel's rate (freeze 0, reverse below 0). Source times are seconds of the file at the reel's rate, from 0. Drop-frame
 * counting where asked for and the rate has it.
 */
export function formatEdl(project: Project, title: string, { drop = false }: { readonly drop?: boolean } = {}): EditDecisionList {
  const { rate } = project.reel;
  const fps = framesPerSecond(rate);
  const dropped = drop && canDropFrames(rate);
  const code = (frame: number) => formatTimecode(Math.max(0, Math.round(frame)), rate, dropped);
  const hour = Math.round(REEL_HOUR * 3600 * fps);
  const names = tapeNames(project);
  const lines = [`TITLE: ${title.replace(/[\r\n]+/g, ' ').slice(0, 70)}`, `FCM: ${dropped ? 'DROP FRAME' : 'NON-DROP FRAME'}`, ''];
  const pieces = piecesOf(project);
  pieces.slice(0, MOST_EVENTS).forEach(({ from, to, of }, i) => {
    const number = String(i + 1).padStart(3, '0');
    const [recordIn, recordOut] = [code(hour + from), code(hour + to)];
    if (!of) {
      lines.push(`${number}  BL       V     C        ${code(0)} ${code(to - from)} ${recordIn} ${recordOut}`, '');
      return;
    }
    const seconds = (position: number) => (position / framesPerSecond(of.source.nativeRate)) * fps;
    const tape = names.get(of.source.id)!;
    const [low, high] = [Math.min(of.start, of.end), Math.max(of.start, of.end)].map(seconds) as [number, number];
    const sourceOut = Math.max(Math.round(high), Math.round(low) + 1);
    lines.push(`${number}  ${tape.padEnd(8)} V     C        ${code(low)} ${code(sourceOut)} ${recordIn} ${recordOut}`);
    if (Math.abs(of.speed - 1) > 1e-6)
      lines.push(`M2   ${tape.padEnd(8)}       ${motionSpeed(of.speed * fps)}                ${code(of.speed < 0 ? sourceOut : low)}`);
    if (of.speed === 0) lines.push(`* FREEZE FRAME: SOURCE FRAME ${Math.round(of.start)}`);
    lines.push(`* FROM CLIP NAME: ${of.clip.name}${of.parts > 1 ? ` (${of.part + 1} OF ${of.parts})` : ''}`, `* SOURCE FILE: ${of.source.name}`, '');
  });
  const cut = pieces.length > MOST_EVENTS ? [`The list ends after ${MOST_EVENTS} events; the reel has ${pieces.length}.`] : [];
  return { text: lines.join('\r\n'), losses: [...lossesOf(project), ...cut] };
}

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
      const plain = name.toUpperCase().replace(/\.\w+$/, '').replace(/[^A-Z0-9]/g, '').slice(0, 8) || 'SOURCE'; // prettier-ignore
      let tape = plain;
      for (let n = 2; taken.has(tape); n++) tape = plain.slice(0, 8 - String(n).length) + n;
      taken.add(tape);
      return [id, tape];
    }),
  );
}
