import { basename, extname } from 'node:path';
import type { InspectedFile } from '../jobs/inspect.js';
import { runJob } from '../jobs/job.js';

export type { InspectedFile };

/** Looks into a file that is to become footage, in a process of its own. Throws `MediaError` with one sentence when it is not footage. */
export async function inspectFile(file: string, name: string, beside?: string): Promise<InspectedFile> {
  return runJob('inspect', { file, name: shownName(name), ...(beside !== undefined && { beside }) }).result;
}

/** Columns of footage of which nothing is prepared yet. A recording of sound alone has no proxy to wait for. */
export const unprepared = ({ facts, fingerprint }: InspectedFile) => ({
  status: facts.picture ? ('preparing' as const) : ('ready' as const),
  problem: null,
  health: null,
  motion: 'waiting' as const,
  sound: facts.sound ? ('waiting' as const) : ('none' as const),
  facts: JSON.stringify(facts),
  fingerprint,
});

export const shownName = (name: string) =>
  basename(name)
    .replace(/\p{Cc}/gu, '')
    .slice(0, 200) || 'unnamed';
export const originalName = (name: string, mark = '') =>
  `original${mark}${extname(name)
    .replace(/[^.\w]/g, '')
    .slice(0, 10)}`;
