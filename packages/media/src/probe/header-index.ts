import { parseBoxes, type ParsedBoxes, readHeaders, type TrakBox } from './header-boxes.js';
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

/** Sample tables of a file, the boxes they were read from, and how many bytes of it were read for them. */
export type Tables =
  { readonly parsed: ParsedBoxes; readonly boxes: Uint8Array; readonly bytesRead: number } | undefined;

/** Reads and parses a file's tables, which may be done while a program is asked for facts. `undefined` where it has none that can be read: never rejects. */
export async function readTables(file: string): Promise<Tables> {
  try {
    const headers = await readHeaders(file);
    const parsed = headers && (await parseBoxes(headers.boxes));
    return parsed && { parsed, ...headers };
  } catch {
    // A table that cannot be read is for ffmpeg to judge.
    return undefined;
  }
}

/**
 * The packets of a file's picture in order of presentation, from the sample tables of an MP4 or QuickTime file (ISO/IEC 14496-12) and of its
 * fragments, without reading what lies between: just those ffmpeg shows. `undefined` where the tables do not tell that for sure: another
 * container, several edits of one track, a file that ends before its boxes do, recovery points in sample groups.
 */
export async function indexFromHeaders(
  file: string,
  facts: MediaFacts,
  tables: Promise<Tables> = readTables(file),
): Promise<HeaderIndex | undefined> {
  const { video } = facts;
  if (!video || video.trackId === undefined || !/(^|,)(mov|mp4)(,|$)/.test(facts.container)) return undefined;
  const read = await tables;
  try {
    const packets = read && packetsIn(read.parsed, video);
    return packets && { packets, bytesRead: read.bytesRead };
  } catch {
    return undefined;
  }
}

function packetsIn({ moov }: ParsedBoxes, video: VideoFacts): ListedPacket[] | undefined {
  if (!moov) return undefined;
  const track = moov.traks.find(({ tkhd }) => tkhd.track_id === video.trackId);
  // Ticks of ffmpeg's time base are those of the track.
  const { num, den } = video.timeBase;
  return track && num === 1 && den === track.mdia.mdhd.timescale ? packetsOf(track, moov.mvhd.timescale) : undefined;
}

/** The packets of a track that its edits show. `undefined` where that is not sure. */
export function packetsOf(track: TrakBox, movieScale: number): ListedPacket[] | undefined {
  const { timescale } = track.mdia.mdhd;
  if (track.mdia.minf.stbl.sbgps?.some(({ grouping_type }) => grouping_type === 'rap ')) return undefined;
  const shown = editOf(track.edts?.elst?.entries ?? [], timescale, movieScale);
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
