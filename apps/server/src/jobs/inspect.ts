import type { FootageFacts } from '@idle-bend/core/api';
import { checkDecodes, fingerprintOf, indexFrames, probe, readFacts } from '@idle-bend/media';
import { defineJob } from './define-job.js';

/** A file that was looked into. */
export interface InspectedFile {
  /** Its name as it is shown. */
  readonly name: string;
  readonly facts: FootageFacts;
  readonly fingerprint: string;
}

/** Looks into a file that is to become footage; refuses one that cannot. */
export const inspect = defineJob({
  silentSeconds: 900,
  async run({ file, name }: { readonly file: string; readonly name: string }): Promise<InspectedFile> {
    const media = await probe(file, name);
    const index = media.video && (await indexFrames(file, media));
    await checkDecodes(file, media, index);
    return { name, facts: readFacts(media, index), fingerprint: await fingerprintOf(file) };
  },
});
