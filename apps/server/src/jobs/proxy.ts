import { writeFile } from 'node:fs/promises';
import type { Health } from '@idle-bend/core/health';
import { filmstrip, openCached, writeProxy } from '@idle-bend/media';
import { defineJob } from './define-job.js';

export interface ProxyInput {
  readonly original: string;
  /** Where what is found in it is kept beside, when it lies elsewhere. */
  readonly beside: string;
  readonly name: string;
  readonly proxy: string;
  readonly strip: string;
}

/** Writes the editing proxy and the filmstrip; answers how the pictures are. */
export const proxy = defineJob({
  silentSeconds: 600,
  async run({ original, beside, name, proxy: file, strip }: ProxyInput, { signal, onProgress }): Promise<Health> {
    const source = await openCached(original, name, { beside, signal });
    const health = await writeProxy(source, file, onProgress, signal);
    await writeFile(strip, await filmstrip(file, name, source.index.grid.frames, signal));
    return health;
  },
});
