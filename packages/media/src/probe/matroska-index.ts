import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import type { HeaderIndex, ListedPacket } from './header-index.js';
import type { VideoFacts } from './probe.js';

/**
 * The blocks of Matroska and WebM files (RFC 9559, in EBML, RFC 8794), found by stepping from one to the next: of each only what stands before its
 * content is read.
 */

/** Elements by their ids. */
const EBML = 0x1a45dfa3;
const SEGMENT = 0x18538067;
const INFO = 0x1549a966;
const TIMESTAMP_SCALE = 0x2ad7b1;
const TRACKS = 0x1654ae6b;
const TRACK_ENTRY = 0xae;
const TRACK_NUMBER = 0xd7;
const TRACK_TYPE = 0x83;
const CODEC_ID = 0x86;
const CODEC_DELAY = 0x56aa;
const TRACK_TIMESTAMP_SCALE = 0x23314f;
const CONTENT_ENCODINGS = 0x6d80;
const CLUSTER = 0x1f43b675;
const TIMESTAMP = 0xe7;
const SIMPLE_BLOCK = 0xa3;
const BLOCK_GROUP = 0xa0;
const BLOCK = 0xa1;
const REFERENCE_BLOCK = 0xfb;

/** What stands in a segment beside clusters: where one begins, a cluster of unknown length is over. */
const TOP = [CLUSTER, INFO, TRACKS, 0x114d9b74, 0x1c53bb6b, 0x1941a469, 0x1043a770, 0x1254c367];

const VIDEO = 1;

/** A track whose times its codec's own header gives. */
const GIVES_OWN_TIMES = /^V_MS\/VFW|^V_REAL/;

/** Longer elements that have to be read whole are not. */
const MAX_HEADER_BYTES = 1 << 20;

/** A block's track, time and flags are among its first bytes; an element's id and length are no longer than this either. */
const HEAD_BYTES = 16;

/** So many bytes are read at once: small elements often lie one behind the other, and content behind them would be read for nothing. */
const RUN_BYTES = 256;

interface Element {
  readonly id: number;
  readonly from: number;
  /** Where it ends; none where it does not say. */
  readonly to: number | undefined;
}

/** The file is not as these are sure to be: what it has has to be found out otherwise. */
class Unsure extends Error {}

/** Reads a file a few bytes at a time. */
class Reader {
  bytesRead = 0;
  private held = Buffer.alloc(0);
  private heldAt = 0;

  constructor(
    private readonly file: number,
    readonly size: number,
  ) {}

  /** Up to `length` bytes, fewer at the file's end. */
  bytes(at: number, length: number): Buffer {
    const end = this.heldAt + this.held.length;
    if (at < this.heldAt || at + length > end) {
      const wanted = Math.min(this.size - at, Math.max(length, RUN_BYTES));
      const buffer = Buffer.alloc(Math.max(0, wanted));
      const got = wanted > 0 ? readSync(this.file, buffer, 0, wanted, at) : 0;
      this.bytesRead += got;
      [this.held, this.heldAt] = [buffer.subarray(0, got), at];
    }
    return this.held.subarray(at - this.heldAt, at - this.heldAt + length);
  }

  /** The element that begins at a place. */
  element(at: number): Element {
    const head = this.bytes(at, HEAD_BYTES);
    const idBytes = head.length === 0 ? 0 : Math.clz32(head[0]!) - 23;
    if (idBytes < 1 || idBytes > 4 || head.length <= idBytes) throw new Unsure();
    const length = varInt(head, idBytes);
    const from = at + idBytes + length.bytes;
    if (length.value === undefined) return { id: head.readUIntBE(0, idBytes), from, to: undefined };
    const to = from + length.value;
    if (to > this.size) throw new Unsure();
    return { id: head.readUIntBE(0, idBytes), from, to };
  }

  *children(parent: Element): Generator<Element> {
    const end = parent.to ?? this.size;
    for (let at = parent.from; at < end;) {
      const child = this.element(at);
      // Of unknown length is at most the one that ends where the file or its parent does.
      if (parent.to !== undefined && (child.to ?? end) > parent.to) throw new Unsure();
      yield child;
      if (child.to === undefined) return;
      at = child.to;
    }
  }

  number({ from, to }: Element): number {
    const length = to! - from;
    if (length < 1 || length > 6) throw new Unsure();
    return this.bytes(from, length).readUIntBE(0, length);
  }

  text({ from, to }: Element): string {
    if (to! - from > 100) throw new Unsure();
    return this.bytes(from, to! - from).toString('latin1');
  }
}

/** A number of variable length; all ones stand for a length that is not known. */
function varInt(bytes: Uint8Array, at: number): { readonly value: number | undefined; readonly bytes: number } {
  const first = bytes[at] ?? 0;
  const length = Math.clz32(first) - 23;
  if (length < 1 || length > 8 || bytes.length < at + length) throw new Unsure();
  let value = first & (0xff >> length);
  let isUnknown = value === 0xff >> length;
  for (let i = 1; i < length; i++) {
    value = value * 256 + bytes[at + i]!;
    isUnknown &&= bytes[at + i] === 0xff;
  }
  if (!isUnknown && value > Number.MAX_SAFE_INTEGER) throw new Unsure();
  return { value: isUnknown ? undefined : value, bytes: length };
}

/**
 * The packets of a file's picture in order of presentation, as ffmpeg shows them. `undefined` where that is not sure: several pictures, content that is
 * packed or laced, hidden frames, a file that ends before its elements do.
 */
export function indexFromBlocks(file: string, video: VideoFacts): HeaderIndex | undefined {
  let handle: number | undefined;
  try {
    handle = openSync(file, 'r');
    const reader = new Reader(handle, fstatSync(handle).size);
    const packets = packetsIn(reader, video).sort((a, b) => a.pts - b.pts);
    return { packets, bytesRead: reader.bytesRead };
  } catch (error) {
    // Of a file that cannot be opened or read it is for ffmpeg to say why.
    if (error instanceof Unsure || (error as NodeJS.ErrnoException).code !== undefined) return undefined;
    throw error;
  } finally {
    if (handle !== undefined) closeSync(handle);
  }
}

function packetsIn(reader: Reader, video: VideoFacts): ListedPacket[] {
  const [header, segment, ...others] = reader.children({ id: 0, from: 0, to: reader.size });
  if (header?.id !== EBML || segment?.id !== SEGMENT || others.length > 0) throw new Unsure();
  const packets: ListedPacket[] = [];
  let [scale, track] = [1_000_000, 0];
  const take = (element: Element) => {
    if (element.id === INFO) scale = scaleIn(reader, element) ?? scale;
    else if (element.id === TRACKS) track = trackIn(reader, element);
    else if (element.id === CLUSTER && track === 0) throw new Unsure();
  };
  const end = segment.to ?? reader.size;
  for (let at = segment.from; at < end;) {
    const element = reader.element(at);
    take(element);
    if (element.id === CLUSTER) at = clusterPackets(reader, element, end, track, packets);
    else if (element.to === undefined) throw new Unsure();
    else at = element.to;
  }
  // Ticks of ffmpeg's time base are those of the segment.
  const { num, den } = video.timeBase;
  if (num * 1e9 !== scale * den) throw new Unsure();
  return packets;
}

function scaleIn(reader: Reader, info: Element): number | undefined {
  for (const child of reader.children(info)) if (child.id === TIMESTAMP_SCALE) return reader.number(child);
  return undefined;
}

/** The number of the only track with a picture. */
function trackIn(reader: Reader, tracks: Element): number {
  if ((tracks.to ?? Infinity) - tracks.from > MAX_HEADER_BYTES) throw new Unsure();
  const found: number[] = [];
  for (const entry of reader.children(tracks)) {
    if (entry.id !== TRACK_ENTRY) continue;
    let [number, isVideo, isPlain] = [0, false, true];
    for (const child of reader.children(entry)) {
      if (child.id === TRACK_NUMBER) number = reader.number(child);
      else if (child.id === TRACK_TYPE) isVideo = reader.number(child) === VIDEO;
      else if (child.id === CODEC_ID) isPlain &&= !GIVES_OWN_TIMES.test(reader.text(child));
      else if (child.id === CODEC_DELAY) isPlain &&= reader.number(child) === 0;
      else if (child.id === CONTENT_ENCODINGS || child.id === TRACK_TIMESTAMP_SCALE) isPlain = false;
    }
    if (!isVideo) continue;
    if (!isPlain || number === 0) throw new Unsure();
    found.push(number);
  }
  if (found.length !== 1) throw new Unsure();
  return found[0]!;
}

/** Adds a track's packets of a cluster; answers where the cluster ends, which one of unknown length does where the next element of the segment begins. */
function clusterPackets(reader: Reader, cluster: Element, end: number, track: number, packets: ListedPacket[]): number {
  const own = cluster.to ?? end;
  let time: number | undefined;
  let at = cluster.from;
  while (at < own) {
    const child = reader.element(at);
    if (cluster.to === undefined && TOP.includes(child.id)) return at;
    if (child.to === undefined || child.to > own) throw new Unsure();
    if (child.id === TIMESTAMP) time = reader.number(child);
    else if (child.id === SIMPLE_BLOCK || child.id === BLOCK_GROUP) {
      if (time === undefined) throw new Unsure();
      const packet = child.id === SIMPLE_BLOCK ? blockAt(reader, child, track) : groupAt(reader, child, track);
      if (packet) packets.push({ ...packet, pts: time + packet.pts });
    }
    at = child.to;
  }
  return at;
}

/** A block of a track, its time against its cluster's. */
function blockAt(reader: Reader, { from, to }: Element, track: number): ListedPacket | undefined {
  const head = reader.bytes(from, HEAD_BYTES);
  const number = varInt(head, 0);
  if (head.length < number.bytes + 3) throw new Unsure();
  if (number.value !== track) return undefined;
  const flags = head[number.bytes + 2]!;
  // Laced, or not shown.
  if ((flags & 0b0000_1110) !== 0) throw new Unsure();
  return {
    pts: head.readInt16BE(number.bytes),
    key: (flags & 0b1000_0000) !== 0,
    bytes: to! - from - number.bytes - 3,
  };
}

/** The same in a group, which says by what it refers to whether it is a key frame. */
function groupAt(reader: Reader, group: Element, track: number): ListedPacket | undefined {
  let [packet, key]: [ListedPacket | undefined, boolean] = [undefined, true];
  for (const child of reader.children(group)) {
    if (child.id === BLOCK) packet = blockAt(reader, child, track);
    else if (child.id === REFERENCE_BLOCK) key = false;
  }
  return packet && { ...packet, key };
}
