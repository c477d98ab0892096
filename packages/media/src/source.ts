import { basename } from 'node:path';
import { indexFrames, type FrameIndex } from './frame-index.js';
import { probe, type MediaFacts } from './probe.js';

/** A file that has been looked into: what it says of itself, and its frames. */
export interface OpenedSource {
  readonly file: string;
  readonly facts: MediaFacts;
  readonly index: FrameIndex;
}

/** Looks into a file with a picture. Throws `MediaError`, one sentence, when there is none to be had. */
export async function openSource(file: string, name = basename(file), signal?: AbortSignal): Promise<OpenedSource> {
  const facts = await probe(file, name);
  return { file, facts, index: await indexFrames(file, facts, signal) };
}
