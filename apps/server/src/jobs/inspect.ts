import type { FootageFacts } from '@idle-bend/core/api';
import { checkDecodes, fingerprintOf, indexFrames, keepBeside, probe, readFacts } from '@idle-bend/media';
import { defineJob } from './define-job.js';

/** A file that was looked into. */
export interface InspectedFile {
  /** Its name as it is shown. */
  readonly name: string;
  readonly facts: FootageFacts;
  readonly fingerprint: string;
}

export interface InspectInput {
  readonly file: string;
  readonly name: string;
  /** A path of ours beside which its frame list is kept, so that nobody has to look for it again. */
  readonly beside?: string;
}

/** Looks into a file that is to become footage; refuses one that cannot. */
export const inspect = defineJob({
  silentSeconds: 900,
  async run({ file, name, beside }: InspectInput): Promise<InspectedFile> {
    const media = await probe(file, name);
    const index = media.video && (await indexFrames(file, media));
    const [fingerprint] = await Promise.all([fingerprintOf(file), checkDecodes(file, media, index)]);
    if (beside !== undefined && index) await keepBeside(beside, { file, facts: media, index });
    return { name, facts: readFacts(media, index), fingerprint };
  },
});
