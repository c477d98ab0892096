import { existsSync } from 'node:fs';

/** Something a file, a codec or the disk did. The message is one sentence for a person and names the file. */
export class MediaError extends Error {
  override readonly name = 'MediaError';
}

/** The sentence for a file that is missing, `undefined` while it is there. Files go away after they were looked at, and a decoder would only name their path. */
export function missingFile(file: string, name: string): string | undefined {
  return existsSync(file) ? undefined : `${name}: there is no such file.`;
}
