import { randomUUID } from 'node:crypto';
import { readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { gridOf } from './frame-index.js';
import type { MediaFacts } from './probe.js';
import { openSource, type OpenedSource } from './source.js';

/** Raised when what is found in a file, or how it is written down, changes. */
const VERSION = 3;

/** What was found in a file, as it is kept beside it; it is for the file of just this length and time. */
interface Known {
  readonly version: number;
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly facts: MediaFacts;
  readonly times: readonly number[];
  readonly keys: readonly number[];
  readonly sizes: readonly number[] | null;
}

/** Where what was found in a file is kept. */
export const cacheBeside = (file: string) => `${file}.frames.json`;

/**
 * As `openSource`, for files in folders of our own, or elsewhere with a path of our own (`beside`): what was found is kept beside it, so that a long one is listed once and not for
 * every chunk made from it. Where it cannot be kept, or is not of this file, the file is looked into again. Throws `MediaError`.
 */
export async function openCached(
  file: string,
  name: string,
  { beside = file, signal }: { readonly beside?: string | undefined; readonly signal?: AbortSignal | undefined } = {},
): Promise<OpenedSource> {
  const before = await stat(file).catch(() => undefined);
  const known = await readKnown(file, beside);
  if (known) return opened(file, name, known);
  const source = await openSource(file, name, signal);
  if (before) await keep(source, beside, before.size, before.mtimeMs);
  return source;
}

/** What was found in a file and kept beside it, or beside another path, where it still is of this file. */
export async function readKnown(file: string, beside = file): Promise<Known | undefined> {
  try {
    const known = JSON.parse(await readFile(cacheBeside(beside), 'utf8')) as Known;
    const { size, mtimeMs } = await stat(file);
    return known.version === VERSION && known.bytes === size && known.modifiedMs === mtimeMs ? known : undefined;
  } catch {
    return undefined;
  }
}

function opened(file: string, name: string, { facts, times: all, keys, sizes }: Known): OpenedSource {
  const times = Float64Array.from(all);
  const { timeBase, declaredRate } = facts.video!;
  const grid = gridOf(facts, times, timeBase.num / timeBase.den, declaredRate);
  return {
    file,
    facts: { ...facts, name },
    index: { times, keys: Int32Array.from(keys), sizes: sizes ? Float64Array.from(sizes) : undefined, grid },
  };
}

/** Keeps what was found in a file beside another path, for `openCached`. */
export async function keepBeside(beside: string, source: OpenedSource): Promise<void> {
  const { size, mtimeMs } = await stat(source.file);
  await keep(source, beside, size, mtimeMs);
}

async function keep({ facts, index }: OpenedSource, beside: string, bytes: number, modifiedMs: number): Promise<void> {
  const { times, keys, sizes } = index;
  const known: Known = {
    version: VERSION,
    bytes,
    modifiedMs,
    facts,
    times: [...times],
    keys: [...keys],
    sizes: sizes ? [...sizes] : null,
  };
  const part = `${cacheBeside(beside)}.${randomUUID().slice(0, 8)}.part`;
  try {
    await writeFile(part, JSON.stringify(known));
    await rename(part, cacheBeside(beside));
  } catch {
    // A full disk, or a folder that is not ours to write in: it is only found again.
    await rm(part, { force: true }).catch(() => undefined);
  }
}
