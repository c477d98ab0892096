import { writeFile } from 'node:fs/promises';
import type { Health } from '@idle-bend/core/health';
import { filmstrip, joinPieces, openCached, writePieces } from '@idle-bend/media';
import { defineJob } from './define-job.js';

export interface ProxyInput {
  readonly original: string;
  /** Where what is found in it is kept beside, when it lies elsewhere. */
  readonly beside: string;
  readonly name: string;
  /** A folder for the pieces, and the one to begin with. */
  readonly pieces: string;
  readonly from: number;
  readonly proxy: string;
  /** Of its pictures. */
  readonly size: { readonly width: number; readonly height: number };
  readonly strip: string;
}

/** Makes what is missing of the editing proxy, piece by piece, joins it, and draws the filmstrip; answers how the pictures are. */
export const proxy = defineJob({
  silentSeconds: 600,
  async run(
    { original, beside, name, pieces, from, proxy: file, size, strip }: ProxyInput,
    { signal, onProgress },
  ): Promise<Health> {
    const source = await openCached(original, name, { beside, signal });
    await writePieces(source, pieces, { size, from, onFrame: onProgress, signal });
    const health = await joinPieces(source, pieces, file, { size, signal });
    await writeFile(strip, await filmstrip(file, name, source.index.grid.frames, signal));
    return health;
  },
});
