import { createHash, randomUUID } from 'node:crypto';
import { mkdir, readdir, readFile, rename, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Frame } from '@idle-bend/core/frame';
import { EFFORTS, type GridFlow, type Level, type PairFlow } from '@idle-bend/kernels';
import { kernelsDigest } from './kernels.js';

/** What a store of motion holds. */
export interface StoreContent {
  readonly pairs: number;
  readonly bytes: number;
}

const SUFFIX = '.motion';
const MAGIC = 'idle-bend-motion-1';

/**
 * The motion of frame pairs on disk, by content: the pixels of both frames, the level and the kernels that found it. What
 * depends on no curve is found once, whatever is done to the clip, and by whichever clip or project it is asked for. Files are
 * written beside and renamed; one that is cut off or damaged counts as absent. When there is more than `maxBytes`, what was
 * used longest ago goes. Everything in the folder may be deleted at any time.
 */
export class FlowStore {
  private written = 0;
  private pruning: Promise<unknown> = Promise.resolve();

  constructor(
    readonly folder: string,
    private readonly maxBytes: number,
  ) {}

  /** The name a pair's motion goes by. */
  key(a: Frame, b: Frame, level: Level): string {
    const hash = createHash('sha1')
      .update(kernelsDigest())
      .update(JSON.stringify(EFFORTS[level]))
      .update(JSON.stringify(a.format.layout))
      .update(`${a.format.width}×${a.format.height}`);
    return hash.update(a.data).update(b.data).digest('hex');
  }

  async get(key: string): Promise<PairFlow | undefined> {
    const file = this.file(key);
    try {
      const pair = unpack(await readFile(file));
      const now = new Date();
      if (pair) await utimes(file, now, now);
      return pair;
    } catch {
      return undefined;
    }
  }

  /** Keeps a pair's motion; a disk that is full or cannot be written keeps nothing, and nothing else suffers. */
  async put(key: string, pair: PairFlow): Promise<void> {
    const beside = `${this.file(key)}.${randomUUID().slice(0, 8)}`;
    try {
      await mkdir(this.folder, { recursive: true });
      const bytes = pack(pair);
      await writeFile(beside, bytes);
      await rename(beside, this.file(key));
      this.written += bytes.length;
      if (this.written > this.maxBytes / 20) {
        this.written = 0;
        this.pruning = this.pruning.then(() => this.prune());
        await this.pruning;
      }
    } catch {
      await rm(beside, { force: true }).catch(() => undefined);
    }
  }

  async content(): Promise<StoreContent> {
    const files = await this.files();
    return { pairs: files.length, bytes: files.reduce((sum, { bytes }) => sum + bytes, 0) };
  }

  async clear(): Promise<void> {
    await rm(this.folder, { recursive: true, force: true });
  }

  /** Drops what was used longest ago until it fits, and what an interrupted write left behind. */
  async prune(): Promise<void> {
    const files = (await this.files(true)).sort((a, b) => b.used - a.used);
    let bytes = 0;
    for (const each of files) {
      bytes += each.bytes;
      const leftover = !each.name.endsWith(SUFFIX) && Date.now() - each.used > 60_000;
      if (bytes > this.maxBytes || leftover) await rm(join(this.folder, each.name), { force: true });
    }
  }

  private file(key: string): string {
    return join(this.folder, `${key}${SUFFIX}`);
  }

  private async files(withLeftovers = false): Promise<{ name: string; bytes: number; used: number }[]> {
    const names = await readdir(this.folder).catch(() => []);
    const wanted = names.filter((name) => withLeftovers || name.endsWith(SUFFIX));
    const found = await Promise.all(
      wanted.map(async (name) => {
        const { size, mtimeMs } = await stat(join(this.folder, name)).catch(() => ({ size: -1, mtimeMs: 0 }));
        return { name, bytes: size, used: mtimeMs };
      }),
    );
    return found.filter(({ bytes }) => bytes >= 0);
  }
}

type Head = readonly Pick<GridFlow, 'width' | 'height' | 'shift' | 'exposure' | 'agreement'>[];

const fieldsOf = ({ forward, backward }: GridFlow) => [forward.flow, forward.trust, backward.flow, backward.trust];

/** A line of JSON, the numbers as they are in memory, and the SHA-1 of both. */
function pack(pair: PairFlow): Buffer {
  const head: Head = pair.map(({ width, height, shift, exposure, agreement }) => ({
    width,
    height,
    shift,
    exposure,
    agreement,
  }));
  const numbers = pair.flatMap(fieldsOf).map((field) => Buffer.from(field.buffer, field.byteOffset, field.byteLength));
  const body = Buffer.concat([Buffer.from(`${MAGIC} ${JSON.stringify(head)}\n`), ...numbers]);
  return Buffer.concat([body, createHash('sha1').update(body).digest()]);
}

function unpack(file: Buffer): PairFlow | undefined {
  const [body, digest] = [file.subarray(0, -20), file.subarray(-20)];
  if (!createHash('sha1').update(body).digest().equals(digest)) return undefined;
  const end = body.indexOf(10);
  const line = body.subarray(0, end).toString();
  if (!line.startsWith(`${MAGIC} `)) return undefined;
  const head = JSON.parse(line.slice(MAGIC.length + 1)) as Head;
  let at = end + 1;
  const field = (count: number) => {
    const numbers = new Float32Array(new SharedArrayBuffer(count * 4));
    new Uint8Array(numbers.buffer).set(body.subarray(at, (at += count * 4)));
    return numbers;
  };
  return head.map((one) => {
    const points = one.width * one.height;
    const side = () => ({ flow: field(points * 2), trust: field(points) });
    return { ...one, forward: side(), backward: side() };
  });
}
