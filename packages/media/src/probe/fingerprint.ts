import { subtle } from 'node:crypto';
import { open } from 'node:fs/promises';

/** Bytes that are read at the beginning, in the middle and at the end. */
const WINDOW = 1 << 20;

/** Tells a file from others without reading all of it: SHA-256 of its length and of a mebibyte at its beginning, middle and end, in hexadecimal. */
export async function fingerprintOf(file: string): Promise<string> {
  const handle = await open(file, 'r');
  try {
    const { size } = await handle.stat();
    const parts: Buffer[] = [Buffer.from(String(size))];
    for (const at of [0, Math.floor((size - WINDOW) / 2), size - WINDOW]) {
      const { buffer, bytesRead } = await handle.read(Buffer.alloc(WINDOW), 0, WINDOW, Math.max(0, at));
      parts.push(buffer.subarray(0, bytesRead));
    }
    // On a thread of its own: of many files this is most of the work.
    return Buffer.from(await subtle.digest('SHA-256', Buffer.concat(parts))).toString('hex');
  } finally {
    await handle.close();
  }
}
