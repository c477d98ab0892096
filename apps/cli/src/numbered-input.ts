import { mkdir, readdir, rm, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, dirname, extname, join, resolve } from 'node:path';
import { InvalidInput } from '@idle-bend/core/foundation';
import type { Rate } from '@idle-bend/core/time';
import {
  isNumbered,
  makeScratchFolder,
  openSource,
  PICTURE_KINDS,
  releaseScratch,
  writeSequence,
  type OpenedSource,
} from '@idle-bend/media';

/** A source, and what removes what was made to open it. */
export interface OpenedInput {
  readonly source: OpenedSource;
  close(): Promise<void>;
}

/** Opens a file, or numbered pictures as a clip at `rate`; what is missing of the numbers is told. Throws `InvalidInput`, `MediaError`. */
export async function openInput(file: string, rate: Rate, progress: (text: string) => void): Promise<OpenedInput> {
  if (!isNumbered(file)) return { source: await openSource(file), close: () => Promise.resolve() };
  const pictures = await numberedPictures(file);
  const missing = pictures.at(-1)!.number - pictures[0]!.number + 1 - pictures.length;
  if (missing > 0)
    progress(`${missing} numbers of ${basename(file)} are missing; the pictures that are there follow one another`);
  const scratch = makeScratchFolder(join(tmpdir(), 'idle-bend-numbered-'));
  const close = () => rm(scratch, { recursive: true, force: true }).then(() => releaseScratch(scratch));
  try {
    const folder = join(scratch, 'pictures');
    await mkdir(folder);
    const kind = extname(file).slice(1);
    for (const [i, { path }] of pictures.entries())
      await symlink(path, join(folder, `${String(i).padStart(6, '0')}.${kind}`));
    const clip = join(scratch, 'clip.mkv');
    await writeSequence(folder, kind, rate, clip, basename(file));
    return { source: await openSource(clip, basename(file)), close };
  } catch (error) {
    await close();
    throw error;
  }
}

async function numberedPictures(file: string): Promise<{ readonly number: number; readonly path: string }[]> {
  const name = basename(file);
  if (!PICTURE_KINDS.some((kind) => extname(name).toLowerCase() === `.${kind}`))
    throw new InvalidInput(file, `numbered pictures are ${PICTURE_KINDS.join(', ')}`);
  const [before, digits, after] = name.split(/%0?(\d*)d/) as [string, string, string];
  const names = await readdir(dirname(file)).catch((error: Error) => {
    throw new InvalidInput(file, `cannot be read: ${error.message}`);
  });
  const found = names
    .filter((one) => one.startsWith(before) && one.endsWith(after) && one.length > before.length + after.length)
    .map((one) => ({ number: one.slice(before.length, one.length - after.length), path: resolve(dirname(file), one) }))
    .filter(({ number }) => /^\d+$/.test(number) && (digits === '' || number.length >= Number(digits)))
    .map(({ number, path }) => ({ number: Number(number), path }));
  if (found.length === 0) throw new InvalidInput(file, 'there are no pictures of that name');
  return found.toSorted((a, b) => a.number - b.number);
}
