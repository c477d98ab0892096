import { open, type FileHandle } from 'node:fs/promises';

/** The boxes of MP4 and QuickTime files (ISO/IEC 14496-12) that say where samples are, read without what lies between. */

/** Boxes whose content says where samples are; all others are stepped over. */
const WANTED = ['ftyp', 'moov', 'moof'];

/** The boxes in them that are believed. */
const TABLES = /'(mvhd|tkhd|mdhd|elst|stts|ctts|stss|stsz|stz2|stsc|sbgp|mvex|trex|tfhd|tfdt|trun)'/;

/** More than this of them is not read into memory. */
const MAX_HEADER_BYTES = 256 * 2 ** 20;

/** The wanted boxes of a file, one behind the other. `undefined` for a file that is no run of whole boxes. */
export async function readHeaders(file: string): Promise<{ boxes: Uint8Array; bytesRead: number } | undefined> {
  const handle = await open(file, 'r');
  try {
    const { size } = await handle.stat();
    const parts: Uint8Array[] = [];
    let [at, held, bytesRead] = [0, 0, 0];
    while (at < size) {
      const box = await boxAt(handle, at, size);
      if (!box) return undefined;
      bytesRead += box.headerBytes;
      if (WANTED.includes(box.type)) {
        held += box.bytes;
        if (held > MAX_HEADER_BYTES) return undefined;
        const part = Buffer.alloc(box.bytes);
        const { bytesRead: got } = await handle.read(part, 0, box.bytes, at);
        if (got < box.bytes) return undefined;
        bytesRead += got;
        parts.push(part);
      }
      at += box.bytes;
    }
    return { boxes: Buffer.concat(parts), bytesRead };
  } finally {
    await handle.close();
  }
}

/** A box's name and whole length; `undefined` where none begins or it is longer than the file. */
async function boxAt(
  handle: FileHandle,
  at: number,
  size: number,
): Promise<{ type: string; bytes: number; headerBytes: number } | undefined> {
  const header = Buffer.alloc(16);
  const { bytesRead } = await handle.read(header, 0, 16, at);
  if (bytesRead < 8) return undefined;
  const short = header.readUInt32BE(0);
  const type = header.toString('latin1', 4, 8);
  const bytes = short === 0 ? size - at : short === 1 && bytesRead === 16 ? Number(header.readBigUInt64BE(8)) : short;
  if (bytes < 8 || at + bytes > size || !/^[\x20-\x7e\xa9]{4}$/.test(type)) return undefined;
  return { type, bytes, headerBytes: bytesRead };
}

/** `undefined` where something in them is wrong. */
export async function parseBoxes(boxes: Uint8Array) {
  const { createFile, Log, MP4BoxBuffer } = await import('mp4box');
  const parsed = createFile(false);
  const copy = new ArrayBuffer(boxes.byteLength);
  new Uint8Array(copy).set(boxes);
  // It says what is wrong on the console and goes on; what cameras note beside the tables may be what it likes.
  const { error } = Log;
  let isWrong = false;
  Log.error = (_, problem) => {
    if (TABLES.test(problem ?? '')) isWrong = true;
  };
  try {
    parsed.appendBuffer(MP4BoxBuffer.fromArrayBuffer(copy, 0), true);
    parsed.flush();
  } finally {
    Log.error = error;
  }
  return isWrong ? undefined : parsed;
}

export type ParsedBoxes = NonNullable<Awaited<ReturnType<typeof parseBoxes>>>;
export type TrakBox = NonNullable<ParsedBoxes['moov']>['traks'][number];
