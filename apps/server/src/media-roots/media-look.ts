import type { MediaFileFacts } from '@idle-bend/core/api';
import { Injectable } from '@nestjs/common';
import { poster } from '@idle-bend/media';
import { runJob } from '../jobs/job.js';
import { MediaRoots } from './media-roots.js';
import type { OpenFile } from './open-inside.js';

/** Facts and pictures that are kept in memory; a folder is looked into more than once. */
const MAX_KEPT = 20_000;
const MAX_PICTURES = 2000;
/** Pictures that are made at once; each takes a decoder. */
const PICTURES_AT_ONCE = 2;

/** What the files of media roots are, for lists: by their headers, and one small picture. */
@Injectable()
export class MediaLook {
  private readonly known = new Map<string, MediaFileFacts>();
  private readonly pictures = new Map<string, Promise<Buffer>>();
  private readonly waiting: (() => void)[] = [];
  private making = 0;

  constructor(private readonly roots: MediaRoots) {}

  /** By path; those that are no footage say so. */
  facts(root: string, paths: readonly string[]): Promise<Record<string, MediaFileFacts>> {
    const facts: Record<string, MediaFileFacts> = {};
    const look = async (files: ReadonlyMap<string, OpenFile>) => {
      const unknown = [...files].filter(([path, file]) => {
        const known = this.known.get(keyOf(root, path, file));
        if (known) facts[path] = known;
        return !known;
      });
      if (unknown.length === 0) return facts;
      const wanted = unknown.map(([path, { file }]) => ({ file, name: nameIn(path) }));
      const found = await runJob('facts', { files: wanted }).result;
      unknown.forEach(([path, file], i) => {
        facts[path] = found[i]!;
        keepAtMost(this.known, keyOf(root, path, file), found[i]!, MAX_KEPT);
      });
      return facts;
    };
    return this.roots.onceMany(root, paths, look, (path, { message }) => (facts[path] = { problem: message }));
  }

  /** A small JPEG of a moment near its beginning. Throws `MediaError`. */
  picture(root: string, path: string): Promise<Buffer> {
    return this.roots.once(root, path, (file) => {
      const key = keyOf(root, path, file);
      const known = this.pictures.get(key);
      if (known) return known;
      const made = this.inTurn(() => poster(file.file, nameIn(path)));
      made.catch(() => this.pictures.delete(key));
      keepAtMost(this.pictures, key, made, MAX_PICTURES);
      return made;
    });
  }

  /** The same of a file of our own, which is not kept. */
  pictureOf(file: string, name: string): Promise<Buffer> {
    return this.inTurn(() => poster(file, name));
  }

  /** The newest request first: it is the one somebody looks at. */
  private async inTurn<T>(make: () => Promise<T>): Promise<T> {
    if (this.making >= PICTURES_AT_ONCE) await new Promise<void>((go) => this.waiting.push(go));
    this.making++;
    try {
      return await make();
    } finally {
      this.making--;
      this.waiting.pop()?.();
    }
  }
}

const nameIn = (path: string) => path.split('/').at(-1)!;
/** Tells a file, as it is now, from others. */
const keyOf = (root: string, path: string, { stats }: OpenFile) => `${root}/${path} ${stats.size} ${stats.mtimeMs}`;

function keepAtMost<T>(map: Map<string, T>, key: string, value: T, most: number): void {
  map.set(key, value);
  if (map.size > most) map.delete(map.keys().next().value!);
}
