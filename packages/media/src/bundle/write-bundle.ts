import { createReadStream, type ReadStream } from 'node:fs';
import type { Readable } from 'node:stream';
import type { BundleManifest } from '@idle-bend/core/exchange';
import type { Project } from '@idle-bend/core/model';
import type { SavedShape } from '@idle-bend/core/shape';
import { writeShapes } from '@idle-bend/core/shape';

/** What goes into a bundle. */
export interface BundleContent {
  readonly manifest: BundleManifest;
  readonly document: Project;
  readonly shapes: readonly SavedShape[];
  /** Files of the footage, in the order of the manifest: the name each has in the bundle, and where it is. */
  readonly files: readonly (readonly { readonly name: string; readonly path: string }[])[];
}

/** All bundles say the same moment, so that the same content is the same file. */
const MOMENT = new Date('2000-01-01T00:00:00Z');

/**
 * A bundle as it is written (ZIP, with 64-bit sizes where needed): JSON compressed, media as they are. A file that goes away meanwhile ends
 * the stream with an error; a stream nobody reads any more lets go of its file.
 */
export async function writeBundle({ manifest, document, shapes, files }: BundleContent): Promise<Readable> {
  // Loaded by those who write one only: every job begins with a process that loads this package.
  const { ZipFile } = await import('yazl');
  const zip = new ZipFile();
  const json = (name: string, value: unknown) =>
    zip.addBuffer(Buffer.from(typeof value === 'string' ? value : JSON.stringify(value, null, 2)), name, {
      mtime: MOMENT,
      mode: 0o100644,
    });
  json('bundle.json', manifest);
  json('document.json', document);
  json('shapes.json', writeShapes(shapes));
  const output = zip.outputStream as unknown as Readable;
  let reading: ReadStream | undefined;
  const fail = (error: Error) => output.destroy(error);
  zip.on('error', fail);
  output.once('close', () => reading?.destroy());
  for (const [i, all] of files.entries())
    for (const { name, path } of all)
      zip.addReadStreamLazy(
        `footage/${i}/${name}`,
        { mtime: MOMENT, mode: 0o100644, compress: name.endsWith('.json') },
        (done) => {
          // Whoever asked may have gone before its turn came.
          if (output.destroyed) return;
          reading = createReadStream(path).on('error', fail);
          done(null, reading);
        },
      );
  zip.end();
  return output;
}
