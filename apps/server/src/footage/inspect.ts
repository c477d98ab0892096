import { basename, extname } from 'node:path';
import type { InspectedFile, Kinds, RefusedFile } from '../jobs/inspect.js';
import { readyForWork, runJob } from '../jobs/job.js';
import type { FootageFacts } from '@idle-bend/core/api';
import type { Frame } from '@idle-bend/core/frame';
import { type ProxyLines, proxySize } from '@idle-bend/core/proxy';

export type { InspectedFile, RefusedFile };

/** Looks into a file that is to become footage, in a process of its own. Throws `MediaError` with one sentence when it is not footage. */
export async function inspectFile(file: string, name: string, beside?: string): Promise<InspectedFile> {
  const inspected = await runJob('inspect', { file, name: shownName(name), ...(beside !== undefined && { beside }) })
    .result;
  // Another file often follows.
  readyForWork();
  if (inspected.first && inspected.fingerprint !== null) keepFirst(inspected.fingerprint, inspected.first);
  return inspected;
}

/** What is known of kinds of files: of the next ones of a camera the program that tells it need not be asked. */
const kinds = new Map<string, Kinds[number][1]>();
const MAX_KINDS = 100;

/** Looks into many files in one process; what was found, or why one is no footage, in their order. */
export async function inspectFiles(
  files: readonly { readonly file: string; readonly name: string; readonly beside: string }[],
  fingerprint: boolean,
): Promise<readonly (InspectedFile | RefusedFile)[]> {
  const named = files.map(({ name, ...file }) => ({ ...file, name: shownName(name) }));
  const { found, kinds: known } = await runJob('inspectMany', { files: named, fingerprint, kinds: [...kinds] }).result;
  for (const [key, facts] of known) kinds.set(key, facts);
  for (const key of kinds.keys()) if (kinds.size > MAX_KINDS) kinds.delete(key);
  return found;
}

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
