import { probe, writeFields } from '@idle-bend/media';
import { defineJob } from './define-job.js';

/** Makes frames of the fields of an interlaced file. */
export const fields = defineJob({
  silentSeconds: 12 * 3600,
  async run(
    { original, name, file }: { readonly original: string; readonly name: string; readonly file: string },
    { signal },
  ): Promise<void> {
    await writeFields(original, await probe(original, name), file, signal);
  },
});
