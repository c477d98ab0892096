import { createHash } from 'node:crypto';
import { open } from 'node:fs/promises';

/** Bytes that are read at the beginning, in the middle and at the end. */
const WINDOW = 1 << 20;

/** Tells a file from others without reading all of it: SHA-256 of its length and of a mebibyte at its beginning, middle and end, in hexadecimal. */
export async function fingerprintOf(file: string): Promise<string> {
  const handle = await open(file, 'r');
  try {
    const { size } = await handle.stat();
    const hash = createHash('sha256').update(String(size));
    const buffer = Buffer.alloc(WINDOW);
    for (const at of [0, Math.floor((size - WINDOW) / 2), size - WINDOW]) {
      const { bytesRead } = await handle.read(buffer, 0, WINDOW, Math.max(0, at));
      hash.update(buffer.subarray(0, bytesRead));
    }
    return hash.digest('hex');
  } finally {
    await handle.close();
  }
}
