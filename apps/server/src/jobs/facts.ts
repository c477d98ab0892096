import type { MediaFileFacts } from '@idle-bend/core/api';
import { lookAtHeaders } from '@idle-bend/media';
import { defineJob } from './define-job.js';

/** So many files are looked at together: each waits for the disk, or for a program. */
const TOGETHER = 4;

export interface ListedFile {
  readonly file: string;
  readonly name: string;
}

/** What the headers of many files say, in their order. */
export const facts = defineJob({
  silentSeconds: 120,
  async run({ files }: { readonly files: readonly ListedFile[] }, { onProgress }): Promise<MediaFileFacts[]> {
    const found: MediaFileFacts[] = [];
    const waiting = [...files.entries()];
    const lane = async () => {
      for (let next = waiting.shift(); next; next = waiting.shift()) {
        const [i, { file, name }] = next;
        found[i] = await lookAtHeaders(file, name).catch((error: Error) => ({ problem: error.message }));
        onProgress(files.length - waiting.length, files.length);
      }
    };
    await Promise.all(Array.from({ length: TOGETHER }, lane));
    return found;
  },
});
