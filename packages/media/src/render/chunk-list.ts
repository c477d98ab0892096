import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { RenderFormatName } from '@idle-bend/core/render';
import { lastComplaint } from '../ffmpeg/ffmpeg.js';
import { chunkName } from './chunk.js';

/** The list ffmpeg's concat reader takes: our own files, by names without a path. */
export async function chunkInput(
  folder: string,
  { format, chunks }: { readonly format: RenderFormatName; readonly chunks: number },
): Promise<string[]> {
  const list = join(folder, '.chunks.txt');
  const lines = Array.from({ length: chunks }, (_, i) => `file ${chunkName(format, i)}`);
  await writeFile(list, ['ffconcat version 1.0', ...lines, ''].join('\n'));
  return ['-protocol_whitelist', 'file', '-f', 'concat', '-safe', '1', '-i', `file:${list}`];
}

/** What ffmpeg complains of when it puts parts together, as a sentence. */
export const joining = (complaint: string) =>
  /No space left/i.test(complaint)
    ? 'The disk is full.'
    : `The parts could not be put together: ${lastComplaint(complaint)}.`;
