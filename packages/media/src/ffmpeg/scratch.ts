import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';

/** What is half made: it goes with the process, however that ends short of a kill. */
const held = new Set<string>();
process.once('exit', () => {
  // A program that was just ended may still write its last into it.
  for (const path of held) rmSync(path, { recursive: true, force: true, maxRetries: 20, retryDelay: 25 });
});

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

/**
 * A folder and those it lies in. In one go for the same reason: made by another thread, it could bring a folder back that went with
 * the process.
 */
export const mkdirInOneGo = (path: string): void => void mkdirSync(path, { recursive: true });

/** Says that it has gone, or has become what it was to be. */
export const releaseScratch = (path: string): void => void held.delete(path);
