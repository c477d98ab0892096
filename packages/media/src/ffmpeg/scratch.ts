import { mkdirSync, mkdtempSync, readdirSync, readlinkSync, rmSync } from 'node:fs';
import { hostname } from 'node:os';
import { basename, dirname, join } from 'node:path';

/** What is half made: it goes with the process, however that ends short of a kill; folders of killed ones go when the next is made. */
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
 * A new folder for what is half made, its name begun by `prefix`; the machine and the process follow. In one go: a signal cannot come
 * between the folder and its being known, which it could while another thread makes it. The first time a process asks for a prefix, folders
 * of that prefix that killed processes of this machine left are removed.
 */
export function makeScratchFolder(prefix: string): string {
  const here = `${prefix}${machineName()}-`;
  if (!cleared.has(here)) for (const path of leftBehind(here)) rmSync(path, { recursive: true, force: true });
  cleared.add(here);
  return holdScratch(mkdtempSync(`${here}${process.pid}-`));
}

/**
 * A folder and those it lies in. In one go for the same reason: made by another thread, it could bring a folder back that went with
 * the process.
 */
export const mkdirInOneGo = (path: string): void => void mkdirSync(path, { recursive: true });

/** Says that it has gone, or has become what it was to be. */
export const releaseScratch = (path: string): void => void held.delete(path);

/** Prefixes whose folders of killed processes are gone. */
const cleared = new Set<string>();

/** Numbers of processes mean something on one machine, and in a container only there. */
const machineName = () => `${hostname().replace(/[^\w.]/g, '_')}_${processSpace()}`;

function processSpace(): string {
  try {
    return readlinkSync('/proc/self/ns/pid').replace(/\D/g, '');
  } catch {
    return '';
  }
}

function leftBehind(prefix: string): string[] {
  const [folder, name] = [dirname(prefix), basename(prefix)];
  return entriesOf(folder)
    .filter((entry) => entry.startsWith(name) && !isRunning(Number.parseInt(entry.slice(name.length), 10)))
    .map((entry) => join(folder, entry));
}

/** None of a folder that may be written to and not read. */
function entriesOf(folder: string): string[] {
  try {
    return readdirSync(folder);
  } catch {
    return [];
  }
}

function isRunning(pid: number): boolean {
  try {
    return process.kill(pid, 0);
  } catch (error) {
    // Others' processes may not be asked, but are there.
    return (error as NodeJS.ErrnoException).code !== 'ESRCH';
  }
}
