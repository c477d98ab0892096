import { basename } from 'node:path';
import { indexFrames, type FrameIndex } from './frame-index.js';
import { collect, safeInput } from '../ffmpeg/ffmpeg.js';
import { probe, type MediaFacts } from './probe.js';
import { SourceReader } from '../decode/source-reader.js';

/** A file that has been looked into: what it says of itself, and its frames. */
export interface OpenedSource {
  readonly file: string;
  readonly facts: MediaFacts;
  readonly index: FrameIndex;
}

/** Looks into a file with a picture. Throws `MediaError`, one sentence, for a file without one. */
export async function openSource(file: string, name = basename(file), signal?: AbortSignal): Promise<OpenedSource> {
  const facts = await probe(file, name);
  return { file, facts, index: await indexFrames(file, facts, signal) };
}

/**
 * Decodes the beginning of a file, so that one whose header is fine and whose content is not is refused at once.
 * Throws `MediaError`.
 */
export async function checkDecodes(file: string, facts: MediaFacts, index: FrameIndex | undefined): Promise<void> {
  if (index) {
    const reader = new SourceReader(file, facts, index, { cacheBytes: 1 });
    try {
      await reader.frames([0]);
    } finally {
      reader.close();
    }
    return;
  }
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
