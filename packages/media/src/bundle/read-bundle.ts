import { createWriteStream } from 'node:fs';
import { mkdir, statfs } from 'node:fs/promises';
import { dirname } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Transform, type Readable } from 'node:stream';
import { crc32 } from 'node:zlib';
import {
  BUNDLED_ORIGINAL,
  BUNDLED_PROXY,
  BUNDLED_SOUND,
  parseBundle,
  type BundleManifest,
} from '@idle-bend/core/exchange';
import { InvalidInput } from '@idle-bend/core/foundation';
import { parseProject, type Project } from '@idle-bend/core/model';
import { readShapes, type SavedShape } from '@idle-bend/core/shape';
import type { Entry, ZipFile } from 'yauzl';
import { fingerprintOf } from '../probe/fingerprint.js';

export interface OpenedBundle {
  readonly manifest: BundleManifest;
  readonly document: Project;
  readonly shapes: readonly SavedShape[];
  /** Names of the files of each piece of footage that are there. */
  readonly files: readonly ReadonlySet<string>[];
  /** Writes a file of a piece of footage to a place. */
  extract(footage: number, name: string, to: string): Promise<void>;
  close(): void;
}

/** What may be in a bundle, and how large it may be, bytes. Nothing else is even looked at. */
const JSON_BYTES = 64 * 2 ** 20;
const ANALYSIS_BYTES = 512 * 2 ** 20;
const MEDIA_BYTES = 2 ** 40;
const MAX_ENTRIES = 50_000;
/** What shrinks more than this is no footage and no edit. */
const MAX_RATIO = 200;
const SMALL_BYTES = 4 * 2 ** 20;

function maxBytesOf(name: string): number | undefined {
  if (/^(bundle|document|shapes)\.json$/.test(name)) return JSON_BYTES;
  const [, file] = /^footage\/\d{1,5}\/([^/]+)$/.exec(name) ?? [];
  if (file === undefined) return undefined;
  if (['motion.json', 'heard.json', 'peaks.bin'].includes(file)) return ANALYSIS_BYTES;
  const isMedia = BUNDLED_ORIGINAL.test(file) || [...BUNDLED_PROXY, BUNDLED_SOUND].includes(file);
  return isMedia ? MEDIA_BYTES : undefined;
}

/**
 * Opens a bundle. Before anything of it is unpacked its list is looked at: names that do not belong there, links, entries that would not
 * fit on the disk of `room`, or that are far too well compressed, are refused. Throws `InvalidInput` naming what is wrong.
 */
export async function openBundle(file: string, room: string): Promise<OpenedBundle> {
  const zip = await opened(file);
  try {
    const entries = await listed(zip);
    const { bavail, bsize } = await statfs(room);
    const total = [...entries.values()].reduce((sum, { uncompressedSize }) => sum + uncompressedSize, 0);
    if (total > bavail * bsize)
      throw new InvalidInput('bundle', `holds ${(total / 1e6).toFixed(0)} MB, which do not fit on the disk`);
    const json = async (name: string): Promise<unknown> => {
      const entry = entries.get(name);
      if (!entry) throw new InvalidInput('bundle', `has no ${name}, so it is not a bundle`);
      try {
        return JSON.parse(await textOf(zip, entry)) as unknown;
      } catch (error) {
        if (error instanceof SyntaxError) throw new InvalidInput(name, 'is not JSON');
        throw error;
      }
    };
    const manifest = parseBundle(await json('bundle.json'));
    const document = parseProject(await json('document.json'));
    const shapes = readShapes(await json('shapes.json'));
    const files = manifest.footage.map(
      (_, i) =>
        new Set(
          [...entries.keys()].flatMap((name) =>
            name.startsWith(`footage/${i}/`) ? [name.slice(`footage/${i}/`.length)] : [],
          ),
        ),
    );
    return {
      ...{ manifest, document, shapes, files },
      async extract(footage, name, to) {
        const entry = entries.get(`footage/${footage}/${name}`);
        if (!entry) throw new InvalidInput('bundle', `has no ${name} of "${manifest.footage[footage]?.name}"`);
        await mkdir(dirname(to), { recursive: true });
        await pipeline(await streamOf(zip, entry), checked(entry), createWriteStream(to, { flags: 'wx' })).catch(
          (error: Error) => {
            throw error instanceof InvalidInput ? error : damaged(entry, error);
          },
        );
        const { fingerprint, fileName } = manifest.footage[footage]!;
        if (name === fileName && fingerprint !== null && (await fingerprintOf(to)) !== fingerprint)
          throw new InvalidInput(entry.fileName, 'is not the file that the bundle says it is');
      },
      close: () => zip.close(),
    };
  } catch (error) {
    zip.close();
    throw error;
  }
}

const damaged = (entry: Entry, error: Error) =>
  (error as NodeJS.ErrnoException).code === 'ENOSPC'
    ? error
    : new InvalidInput(entry.fileName, `is damaged in this bundle (${error.message})`);

/** yauzl checks names against leaving the folder, and sizes against what was declared. */
async function opened(file: string): Promise<ZipFile> {
  const { default: yauzl } = await import('yauzl');
  return new Promise((resolve, reject) => {
    yauzl.open(file, { lazyEntries: true, autoClose: false, strictFileNames: true }, (error, zip) => {
      if (error) reject(new InvalidInput('bundle', `cannot be read: ${error.message}`));
      else resolve(zip);
    });
  });
}

function listed(zip: ZipFile): Promise<Map<string, Entry>> {
  return new Promise((resolve, reject) => {
    const entries = new Map<string, Entry>();
    const refuse = (name: string, problem: string) =>
      reject(new InvalidInput(`bundle, ${name.slice(0, 100)}`, problem));
    if (zip.entryCount > MAX_ENTRIES)
      return reject(new InvalidInput('bundle', `has ${zip.entryCount} entries; ${MAX_ENTRIES} is the most`));
    zip.on('error', (error: Error) => reject(new InvalidInput('bundle', `cannot be read: ${error.message}`)));
    zip.on('end', () => resolve(entries));
    zip.on('entry', (entry: Entry) => {
      const { fileName, uncompressedSize, compressedSize } = entry;
      if (isDropping(fileName)) return zip.readEntry();
      const most = maxBytesOf(fileName);
      const isLink = ((entry.externalFileAttributes >>> 16) & 0o170000) === 0o120000;
      if (most === undefined || isLink) return refuse(fileName, 'does not belong in a bundle');
      if (entries.has(fileName)) return refuse(fileName, 'is there twice');
      if (uncompressedSize > most) return refuse(fileName, `is larger than ${most} bytes`);
      if (uncompressedSize > SMALL_BYTES && uncompressedSize > MAX_RATIO * compressedSize)
        return refuse(fileName, 'is compressed beyond belief');
      entries.set(fileName, entry);
      zip.readEntry();
    });
    zip.readEntry();
  });
}

/** Passes an entry on and holds it against its checksum (ZIP, 4.4.7); an archive says it of every entry, and not every reader looks. */
function checked(entry: Entry): Transform {
  let sum = 0;
  return new Transform({
    transform(piece: Buffer, _, done) {
      sum = crc32(piece, sum);
      done(null, piece);
    },
    flush: (done) =>
      done(
        sum === entry.crc32
          ? null
          : new InvalidInput(entry.fileName, 'is damaged in this bundle (its checksum is another)'),
      ),
  });
}

/** Folders, and what desktops leave in archives that were opened and packed again. */
const isDropping = (name: string) =>
  name.endsWith('/') || /^__MACOSX\//.test(name) || /(^|\/)(\.DS_Store|\._[^/]*|Thumbs\.db|desktop\.ini)$/i.test(name);

function streamOf(zip: ZipFile, entry: Entry): Promise<Readable> {
  return new Promise((resolve, reject) => {
    zip.openReadStream(entry, (error, stream) => {
      if (error) reject(damaged(entry, error));
      else resolve(stream);
    });
  });
}

async function textOf(zip: ZipFile, entry: Entry): Promise<string> {
  const chunks: Buffer[] = [];
  try {
    for await (const chunk of (await streamOf(zip, entry)).pipe(checked(entry))) chunks.push(chunk as Buffer);
  } catch (error) {
    throw error instanceof InvalidInput ? error : damaged(entry, error as Error);
  }
  return Buffer.concat(chunks).toString('utf8');
}
