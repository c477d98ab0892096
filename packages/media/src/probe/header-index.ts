import { open, type FileHandle } from 'node:fs/promises';
import type { MediaFacts, VideoFacts } from './probe.js';

/** A frame's packet: presentation time in ticks of its stream, whether decoding may start at it, and its size in bytes. */
export interface ListedPacket {
  readonly pts: number;
  readonly key: boolean;
  readonly bytes: number;
}

export interface HeaderIndex {
  readonly packets: readonly ListedPacket[];
  readonly bytesRead: number;
}

/** Boxes whose content says where samples are; all others are stepped over. */
const WANTED = ['ftyp', 'moov', 'moof'];

/** The boxes in them that are believed. */
const TABLES = /'(mvhd|tkhd|mdhd|elst|stts|ctts|stss|stsz|stz2|stsc|sbgp|mvex|trex|tfhd|tfdt|trun)'/;

/** More than this of them is not read into memory. */
const MAX_HEADER_BYTES = 256 * 2 ** 20;

/**
 * The packets of a file's picture in order of presentation, from the sample tables of an MP4 or QuickTime file (ISO/IEC 14496-12) and of its
 * fragments, without reading what lies between: just those ffmpeg shows. `undefined` where the tables do not tell that for sure: another
 * container, several edits of one track, a file that ends before its boxes do, recovery points in sample groups.
 */
export async function indexFromHeaders(file: string, facts: MediaFacts): Promise<HeaderIndex | undefined> {
  const { video } = facts;
  if (!video || video.trackId === undefined || !/(^|,)(mov|mp4)(,|$)/.test(facts.container)) return undefined;
  const headers = await readHeaders(file);
  if (!headers) return undefined;
  try {
    const packets = await packetsIn(headers.boxes, video);
    return packets && { packets, bytesRead: headers.bytesRead };
  } catch {
    // A table that cannot be read is for ffmpeg to judge.
    return undefined;
  }
}

/** The wanted boxes of a file, one behind the other. `undefined` for a file that is no run of whole boxes. */
async function readHeaders(file: string): Promise<{ boxes: Uint8Array; bytesRead: number } | undefined> {
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
async function parseBoxes(boxes: Uint8Array) {
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

async function packetsIn(boxes: Uint8Array, video: VideoFacts): Promise<ListedPacket[] | undefined> {
  const parsed = await parseBoxes(boxes);
  const track = parsed?.moov?.traks.find(({ tkhd }) => tkhd.track_id === video.trackId);
  const timescale = track?.mdia.mdhd.timescale;
  // Ticks of ffmpeg's time base are those of the track.
  if (!parsed?.moov || !track || !timescale || video.timeBase.num !== 1 || video.timeBase.den !== timescale)
    return undefined;
  if (track.mdia.minf.stbl.sbgps?.some(({ grouping_type }) => grouping_type === 'rap ')) return undefined;
  const shown = editOf(track.edts?.elst?.entries ?? [], timescale, parsed.moov.mvhd.timescale);
  if (!shown) return undefined;
  const packets: ListedPacket[] = [];
  for (const { cts, is_sync, size } of track.samples)
    if (cts >= shown.from && cts < shown.to) packets.push({ pts: cts + shown.shift, key: is_sync, bytes: size });
  packets.sort((a, b) => a.pts - b.pts);
  // Where an edit begins between two frames, ffmpeg has the first of them begin with it.
  const late = shown.start === undefined ? 0 : Math.max(0, (packets[0]?.pts ?? 0) - shown.start);
  return late === 0 ? packets : packets.map((packet) => ({ ...packet, pts: packet.pts - late }));
}

interface Edit {
  readonly segment_duration: number;
  readonly media_time: number;
  readonly media_rate_integer: number;
  readonly media_rate_fraction: number;
}

/** Which times of a track an edit list shows, by how much they are moved, and where the edit starts, in ticks of the track. */
interface ShownTimes {
  readonly from: number;
  readonly to: number;
  readonly shift: number;
  readonly start: number | undefined;
}

/** `undefined` for a list of several parts. */
function editOf(edits: readonly Edit[], timescale: number, movieScale: number): ShownTimes | undefined {
  const inTicks = (duration: number) => Math.round((duration * timescale) / movieScale);
  const [first, ...others] = edits;
  if (!first) return { from: -Infinity, to: Infinity, shift: 0, start: undefined };
  const isEmpty = first.media_time === -1;
  const rest = isEmpty ? others : edits;
  const [edit] = rest;
  if (
    !edit ||
    rest.length > 1 ||
    edit.media_time < 0 ||
    edit.media_rate_integer !== 1 ||
    edit.media_rate_fraction !== 0
  )
    return undefined;
  const { media_time: from, segment_duration } = edit;
  const start = isEmpty ? inTicks(first.segment_duration) : 0;
  return {
    from,
    to: segment_duration === 0 ? Infinity : from + inTicks(segment_duration),
    shift: start - from,
    start,
  };
}
