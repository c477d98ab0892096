import { basename } from 'node:path';
import { indexFrames, type FrameIndex } from './frame-index.js';
import { collect, safeInput } from '../ffmpeg/ffmpeg.js';
import { probe, type MediaFacts } from './probe.js';
import { readTables } from './header-index.js';

/** A file that has been looked into: what it says of itself, and its frames. */
export interface OpenedSource {
  readonly file: string;
  readonly facts: MediaFacts;
  readonly index: FrameIndex;
}

/** Looks into a file with a picture. Throws `MediaError`, one sentence, for a file without one. */
export async function openSource(file: string, name = basename(file), signal?: AbortSignal): Promise<OpenedSource> {
  const tables = readTables(file);
  const facts = await probe(file, name);
  return { file, facts, index: await indexFrames(file, facts, { signal, tables }) };
}

/** Decodes the beginning of a file's sound, so that one whose header is fine and whose content is not is refused at once. Throws `MediaError`. */
export async function checkSoundDecodes(file: string, facts: MediaFacts): Promise<void> {
  const explain = () => `${facts.name}: its sound cannot be decoded; it may be damaged.`;
  const args = [
    '-v',
    'error',
    '-nostdin',
    '-xerror',
    '-t',
    '5',
    ...safeInput(file),
    '-map',
    `0:${facts.sound!.stream}`,
    '-f',
    'null',
    '-',
  ];
  await collect('ffmpeg', args, { seconds: 60, explain });
}
