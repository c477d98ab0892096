import { createHash } from 'node:crypto';
import { readFile, stat } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { isGroup, type Project, type Stretch } from '@idle-bend/core/model';
import { placeItems } from '@idle-bend/core/reel';
import type { RenderQuality } from '@idle-bend/core/render';
import type { MediaFiles } from '../sound/clip-sounds.js';
import { collect } from '../ffmpeg/ffmpeg.js';
import { fingerprintOf } from '../probe/fingerprint.js';
import { kernelsDigest } from '../kernels.js';
import type { ChunkOrder } from './chunk.js';

/** Frames beyond a chunk whose clips may still be seen in it: accents reach across cuts. */
const REACH = 240;

let tools: Promise<string> | undefined;
/** Stands for what makes pictures here: the kernels, this code, and ffmpeg as it says itself what it is. Throws `MediaError` without ffmpeg. */
const toolsDigest = (): Promise<string> => (tools ??= findTools());

async function findTools(): Promise<string> {
  const code = await readFile(fileURLToPath(import.meta.url));
  const { stdout } = await collect('ffmpeg', ['-version'], { seconds: 20, explain: () => 'ffmpeg does not run.' });
  return createHash('sha256').update(kernelsDigest()).update(code).update(stdout).digest('hex');
}

/** By file, as long as it is the same. */
const fingerprints = new Map<string, { readonly state: string; readonly fingerprint: Promise<string> }>();

async function fingerprintOnce(file: string): Promise<string> {
  const { size, mtimeMs } = await stat(file);
  const state = `${size} ${mtimeMs}`;
  let known = fingerprints.get(file);
  if (known?.state !== state) fingerprints.set(file, (known = { state, fingerprint: fingerprintOf(file) }));
  return known.fingerprint;
}

/** The footage that may be seen in a stretch of the reel, inside groups too, in a fixed order. */
function footageIn(project: Project, { from, to }: Stretch): string[] {
  const byId = new Map(project.sources.map((source) => [source.id, source]));
  const found = new Set<string>();
  const add = (id: string) => {
    const source = byId.get(id);
    if (!source || found.has(id)) return;
    found.add(id);
    if (isGroup(source)) for (const item of source.content.items) if (item.kind === 'clip') add(item.sourceId);
  };
  for (const { item, start, frames } of placeItems(project))
    if (item.kind === 'clip' && start < to + REACH && start + frames > from - REACH) add(item.sourceId);
  return [...found].filter((id) => !isGroup(byId.get(id)!)).sort();
}

/** What a chunk's pictures depend on, in 64 hexadecimal digits. */
export type ChunkIdentities = (order: ChunkOrder, files: MediaFiles) => Promise<string>;

/**
 * Tells the chunks of a render apart by everything their pictures depend on: what is shown, the files that is made from, how it is
 * written, and what makes it. Two chunks of one identity are the same bytes. `document` is the project's text as the render keeps it.
 */
export function chunkIdentities(project: Project, document: string, quality: RenderQuality): ChunkIdentities {
  const shown = createHash('sha256').update(document).digest('hex');
  return async (order, files) => {
    const sources = await Promise.all(
      footageIn(project, order.stretch).map(async (id) => {
        const media = files[id];
        // A file that is missing is found missing by whoever makes the chunk.
        return [id, media ? await fingerprintOnce(media.file).catch(() => null) : null];
      }),
    );
    const all = JSON.stringify([await toolsDigest(), shown, quality, order, sources]);
    return createHash('sha256').update(all).digest('hex');
  };
}
