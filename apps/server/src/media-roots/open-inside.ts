import {
  closeSync,
  constants,
  existsSync,
  fstatSync,
  lstatSync,
  openSync,
  readlinkSync,
  realpathSync,
  type Stats,
} from 'node:fs';
import { join, sep } from 'node:path';
import { MediaError } from '@idle-bend/media';

/** Where the system tells what an open file really is. Without it a path is looked at before and after it is opened. */
const OPEN_FILES = '/proc/self/fd';

/** A file that is open, and is the one its path names. */
export interface OpenFile {
  readonly descriptor: number;
  /** A path to just this file, whatever becomes of its name. */
  readonly file: string;
  readonly stats: Stats;
}

/** The longest path inside a root. */
const MAX_PATH = 2000;

/** A path inside a root in its parts. Throws `MediaError` for one that leads out, or to what is hidden. */
export function partsOf(path: string): string[] {
  if (path === '') return [];
  const parts = path.split('/');
  const isPlain = (part: string) => part !== '' && !part.startsWith('.') && !/[\0\\]/.test(part);
  if (path.length > MAX_PATH || !parts.every(isPlain)) throw new MediaError('There is no such file.');
  return parts;
}

/**
 * Opens a file inside a folder. The path must lead there itself: no link on the way is followed, so that none that is put in between, before
 * or while it is opened, reaches another file. Nothing in `hidden` is opened. Throws `MediaError` without naming the place.
 */
export function openInside(folder: string, path: string, hidden: readonly string[]): OpenFile {
  const parts = partsOf(path);
  const name = parts.at(-1);
  let descriptor: number | undefined;
  try {
    const wanted = join(realpathSync(folder), ...parts);
    if (hidden.some((place) => isWithin(place, wanted))) throw new Error('hidden');
    // Not blocking: a pipe would wait for somebody to write.
    descriptor = openSync(wanted, constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK);
    const stats = fstatSync(descriptor);
    if (!stats.isFile() || !isAt(descriptor, stats, wanted)) throw new Error('another file');
    const file = existsSync(OPEN_FILES) ? `/proc/${process.pid}/fd/${descriptor}` : wanted;
    return { descriptor, file, stats };
  } catch (error) {
    if (descriptor !== undefined) closeSync(descriptor);
    const { code } = error as NodeJS.ErrnoException;
    throw new MediaError(
      code === 'EACCES' ? `${name} may not be read: permission denied.` : `${name}: there is no such file.`,
    );
  }
}

/** Looks into a folder inside a folder, under the same promise; `look` is given a path to just that folder. Throws `MediaError`. */
export async function lookInside<T>(
  folder: string,
  path: string,
  hidden: readonly string[],
  look: (place: string) => Promise<T>,
): Promise<T> {
  const parts = partsOf(path);
  let descriptor: number | undefined;
  try {
    const wanted = join(realpathSync(folder), ...parts);
    if (hidden.some((place) => isWithin(place, wanted))) throw new Error('hidden');
    descriptor = openSync(wanted, constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_DIRECTORY);
    if (!isAt(descriptor, fstatSync(descriptor), wanted)) throw new Error('another folder');
    return await look(existsSync(OPEN_FILES) ? `${OPEN_FILES}/${descriptor}` : wanted);
  } catch {
    throw new MediaError('There is no such folder.');
  } finally {
    if (descriptor !== undefined) closeSync(descriptor);
  }
}

/** Whether an open file or folder is the one at a path, with no link in the path. */
function isAt(descriptor: number, { dev, ino }: Stats, path: string): boolean {
  if (existsSync(OPEN_FILES)) return readlinkSync(`${OPEN_FILES}/${descriptor}`) === path;
  const there = lstatSync(path);
  return realpathSync(path) === path && there.dev === dev && there.ino === ino;
}

/** Whether a path is a folder or inside it; both without links. */
export const isWithin = (folder: string, path: string): boolean => path === folder || path.startsWith(folder + sep);
