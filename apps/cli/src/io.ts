import { readFile, rename, writeFile } from 'node:fs/promises';
import { InvalidInput } from '@idle-bend/core/foundation';
import { holdScratch, releaseScratch } from '@idle-bend/media';

/** A file's bytes; of `-` those of standard input. Throws `InvalidInput` naming it. */
export async function readBytes(file: string): Promise<Buffer> {
  if (file === '-') {
    const chunks: Buffer[] = [];
    for await (const chunk of process.stdin) chunks.push(chunk as Buffer);
    return Buffer.concat(chunks);
  }
  return readFile(file).catch((error: Error) => {
    throw new InvalidInput(file, `cannot be read: ${error.message}`);
  });
}

/** Writes a file beside its place and puts it there; `-` is standard output. */
export async function writeOut(file: string, content: string | Uint8Array): Promise<void> {
  if (file === '-')
    return new Promise((resolve, reject) =>
      process.stdout.write(content, (error) => (error ? reject(error) : resolve())),
    );
  const part = holdScratch(`${file}.part`);
  await writeFile(part, content);
  await rename(part, file);
  releaseScratch(part);
}

/** "list.edl" as "list 2.edl". */
export const numbered = (file: string, number: number): string =>
  number === 1 ? file : file.replace(/(\.\w+)?$/, ` ${number}$1`);
