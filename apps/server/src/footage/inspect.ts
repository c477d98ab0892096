import { basename, extname } from 'node:path';
import type { FootageFacts } from '@idle-bend/core';
import { checkDecodes, fingerprintOf, indexFrames, probe, readFacts, type MediaFacts } from '@idle-bend/media';

/** A file that was looked into. */
export interface InspectedFile {
  /** Its name as it is shown. */
  readonly name: string;
  readonly media: MediaFacts;
  readonly facts: FootageFacts;
  readonly fingerprint: string;
}

/** Looks into a file that is to become footage. Throws `MediaError` with one sentence when it is none. */
export async function inspectFile(file: string, name: string): Promise<InspectedFile> {
  const shown = shownName(name);
  const media = await probe(file, shown);
  const index = media.video && (await indexFrames(file, media));
  await checkDecodes(file, media, index);
  return { name: shown, media, facts: readFacts(media, index), fingerprint: await fingerprintOf(file) };
}

/** Columns of footage of which nothing is prepared yet. A recording of sound alone has no proxy to wait for. */
export const unprepared = ({ media, facts, fingerprint }: InspectedFile) => ({
  status: media.video ? ('preparing' as const) : ('ready' as const),
  problem: null,
  health: null,
  motion: 'waiting' as const,
  sound: media.sound ? ('waiting' as const) : ('none' as const),
  facts: JSON.stringify(facts),
  fingerprint,
});

export const shownName = (name: string) => basename(name).replace(/\p{Cc}/gu, '').slice(0, 200) || 'unnamed'; // prettier-ignore
export const originalName = (name: string, mark = '') => `original${mark}${extname(name).replace(/[^.\w]/g, '').slice(0, 10)}`; // prettier-ignore
