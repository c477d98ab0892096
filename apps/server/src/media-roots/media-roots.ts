import { createHash } from 'node:crypto';
import { closeSync, lstatSync, realpathSync } from 'node:fs';
import { readdir, stat } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { Injectable, NotFoundException } from '@nestjs/common';
import type { FileReference, MediaFolder, MediaRoot } from '@idle-bend/core/api';
import { MediaError } from '@idle-bend/media';
import { Config } from '../config.js';
import { isWithin, openInside, partsOf, type OpenFile } from './open-inside.js';

/** What footage and sounds are called. */
const KINDS =
  /^\.(mp4|mov|m4v|3gp|mkv|webm|avi|ts|mts|m2ts|mpg|mpeg|mxf|flv|wmv|ogv|gif|nut|dv|wav|w64|flac|mp3|m4a|aac|ogg|opus|aif|aiff|caf|ac3)$/i;

/** So many entries of a root are looked through for a file. */
const MAX_SEARCHED = 100_000;

/** A descriptor whose file was replaced is closed so much later, when nobody uses it any more. */
const CLOSE_AFTER_MS = 24 * 3600_000;

/** Whether a file is where it was, and what it was. */
export type FileState = 'here' | 'missing' | 'changed';

/** The folders of this machine that footage may be taken from where it lies: what is in them, and the files themselves. */
@Injectable()
export class MediaRoots {
  private readonly folders: ReadonlyMap<string, string>;
  /** Files that were used, open as long as they are what they were: by root and path. */
  private readonly held = new Map<string, OpenFile>();

  constructor(private readonly config: Config) {
    this.folders = new Map(config.media.map((folder) => [idOf(folder), folder]));
  }

  /** None where they are not shown to others. */
  async list(): Promise<MediaRoot[]> {
    if (!this.config.showsMedia) return [];
    return Promise.all(
      [...this.folders].map(async ([id, folder]) => ({
        id,
        name: basename(folder) || folder,
        isHere: await stat(folder).then(
          (stats) => stats.isDirectory(),
          () => false,
        ),
      })),
    );
  }

  /** The folders in a folder of a root, and its footage. Links, devices, what is hidden and the data folder are not among them. */
  async folder(root: string, path: string): Promise<MediaFolder> {
    const place = this.placeOf(root);
    const entries = await readdir(this.plainFolder(place, path), { withFileTypes: true }).catch(() => {
      throw new NotFoundException('There is no such folder.');
    });
    const shown = entries.filter(({ name }) => !name.startsWith('.'));
    const folder = join(place, ...partsOf(path));
    const folders = shown
      .filter((entry) => entry.isDirectory() && !this.isHidden(join(folder, entry.name)))
      .map(({ name }) => name);
    const footage = shown.filter((entry) => entry.isFile() && KINDS.test(extname(entry.name)));
    const files = await Promise.all(
      footage.map(async ({ name }) => {
        const stats = await stat(join(folder, name)).catch(() => undefined);
        return stats ? [{ name, bytes: stats.size, modifiedMs: stats.mtimeMs }] : [];
      }),
    );
    return { folders: folders.sort(byName), files: files.flat().sort((a, b) => byName(a.name, b.name)) };
  }

  /** A folder inside a root, which no link leads to. */
  private plainFolder(place: string, path: string): string {
    try {
      const wanted = join(realpathSync(place), ...partsOf(path));
      if (realpathSync(wanted) === wanted && !this.isHidden(wanted)) return wanted;
    } catch {
      // Told below.
    }
    throw new NotFoundException('There is no such folder.');
  }

  /** The file, open, and what it is now. It stays open as long as it is the same. Throws `MediaError`, or 404 without such a root. */
  open(root: string, path: string): OpenFile {
    const key = `${root}/${path}`;
    const known = this.held.get(key);
    const now = this.statsOf(root, path);
    if (known && now && known.stats.ino === now.ino && known.stats.dev === now.dev) return { ...known, stats: now };
    if (known) {
      this.held.delete(key);
      setTimeout(() => closeSync(known.descriptor), CLOSE_AFTER_MS).unref();
    }
    const opened = openInside(this.placeOf(root), path, [this.hiddenFolder]);
    this.held.set(key, opened);
    return opened;
  }

  /** Files of all roots that have one of these sizes; folders in folders too, as far as there are not too many. */
  async filesOfSize(sizes: ReadonlySet<number>): Promise<{ root: string; path: string }[]> {
    const found: { root: string; path: string }[] = [];
    for (const root of this.folders.keys()) {
      const waiting = [''];
      for (let seen = 0; waiting.length > 0 && seen < MAX_SEARCHED;) {
        const path = waiting.pop()!;
        const { folders, files } = await this.folder(root, path).catch(() => ({ folders: [], files: [] }));
        const inside = (name: string) => (path === '' ? name : `${path}/${name}`);
        waiting.push(...folders.map(inside));
        found.push(...files.filter(({ bytes }) => sizes.has(bytes)).map(({ name }) => ({ root, path: inside(name) })));
        seen += folders.length + files.length;
      }
    }
    return found;
  }

  /** Whether what footage refers to is there, and as it was taken in. */
  stateOf({ root, path, bytes, modifiedMs }: FileReference): FileState {
    const now = this.folders.has(root) ? this.statsOf(root, path) : undefined;
    if (!now) return 'missing';
    return now.size === bytes && now.mtimeMs === modifiedMs ? 'here' : 'changed';
  }

  /** A path of this machine to what footage refers to, for commands that run beside the server. */
  placeOfFile({ root, path }: FileReference): string {
    return join(this.placeOf(root), ...partsOf(path));
  }

  nameOf(root: string): string | undefined {
    const folder = this.folders.get(root);
    return folder && (basename(folder) || folder);
  }

  /** What is at a path, where no link leads to it. */
  private statsOf(root: string, path: string) {
    try {
      const wanted = join(realpathSync(this.placeOf(root)), ...partsOf(path));
      const stats = lstatSync(wanted);
      return stats.isFile() && realpathSync(wanted) === wanted && !this.isHidden(wanted) ? stats : undefined;
    } catch {
      return undefined;
    }
  }

  private placeOf(root: string): string {
    const place = this.folders.get(root);
    if (place === undefined) throw new NotFoundException('There is no such media folder.');
    return place;
  }

  private get hiddenFolder(): string {
    return realpathSync(this.config.data);
  }

  private isHidden(path: string): boolean {
    return isWithin(this.hiddenFolder, path);
  }

  /** What is said where footage cannot be read as it is. */
  refusalOf(name: string, state: Exclude<FileState, 'here'>): MediaError {
    return new MediaError(
      state === 'missing'
        ? `${name}: there is no such file where it was.`
        : `${name} was changed on the disk since it was taken in; look at it on the Footage page and say which one is meant.`,
    );
  }
}

/** Stays the same over restarts, and tells nothing of where the folder is. */
const idOf = (folder: string) => createHash('sha256').update(folder).digest('hex').slice(0, 12);

const byName = (a: string, b: string) => a.localeCompare(b, 'en', { numeric: true });
