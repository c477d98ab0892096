import { mkdtempSync, rmSync } from 'node:fs';

/** What is half made: it goes with the process, however that ends short of a kill. */
const held = new Set<string>();
process.once('exit', () => {
  for (let look = 0; look < LOOKS && held.size > 0; look++) {
    if (look > 0) Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, BETWEEN_MS);
    // A program that was just ended may still write its last into it.
    for (const path of held) rmSync(path, { recursive: true, force: true, maxRetries: 20, retryDelay: 25 });
  }
});
/** A folder that was being made by another thread when all ended may be there again a moment later. */
const LOOKS = 3;
const BETWEEN_MS = 30;

/** Says that a file or folder is half made. */
export function holdScratch(path: string): string {
  held.add(path);
  return path;
}

/**
 * A new folder for what is half made, its name begun by `prefix`. In one go: a signal cannot come between the folder and its being
 * known, which it could while another thread makes it.
 */
export const makeScratchFolder = (prefix: string): string => holdScratch(mkdtempSync(prefix));

/** Says that it has gone, or has become what it was to be. */
export const releaseScratch = (path: string): void => void held.delete(path);
