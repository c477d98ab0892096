import { mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { healthOf, type Health, type HealthRecords } from '@idle-bend/core/health';
import { piecesOf, type PieceLayout } from '@idle-bend/core/proxy';
import { decodedFrame } from '@idle-bend/core/time';
import { joinProxy } from './join-proxy.js';
import { writeConverted } from './proxy-converted.js';
import { isMadeStraight, type ProxySize, usualSize } from './proxy.js';
import type { Run, RunMaker } from './proxy-run.js';
import { writeStraight } from './proxy-straight.js';
import { MediaError } from '../ffmpeg/media-error.js';
import { fingerprintOf } from '../probe/fingerprint.js';
import { lookAtHeaders } from '../probe/list-facts.js';
import type { OpenedSource } from '../probe/source.js';

/** Raised when pieces are made otherwise. */
const VERSION = 1;

/** What stands beside a piece: what it was made of, and what was seen in its pictures. */
interface PieceNote {
  readonly version: number;
  /** The fingerprint of the file it was made of. */
  readonly of: string;
  readonly size: { readonly width: number; readonly height: number };
  /** Presentation times of the pictures it was made of, in ticks of the source. */
  readonly times: readonly number[];
  readonly records: HealthRecords;
}

export const pieceFile = (folder: string, piece: number) => join(folder, `${piece}.mp4`);
const noteFile = (folder: string, piece: number) => join(folder, `${piece}.json`);

/** Which pieces are there, in order. */
export async function madePieces(folder: string): Promise<number[]> {
  const names = await readdir(folder).catch(() => []);
  return names
    .flatMap((name) => /^(\d+)\.mp4$/.exec(name)?.[1] ?? [])
    .map(Number)
    .sort((a, b) => a - b);
}

export interface PiecesChoice {
  /** Of its pictures; left out: as usual. */
  readonly size?: ProxySize | undefined;
  /** The piece to begin with; after the last the first ones follow. */
  readonly from: number;
  readonly onFrame: (done: number, total: number) => void;
  readonly signal?: AbortSignal | undefined;
}

/**
 * Makes those pieces of a source's proxy that are not there yet: each a file of its own, usable as soon as it is there, with frames as the
 * whole proxy has them. Pieces that were made of other pictures are thrown away first. Ends early where it is told to; what is there stays.
 */
export async function writePieces(
  source: OpenedSource,
  folder: string,
  { size = usualSize(source), from, onFrame, signal }: PiecesChoice,
): Promise<void> {
  await mkdir(folder, { recursive: true });
  for (const name of await readdir(folder)) if (name.startsWith('.')) await rm(join(folder, name), { force: true });
  const layout = piecesOf(source.index.grid);
  const there = new Set<number>();
  const of = await fingerprintOf(source.file);
  for (const piece of await madePieces(folder)) {
    if (await readNote({ source, folder, layout, of, size }, piece)) there.add(piece);
    else await rm(pieceFile(folder, piece), { force: true });
  }
  const { frames } = source.index.grid;
  const made = () => [...there].reduce((sum, piece) => sum + layout.framesIn(piece), 0);
  const make = async (run: Run, making: RunMaker) => {
    let done = made();
    return making(source, layout, run, folder, {
      size,
      signal,
      onFrame: () => onFrame(++done, frames),
      async onPiece(piece, part, records) {
        const note: PieceNote = { version: VERSION, of, size, times: timesOf(source, layout, piece), records };
        // The piece comes last: where it is, all of it is.
        const notePart = join(folder, `.${piece}.json`);
        await writeFile(notePart, JSON.stringify(note));
        await rename(notePart, noteFile(folder, piece));
        await rename(part, pieceFile(folder, piece));
        there.add(piece);
      },
    });
  };
  for (let i = 0; i < layout.count; i++) {
    const first = (from + i) % layout.count;
    if (there.has(first)) continue;
    let after = first + 1;
    while (after < layout.count && !there.has(after)) after++;
    const reached = isMadeStraight(source, size) ? await make({ first, after }, writeStraight) : first;
    if (reached < after) await make({ first: reached, after }, writeConverted);
  }
}

/** When the pictures are shown that a piece is made of. */
function timesOf({ index: { grid, times } }: OpenedSource, layout: PieceLayout, piece: number): number[] {
  const first = layout.first(piece);
  return Array.from({ length: layout.framesIn(piece) }, (_, i) => times[decodedFrame(grid, first + i)]!);
}

/** What stands beside a piece, where that is of this source as it is now. */
async function readNote({ source, folder, layout, of, size }: Expected, piece: number): Promise<PieceNote | undefined> {
  try {
    const note = JSON.parse(await readFile(noteFile(folder, piece), 'utf8')) as PieceNote;
    const isOurs =
      piece < layout.count &&
      note.version === VERSION &&
      note.of === of &&
      note.size.width === size.width &&
      note.size.height === size.height &&
      JSON.stringify(note.times) === JSON.stringify(timesOf(source, layout, piece));
    return isOurs ? note : undefined;
  } catch {
    return undefined;
  }
}

/** What pieces in a folder have to be of: a source, its fingerprint, and a size. */
interface Expected {
  readonly source: OpenedSource;
  readonly folder: string;
  readonly layout: PieceLayout;
  readonly of: string;
  readonly size: ProxySize;
}

/** Joins all pieces to the proxy, without coding them again, and says what was seen in the source's pictures. Throws `MediaError`. */
export async function joinPieces(
  source: OpenedSource,
  folder: string,
  file: string,
  { size = usualSize(source), signal }: Pick<PiecesChoice, 'size' | 'signal'> = {},
): Promise<Health> {
  const layout = piecesOf(source.index.grid);
  const records: HealthRecords[] = [];
  const of = await fingerprintOf(source.file);
  for (let piece = 0; piece < layout.count; piece++) {
    const note = await readNote({ source, folder, layout, of, size }, piece);
    if (!note) throw new MediaError(`A piece of the proxy of ${source.facts.name} is missing; it is made again.`);
    records.push(note.records);
  }
  const part = `${file}.part`;
  if (layout.count === 1) await rename(pieceFile(folder, 0), part);
  else {
    const films = Array.from({ length: layout.count }, (_, piece) => pieceFile(folder, piece));
    await joinProxy(source, films, part, signal);
  }
  const joined = await lookAtHeaders(part, 'The proxy');
  if (!('picture' in joined) || joined.picture?.frames !== source.index.grid.frames)
    throw new MediaError(`The proxy of ${source.facts.name} has lost frames; it is made again.`);
  await rename(part, file);
  await rm(folder, { recursive: true, force: true });
  return healthOf(records);
}
