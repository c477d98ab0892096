import { lstat, readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { fingerprintOf } from '@idle-bend/media';

/** How long what was found in the folders is believed: a chunk's files are looked for one after another. */
const BELIEVED_MS = 10_000;
/** So many entries of all folders are looked through. */
const MAX_SEARCHED = 100_000;

/** Files in folders of this machine, found by what is in them, wherever they lie there and whatever they are called. They are only read. */
export class OwnMedia {
  private searched:
    { readonly at: number; readonly bySize: Promise<ReadonlyMap<number, readonly string[]>> } | undefined;
  /** By file, length and time. */
  private readonly fingerprints = new Map<string, string>();

  constructor(private readonly folders: readonly string[]) {}

  /** The file of this length and fingerprint (see `fingerprintOf`), where there is one. */
  async find(bytes: number, fingerprint: string): Promise<string | undefined> {
    if (!this.searched || Date.now() - this.searched.at > BELIEVED_MS)
      this.searched = { at: Date.now(), bySize: this.search() };
    for (const file of (await this.searched.bySize).get(bytes) ?? [])
      if ((await this.fingerprintOf(file).catch(() => undefined)) === fingerprint) return file;
    return undefined;
  }

  private async fingerprintOf(file: string): Promise<string> {
    const { size, mtimeMs, ino } = await stat(file);
    const key = `${file} ${size} ${mtimeMs} ${ino}`;
    const known = this.fingerprints.get(key);
    if (known) return known;
    const fingerprint = await fingerprintOf(file);
    this.fingerprints.set(key, fingerprint);
    return fingerprint;
  }

  /** Links and what is hidden are passed over. */
  private async search(): Promise<Map<number, string[]>> {
    const bySize = new Map<number, string[]>();
    const waiting = [...this.folders];
    for (let seen = 0; waiting.length > 0 && seen < MAX_SEARCHED;) {
      const folder = waiting.pop()!;
      const entries = await readdir(folder, { withFileTypes: true }).catch(() => []);
      seen += entries.length;
      for (const entry of entries) {
        const path = join(folder, entry.name);
        if (entry.name.startsWith('.')) continue;
        if (entry.isDirectory()) waiting.push(path);
        if (!entry.isFile()) continue;
        const size = (await lstat(path).catch(() => undefined))?.size ?? 0;
        bySize.set(size, [...(bySize.get(size) ?? []), path]);
      }
    }
    return bySize;
  }
}
