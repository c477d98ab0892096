import type { FootageFacts } from '@idle-bend/core';
import { checkDecodes, fingerprintOf, indexFrames, probe, readFacts } from '@idle-bend/media';

/** A file that was looked into. */
export interface InspectedFile {
  /** Its name as it is shown. */
  readonly name: string;
  readonly facts: FootageFacts;
  readonly fingerprint: string;
}

/** Looks into a file that is to become footage. Throws `MediaError` with one sentence when it is none. */
export async function inspectFile(file: string, name: string): Promise<InspectedFile> {
  const media = await probe(file, name);
  const index = media.video && (await indexFrames(file, media));
  await checkDecodes(file, media, index);
  return { name, facts: readFacts(media, index), fingerprint: await fingerprintOf(file) };
}
