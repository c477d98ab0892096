import { basename, extname } from 'node:path';
import type { InspectedFile, RefusedFile } from '../jobs/inspect.js';
import { readyForWork, runJob } from '../jobs/job.js';
import type { FootageFacts } from '@idle-bend/core/api';
import type { Frame } from '@idle-bend/core/frame';
import { type ProxyLines, proxySize } from '@idle-bend/core/proxy';

export type { InspectedFile };

/** Looks into a file that is to become footage, in a process of its own. Throws `MediaError` with one sentence when it is not footage. */
export async function inspectFile(file: string, name: string, beside?: string): Promise<InspectedFile> {
  const inspected = await runJob('inspect', { file, name: shownName(name), ...(beside !== undefined && { beside }) })
    .result;
  // Another file often follows.
  readyForWork();
  if (inspected.first) keepFirst(inspected.fingerprint, inspected.first);
  return inspected;
}

/** Looks into many files in one process; what was found, or why one is no footage, in their order. */
export const inspectFiles = (
  files: readonly { readonly file: string; readonly name: string; readonly beside: string }[],
): Promise<(InspectedFile | RefusedFile)[]> =>
  runJob('inspectMany', { files: files.map(({ name, ...file }) => ({ ...file, name: shownName(name) })) }).result;

/** First pictures of files that were looked into lately, by their fingerprint: whoever takes one in looks at it next. */
const firsts = new Map<string, Frame>();
const MAX_FIRSTS = 16;

function keepFirst(fingerprint: string, first: Frame): void {
  firsts.set(fingerprint, first);
  if (firsts.size > MAX_FIRSTS) firsts.delete(firsts.keys().next().value!);
}

/** The first picture of a file as its proxy has it, where it was looked into lately. */
export const firstPictureOf = (fingerprint: string | null): Frame | undefined =>
  fingerprint === null ? undefined : firsts.get(fingerprint);

/** What is known of footage whose proxy is to have so many lines. */
export const withProxyOf = (facts: FootageFacts, lines: ProxyLines): FootageFacts =>
  facts.picture ? { ...facts, picture: { ...facts.picture, proxy: proxySize(facts.picture, lines) } } : facts;

export const shownName = (name: string) =>
  basename(name)
    .replace(/\p{Cc}/gu, '')
    .slice(0, 200) || 'unnamed';
export const originalName = (name: string, mark = '') =>
  `original${mark}${extname(name)
    .replace(/[^.\w]/g, '')
    .slice(0, 10)}`;
