import { randomUUID } from 'node:crypto';
import { mkdir, open, readdir, rename, rm, stat, utimes } from 'node:fs/promises';
import { extname, join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { cacheBeside, fingerprintOf, type MediaTicket } from '@idle-bend/media';
import { ChunkLeft } from './chunk-left.js';

/** What is asked for at once. */
const RANGE = 32 * 2 ** 20;
/** A range that broke off on its way is asked for again, so many times. */
const TRIES = 5;
const BETWEEN_MS = 500;

/** A range of a file of the server's: bytes `from` … `to` − 1. */
export type FetchRange = (
  id: string,
  fileName: string,
  range: { readonly from: number; readonly to: number },
  signal: AbortSignal,
) => Promise<Response>;

/** Media fetched from a server, in a folder that holds at most so many bytes of them: what was not used for longest goes first. */
export class MediaCache {
  constructor(
    private readonly folder: string,
    private readonly maxBytes: number,
    private readonly fetchRange: FetchRange,
    private readonly range = RANGE,
  ) {}

  /**
   * All files of a chunk, by footage. Throws `ChunkLeft` where the folder cannot hold them, and an error for what does not arrive, or is
   * not what was asked for.
   */
  async files(media: Readonly<Record<string, MediaTicket>>, signal: AbortSignal): Promise<Map<string, string>> {
    await mkdir(this.folder, { recursive: true });
    const places = new Map(Object.entries(media).map(([id, ticket]) => [id, this.placeOf(ticket)]));
    const wanted = new Map(Object.values(media).map((ticket) => [this.placeOf(ticket), ticket.bytes]));
    const bytes = [...wanted.values()].reduce((sum, each) => sum + each, 0);
    if (bytes > this.maxBytes)
      throw new ChunkLeft(
        `its media are ${megabytes(bytes)}, and at most ${megabytes(this.maxBytes)} are kept; start it with a larger --cache-size, or with --media`,
      );
    for (const [id, ticket] of Object.entries(media)) {
      const file = places.get(id)!;
      const known = await stat(file).catch(() => undefined);
      // Its time of change stays: what is known of the file depends on it.
      if (known?.size === ticket.bytes) await utimes(file, new Date(), known.mtime);
      else {
        await this.makeRoom(ticket.bytes, new Set(wanted.keys()));
        await this.fetch(id, ticket, file, signal);
      }
    }
    return places;
  }

  private placeOf({ fingerprint, fileName }: MediaTicket): string {
    return join(this.folder, `${fingerprint}${extname(fileName)}`);
  }

  private async makeRoom(bytes: number, wanted: ReadonlySet<string>): Promise<void> {
    const names = (await readdir(this.folder)).filter((name) => FETCHED.test(name));
    // Another worker may use the same folder, and may have taken one away.
    const found = names.map(async (name) => {
      const file = join(this.folder, name);
      return stat(file).then(
        ({ size, atimeMs }) => [{ file, size, atimeMs }],
        () => [],
      );
    });
    const files = (await Promise.all(found)).flat();
    let held = files.reduce((sum, { size }) => sum + size, 0);
    for (const { file, size } of files.sort((a, b) => a.atimeMs - b.atimeMs)) {
      if (held + bytes <= this.maxBytes) return;
      if (wanted.has(file)) continue;
      for (const gone of [file, cacheBeside(file)]) await rm(gone, { force: true });
      held -= size;
    }
  }

  private async fetch(id: string, ticket: MediaTicket, file: string, signal: AbortSignal): Promise<void> {
    const part = `${file}.${randomUUID()}.part`;
    const handle = await open(part, 'w');
    try {
      for (let from = 0; from < ticket.bytes; from += this.range) {
        const range = { from, to: Math.min(ticket.bytes, from + this.range) };
        await handle.write(await this.fetchSurely(id, ticket.fileName, range, signal), 0, undefined, from);
      }
      await handle.close();
      if ((await fingerprintOf(part)) !== ticket.fingerprint)
        throw new Error(`${ticket.name} is not the file any more that the render was asked for with`);
      const now = new Date();
      await utimes(part, now, now);
      await rename(part, file);
    } finally {
      await handle.close();
      await rm(part, { force: true });
    }
  }

  private async fetchSurely(
    id: string,
    fileName: string,
    range: { readonly from: number; readonly to: number },
    signal: AbortSignal,
  ): Promise<Buffer> {
    for (let tries = 1; ; tries++) {
      try {
        const content = Buffer.from(await (await this.fetchRange(id, fileName, range, signal)).arrayBuffer());
        if (content.length !== range.to - range.from)
          throw new Error(`${content.length} bytes came for ${range.to - range.from}`);
        return content;
      } catch (error) {
        if (signal.aborted || tries >= TRIES) throw error;
        await wait(BETWEEN_MS * tries, undefined, { signal });
      }
    }
  }
}

/** What this folder names its files: by fingerprint. */
const FETCHED = /^[0-9a-f]{64}(\.\w+)?$/;

const megabytes = (bytes: number) => `${Math.ceil(bytes / 2 ** 20)} MiB`;
