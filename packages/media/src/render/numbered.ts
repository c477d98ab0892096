import { createWriteStream } from 'node:fs';
import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { RenderFormatName } from '@idle-bend/core/render';
import { MediaError } from '../ffmpeg/media-error.js';
import { countPictures } from './check.js';
import { chunkName } from './chunk.js';

/** All archives say the same moment, so that the same pictures are the same archive. */
const MOMENT = new Date('2000-01-01T00:00:00Z');

/** The numbered pictures of all chunks in one archive, `00000000.png` the first, each decoded once to see that it is whole. They are compressed already, so the archive only holds them. Throws `MediaError`. */
export async function zipPictures(
  folder: string,
  { format, chunks }: { readonly format: RenderFormatName; readonly chunks: number },
  kind: string,
  frames: number,
  out: string,
  signal?: AbortSignal,
): Promise<void> {
  const { ZipFile } = await import('yazl');
  const zip = new ZipFile();
  const writing = pipeline(zip.outputStream, createWriteStream(out), { signal });
  // It is awaited below; a failure before that is not left unheard.
  writing.catch(() => undefined);
  let count = 0;
  for (let i = 0; i < chunks; i++) {
    const place = join(folder, chunkName(format, i));
    const names = (await readdir(place)).sort();
    if ((await countPictures(place, kind, count, signal)) !== names.length)
      throw new MediaError('A picture of the render cannot be decoded.');
    for (const name of names) zip.addFile(join(place, name), name, { compress: false, mtime: MOMENT, mode: 0o100644 });
    count += names.length;
  }
  zip.end();
  await writing;
  if (count !== frames) throw new MediaError(`The render has ${count} pictures instead of ${frames}.`);
}
