import { dsvFormat } from 'd3-dsv';
import { InvalidInput } from '../foundation/errors.js';
import { framesPerSecond, type Rate } from '../time/rate.js';
import { parseTimecode } from '../time/timecode.js';

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
  return (
    [
      'seconds,frame,name',
      ...cues.map(({ second, name }) => `${fine(second)},${fine(second * fps)},${quotedCell(name)}`),
    ].join('\r\n') + '\r\n'
  );
}

/**
 * Reads cues from comma-, semicolon- or tab-separated lines. With a header, columns are known by their names (seconds or time,
 * frame, timecode, name); without one the first holds seconds or a timecode, the last a name. Throws `InvalidInput` naming the line.
 */
export function parseCueCsv(text: string, rate: Rate): NamedTime[] {
  const { rows, separator } = splitRows(text);
  if (rows.length === 0) throw new InvalidInput('file', 'has no lines');
  const header = rows[0]!.map((cell) => cell.trim().toLowerCase());
  const column = (...names: string[]) => header.findIndex((cell) => names.includes(cell));
  const [time, frame, timecode, name] = [
    column('seconds', 'second', 'time', 'start'),
    column('frame', 'frames'),
    column('timecode'),
    column('name', 'label', 'cue'),
  ];
  const named = time >= 0 || frame >= 0 || timecode >= 0;
  return rows.slice(named ? 1 : 0).map((row, i) => {
    const at = `line ${i + (named ? 2 : 1)}`;
    const word = (index: number) => row[index]?.trim() ?? '';
    // Where commas do not separate they may be those of decimals.
    const figure = (index: number) =>
      separator === ',' ? word(index) : word(index).replace(/^([+-]?\d+),(\d+)$/, '$1.$2');
    const label = named ? (name >= 0 ? word(name) : '') : row.length > 1 ? word(row.length - 1) : '';
    if (named && time < 0 && timecode >= 0) return { second: timecodeSeconds(word(timecode), rate, at), name: label };
    if (named && time < 0) return { second: number(figure(frame), at) / framesPerSecond(rate), name: label };
    const typed = figure(named ? time : 0);
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
function splitRows(text: string): { readonly rows: string[][]; readonly separator: string } {
  const plain = text.replace(/^\ufeff/, '');
  const first = plain.slice(0, plain.search(/[\r\n]|$/));
  const separator = [',', ';', '\t'].reduce(
    (best, each) => (first.split(each).length > first.split(best).length ? each : best),
    ',',
  );
  const rows = dsvFormat(separator).parseRows(plain.replace(/\r\n?/g, '\n'));
  return { rows: rows.filter((row) => row.some((cell) => cell.trim() !== '')), separator };
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

const escaped = (name: string) =>
  name
    .replace(/[\r\n]+/g, ' ')
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .trim();

const NAMED: Readonly<Record<string, string>> = {
  lt: '<',
  gt: '>',
  amp: '&',
  nbsp: '\u00a0',
  quot: '"',
  apos: "'",
  lrm: '\u200e',
  rlm: '\u200f',
};

/** A cue's words without its tags, character references resolved (WebVTT, 6.4). A tag that is never closed ends with the text. */
function unescaped(text: string): string {
  const words: string[] = [];
  for (let at = 0; at < text.length;) {
    const tag = text.indexOf('<', at);
    words.push(text.slice(at, tag < 0 ? text.length : tag));
    const end = tag < 0 ? -1 : text.indexOf('>', tag);
    at = end < 0 ? text.length : end + 1;
  }
  return words.join('').replace(/&(#\d{1,7}|#x[\da-f]{1,6}|\w{1,8});/gi, (whole, name: string) => {
    if (!name.startsWith('#')) return NAMED[name.toLowerCase()] ?? whole;
    const code = /^#x/i.test(name) ? parseInt(name.slice(2), 16) : Number(name.slice(1));
    return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : whole;
  });
}

/** The beginnings of a WebVTT file's cues, with their first lines as names. Throws `InvalidInput`. */
export function parseCueVtt(text: string): NamedTime[] {
  const lines = text.replace(/^\ufeff/, '').split(/\r\n|\r|\n/);
  if (!lines[0]?.startsWith('WEBVTT')) throw new InvalidInput('file', 'does not begin with WEBVTT');
  return lines.flatMap((line, i) => {
    const match = /^\s*(?:(\d{1,6}):)?(\d{2}):(\d{2}\.\d{3})\s*-->/.exec(line);
    if (!match) return [];
    // In whole milliseconds, as the file has it.
    const second = Math.round(1000 * (3600 * Number(match[1] ?? 0) + 60 * Number(match[2]) + Number(match[3]))) / 1000;
    return [
      {
        second,
        name: unescaped(lines[i + 1] ?? '')
          .replaceAll('\u00a0', ' ')
          .trim(),
      },
    ];
  });
}
