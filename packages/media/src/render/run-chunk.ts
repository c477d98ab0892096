import { parseProject } from '@idle-bend/core/model';
import { atQuality, type RenderQuality } from '@idle-bend/core/render';
import type { MediaFiles } from '../sound/clip-sounds.js';
import { MediaError } from '../ffmpeg/media-error.js';
import { openCached } from '../probe/index-cache.js';
import type { OpenedSource } from '../probe/source.js';
import { writeChunk, type ChunkOrder, type ChunkWork } from './chunk.js';

/** Everything a machine has to know to make a chunk. */
export interface ChunkJob {
  /** The project document, as JSON text, as it was when the render was asked for. */
  readonly document: string;
  readonly quality: RenderQuality;
  readonly order: ChunkOrder;
}

/** Makes a chunk of a render from the media it is given, which lie in folders of our own. Throws `MediaError`, or `InvalidInput` for a document that cannot be read. */
export async function runChunk(
  { document, quality, order }: ChunkJob,
  files: MediaFiles,
  folder: string,
  work: ChunkWork = {},
): Promise<number> {
  const opened = new Map<string, Promise<OpenedSource>>();
  const open = (id: string) => {
    const media = files[id];
    if (!media) throw new MediaError(`The footage behind source ${id} is not in this project any more.`);
    if (!opened.has(id)) opened.set(id, openCached(media.file, media.name, { beside: media.own }));
    return opened.get(id)!;
  };
  return writeChunk(atQuality(parseProject(JSON.parse(document)), quality), order, open, folder, work);
}

/** The queue that workers take chunks from. */
export const CHUNK_QUEUE = 'idle-bend-chunks';

/** What waits there: a chunk, and the files it is made from by footage, as they are named in the footage's own folder. */
export interface ChunkTicket {
  readonly renderId: string;
  readonly job: ChunkJob;
  /** The kernels of the server that asks: another's would make other pictures. */
  readonly kernels: string;
  readonly media: Readonly<Record<string, MediaTicket>>;
}

/** A file that a chunk is made from. */
export interface MediaTicket {
  readonly name: string;
  readonly fileName: string;
  readonly bytes: number;
  /** As `fingerprintOf` has it. */
  readonly fingerprint: string;
}
