import { createHash } from 'node:crypto';
import { closeSync, lstatSync, realpathSync } from 'node:fs';
import { lstat, readdir, stat } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { ForbiddenException, Injectable, NotFoundException } from '@nestjs/common';
import type { FileReference, MediaFolder, MediaRoot } from '@idle-bend/core/api';
import { MediaError } from '@idle-bend/media';
import { Config } from '../config.js';
import { isWithin, lookInside, openInside, partsOf, type OpenFile } from './open-inside.js';

/** What footage and sounds are called. */
const KINDS =
  /^\.(mp4|mov|m4v|3gp|mkv|webm|avi|ts|mts|m2ts|mpg|mpeg|mxf|flv|wmv|ogv|gif|nut|dv|wav|w64|flac|mp3|m4a|aac|ogg|opus|aif|aiff|caf|ac3)$/i;

/** A file somewhere in a root. */
export interface FoundFile {
  readonly root: string;
  readonly path: string;
  readonly name: string;
  readonly bytes: number;
  readonly modifiedMs: number;
}

/** How long what was found in all roots is believed: many files may be looked for one after another. */
const BELIEVED_MS = 3000;

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

  /** Throws `ForbiddenException` where they are not shown: beyond this machine, unless that was asked for. */
  checkShown(): void {
    if (!this.config.showsMedia)
      throw new ForbiddenException(
        'Media folders are not shown beyond this machine; start with --share-media to show them.',
      );
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

  /**
   * The folders in a folder of a root, and its footage. Links, devices, what is hidden and the data folder are not among them. 404 for what
   * is no folder of it.
   */
  async folder(root: string, path: string): Promise<MediaFolder> {
    const place = this.placeOf(root);
    const { folders, files } = await lookInside(place, path, [this.hiddenFolder], async (folder) => {
      const entries = (await readdir(folder, { withFileTypes: true })).filter(({ name }) => !name.startsWith('.'));
      const footage = entries.filter((entry) => entry.isFile() && KINDS.test(extname(entry.name)));
      const files = footage.map(async ({ name }) => {
        const stats = await lstat(join(folder, name)).catch(() => undefined);
        return stats?.isFile() ? [{ name, bytes: stats.size, modifiedMs: stats.mtimeMs }] : [];
      });
      const folders = entries.flatMap((entry) => (entry.isDirectory() ? [entry.name] : []));
      return { folders, files: (await Promise.all(files)).flat() };
    }).catch(() => {
      throw new NotFoundException('There is no such folder.');
    });
    const real = realpathSync(place);
    return {
      folders: folders.filter((name) => !this.isHidden(join(real, ...partsOf(path), name))).sort(byName),
      files: files.sort((a, b) => byName(a.name, b.name)),
    };
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

  /** Does something with a file that is open only for that. Throws as `open` does. */
  async once<T>(root: string, path: string, act: (file: OpenFile) => Promise<T>): Promise<T> {
    const opened = openInside(this.placeOf(root), path, [this.hiddenFolder]);
    try {
      return await act(opened);
    } finally {
      closeSync(opened.descriptor);
    }
  }

  /** Opens many files for a while; those that are not there are told instead. */
  async onceMany<T>(
    root: string,
    paths: readonly string[],
    act: (files: ReadonlyMap<string, OpenFile>) => Promise<T>,
    refused: (path: string, error: Error) => void,
  ): Promise<T> {
    const files = new Map<string, OpenFile>();
    try {
      for (const path of paths) {
        try {
          files.set(path, openInside(this.placeOf(root), path, [this.hiddenFolder]));
        } catch (error) {
          refused(path, error as Error);
        }
      }
      return await act(files);
    } finally {
      for (const { descriptor } of files.values()) closeSync(descriptor);
    }
  }

  /** Files of all roots that have one of these sizes; folders in folders too, as far as there are not too many. */
  async filesOfSize(sizes: ReadonlySet<number>): Promise<FoundFile[]> {
    if (Date.now() - this.searched.at > BELIEVED_MS) this.searched = { at: Date.now(), files: this.search() };
    return (await this.searched.files).filter(({ bytes }) => sizes.has(bytes));
  }

  private searched: { readonly at: number; readonly files: Promise<FoundFile[]> } = {
    at: -Infinity,
    files: Promise.resolve([]),
  };

  private async search(): Promise<FoundFile[]> {
    const found: FoundFile[] = [];
    for (const root of this.folders.keys()) {
      const waiting = [''];
      for (let seen = 0; waiting.length > 0 && seen < MAX_SEARCHED;) {
        const path = waiting.pop()!;
        const { folders, files } = await this.folder(root, path).catch(() => ({ folders: [], files: [] }));
        const inside = (name: string) => (path === '' ? name : `${path}/${name}`);
        waiting.push(...folders.map(inside));
        found.push(...files.map((file) => ({ ...file, root, path: inside(file.name) })));
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
  refusalOf(name: string, state: Exclude<FileState, 'here'>): FileNotHere {
    return new FileNotHere(
      state === 'missing'
        ? `${name}: there is no such file where it was.`
        : `${name} was changed on the disk since it was taken in; look at it on the Footage page and say which one is meant.`,
    );
  }
}

/** A file of footage is not there, or not as it was taken in: somebody can bring it back, or say which one is meant. */
export class FileNotHere extends MediaError {}

/** Stays the same over restarts, and tells nothing of where the folder is. */
const idOf = (folder: string) => createHash('sha256').update(folder).digest('hex').slice(0, 12);

const byName = (a: string, b: string) => a.localeCompare(b, 'en', { numeric: true });
