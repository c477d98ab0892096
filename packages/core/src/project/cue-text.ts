import { InvalidInput } from '../errors.js';
import { framesPerSecond, type Rate } from '../rate/rate.js';
import { parseTimecode } from '../rate/timecode.js';

/** A cue as files have it: seconds from the reel's beginning, and a name. */
export interface NamedTime {
  readonly second: number;
  readonly name: string;
}

/** A cell of comma-separated values, in quotes where it needs them. */
export const quotedCell = (text: string): string => (/[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);

/** Cues as comma-separated values (RFC 4180): seconds, the reel frame (a real number) and the name. */
export function formatCueCsv(cues: readonly NamedTime[], rate: Rate): string {
  const fps = framesPerSecond(rate);
  const fine = (value: number) => String(Math.round(value * 1e6) / 1e6);
  return ['seconds,frame,name', ...cues.map(({ second, name }) => `${fine(second)},${fine(second * fps)},${quotedCell(name)}`)].join('\r\n') + '\r\n';
}

/**
 * Reads cues from comma-, semicolon- or tab-separated lines. With a header, columns are known by their names (seconds or time,
 * frame, timecode, name); without one the first holds seconds or a timecode, the last a name. Throws `InvalidInput` naming the line.
 */
export function parseCueCsv(text: string, rate: Rate): NamedTime[] {
  const rows = splitRows(text);
  if (rows.length === 0) throw new InvalidInput('file', 'has no lines');
  const header = rows[0]!.map((cell) => cell.trim().toLowerCase());
  const column = (...names: string[]) => header.findIndex((cell) => names.includes(cell));
  const [time, frame, timecode, name] = [column('seconds', 'second', 'time', 'start'), column('frame', 'frames'), column('timecode'), column('name', 'label', 'cue')]; // prettier-ignore
  const named = time >= 0 || frame >= 0 || timecode >= 0;
  return rows.slice(named ? 1 : 0).map((row, i) => {
    const at = `line ${i + (named ? 2 : 1)}`;
    const word = (index: number) => row[index]?.trim() ?? '';
    const label = named ? (name >= 0 ? word(name) : '') : row.length > 1 ? word(row.length - 1) : '';
    if (named && time < 0 && timecode >= 0) return { second: timecodeSeconds(word(timecode), rate, at), name: label };
    if (named && time < 0) return { second: number(word(frame), at) / framesPerSecond(rate), name: label };
    const typed = word(named ? time : 0);
    return { second: typed.includes(':') ? clockSeconds(typed, rate, at) : number(typed, at), name: label };
  });
}

function number(text: string, at: string): number {
  const value = Number(text);
  if (text === '' || !Number.isFinite(value) || value < 0) throw new InvalidInput(at, `"${text}" is not a time`);
  return value;
}

function timecodeSeconds(text: string, rate: Rate, at: string): number {
  return parseTimecode(text, rate, at) / framesPerSecond(rate);
}

/** hh:mm:ss:ff of the reel, or hh:mm:ss.fraction and mm:ss.fraction. */
function clockSeconds(text: string, rate: Rate, at: string): number {
  const parts = text.split(':');
  if (parts.length === 4) return timecodeSeconds(text, rate, at);
  const seconds = parts.map((part) => number(part.replace(',', '.'), at)).reduce((sum, part) => 60 * sum + part, 0);
  return seconds;
}

/** Rows of cells, quotes understood; empty lines are left out. */
function splitRows(text: string): string[][] {
  const first = text.slice(0, text.search(/[\r\n]|$/));
  const separator = [',', ';', '\t'].reduce((best, each) => (first.split(each).length > first.split(best).length ? each : best), ',');
  const rows: string[][] = [];
  let row: string[] = [];
  let cell = '';
  let quoted = false;
  const endRow = () => {
    row.push(cell);
    if (row.some((value) => value.trim() !== '')) rows.push(row);
    [row, cell] = [[], ''];
  };
  for (let i = 0; i < text.length; i++) {
    const c = text[i]!;
    if (quoted && c === '"' && text[i + 1] === '"') {
      cell += c;
      i++;
    } else if (c === '"') quoted = !quoted;
    else if (quoted) cell += c;
    else if (c === separator) {
      row.push(cell);
      cell = '';
    } else if (c === '\n' || c === '\r') endRow();
    else if (c !== '\ufeff') cell += c;
  }
  endRow();
  return rows;
}

/** Cues as a WebVTT file: each lasts to the next, or a second. */
export function formatCueVtt(cues: readonly NamedTime[]): string {
  const clock = (second: number) => {
    const ms = Math.round(second * 1000);
    const two = (n: number, width = 2) => String(Math.floor(n)).padStart(width, '0');
    return `${two(ms / 3_600_000)}:${two((ms / 60_000) % 60)}:${two((ms / 1000) % 60)}.${two(ms % 1000, 3)}`;
  };
  const blocks = cues.map(({ second, name }, i) => {
    const end = Math.max(second + 0.001, Math.min(second + 1, cues[i + 1]?.second ?? Infinity));
    return `${clock(second)} --> ${clock(end)}\n${escaped(name) || 'cue'}`;
  });
  return ['WEBVTT', ...blocks].join('\n\n') + '\n';
}

const escaped = (name: string) => name.replace(/[\r\n]+/g, ' ').replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').trim(); // prettier-ignore
const unescaped = (text: string) => text.replace(/<[^>]*>/g, '').replaceAll('&lt;', '<').replaceAll('&gt;', '>').replaceAll('&nbsp;', ' ').replaceAll('&amp;', '&'); // prettier-ignore

/** The beginnings of a WebVTT file's cues, with their first lines as names. Throws `InvalidInput`. */
export function parseCueVtt(text: string): NamedTime[] {
  const lines = text.replace(/^\ufeff/, '').split(/\r\n|\r|\n/);
  if (!lines[0]?.startsWith('WEBVTT')) throw new InvalidInput('file', 'does not begin with WEBVTT');
  return lines.flatMap((line, i) => {
    const match = /^\s*(?:(\d+):)?(\d{2}):(\d{2}\.\d{3})\s+-->/.exec(line);
    if (!match) return [];
    // In whole milliseconds, as the file has it.
    const second = Math.round(1000 * (3600 * Number(match[1] ?? 0) + 60 * Number(match[2]) + Number(match[3]))) / 1000;
    return [{ second, name: unescaped(lines[i + 1] ?? '').trim() }];
  });
}
