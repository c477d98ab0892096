import { createHash } from 'node:crypto';
import { open, stat } from 'node:fs/promises';
import { formatTimecode, rate } from '@idle-bend/core/time';
import type { ParsedBoxes, TrakBox } from './header-boxes.js';
import type { Tables } from './header-index.js';
import { probe, type MediaFacts, type VideoFacts } from './probe.js';
import { type CountedTimecode, timecodeOfFrames } from './start-timecode.js';

/** Codecs whose configuration stands in the header, so that what is said of a picture depends on nothing in its frames. */
const CONFIGURED = /^(avc1|hvc1|av01)$/;

/** ffprobe tells the rate by the first frames. Files this long have more than those, so that it does not depend on how many they have. */
const LONG_FRAMES = 30;

/** How far what is worked out here may be from what ffprobe says, seconds: it prints millionths. */
const EXACT = 1e-6;

/** What of a file's facts is its own, and what the rest depends on. */
interface Own {
  readonly key: string;
  readonly durationSeconds: number;
  readonly videoSeconds: number;
  readonly timecode: CountedTimecode | undefined;
}

/**
 * Facts of many files of one camera. Where headers differ in nothing but lengths and what lies where, what ffprobe says of one file holds for the
 * others, and it need not be started for each (which takes longer than all the rest). Lengths and start timecodes are worked out from the headers,
 * and only where that gives just what ffprobe said of the first file of its kind.
 */
export class AlikeProbe {
  private readonly known: Map<string, MediaFacts>;
  /** How often ffprobe was asked. */
  asked = 0;

  /** @param known what another of these came to know, so that it need not be asked again */
  constructor(known: Iterable<readonly [string, MediaFacts]> = []) {
    this.known = new Map(known);
  }

  /** What is known of kinds of files, by what makes them of one kind. */
  get kinds(): readonly (readonly [string, MediaFacts])[] {
    return [...this.known];
  }

  /** As `probe`, and throws as it does. `tables` are those of the file's header. */
  async probe(file: string, name: string, tables: Promise<Tables>): Promise<MediaFacts> {
    const read = await tables;
    const own = read && (await ownOf(file, read).catch(() => undefined));
    const known = own && this.known.get(own.key);
    if (known) {
      const { durationSeconds, videoSeconds } = own;
      const video = { ...known.video!, durationSeconds: videoSeconds };
      const { size } = await stat(file);
      return { ...known, name, bytes: size, durationSeconds, startTimecode: startOf(own, video), video };
    }
    this.asked++;
    const facts = await probe(file, name);
    if (own && isToldBy(own, facts)) this.known.set(own.key, facts);
    return facts;
  }
}

/** A box as it lies in the header. */
interface Placed {
  readonly start?: number;
  readonly size: number;
}

const startOf = ({ timecode }: Own, { declaredRate }: VideoFacts): string | undefined =>
  timecode && timecodeOfFrames(timecode, declaredRate);

/** Whether what was worked out is what ffprobe says. */
function isToldBy(own: Own, { durationSeconds, startTimecode, video }: MediaFacts): boolean {
  if (!video || video.interlaced) return false;
  const isSame = (a: number, b: number | undefined) => b !== undefined && Math.abs(a - b) <= EXACT;
  return (
    isSame(own.durationSeconds, durationSeconds) &&
    isSame(own.videoSeconds, video.durationSeconds) &&
    startOf(own, video) === startTimecode
  );
}

/** `undefined` for files of which the rest is not sure to be told by their headers. */
async function ownOf(file: string, { parsed, boxes }: NonNullable<Tables>): Promise<Own | undefined> {
  const { moov, ftyp } = parsed;
  if (!moov || !ftyp || 'mvex' in moov) return undefined;
  const [video, ...others] = moov.traks.filter(({ mdia }) => mdia.hdlr.handler === 'vide');
  const type = video?.mdia.minf.stbl.stsd.entries[0]?.type ?? '';
  if (!video || others.length > 0 || !CONFIGURED.test(type) || video.samples.length < LONG_FRAMES) return undefined;
  const bytesOf = ({ start = 0, size }: Placed) => Buffer.from(boxes.subarray(start, start + size));
  const hash = createHash('sha1').update(bytesOf(ftyp));
  for (const track of moov.traks) {
    const shape = shapeOf(track);
    if (!shape) return undefined;
    hash.update(JSON.stringify(shape)).update(withoutBitRates(bytesOf(track.mdia.minf.stbl.stsd)));
  }
  // Of what cameras note, the rate they shot at is told.
  for (const box of moov.boxes ?? []) {
    if (box.type !== 'udta' && box.type !== 'meta') continue;
    const noted = bytesOf(box);
    if (/capture|timecode/i.test(noted.toString('latin1'))) hash.update(noted);
  }
  return {
    key: hash.digest('hex'),
    durationSeconds: round(moov.mvhd.duration / moov.mvhd.timescale),
    videoSeconds: round(shownSeconds(video, moov.mvhd.timescale)),
    timecode: await timecodeOf(file, moov, bytesOf),
  };
}

/** Sample entries without what they say of the file's own bit rate: in a box of its own, and among what MPEG-4 says of a decoder (ISO/IEC 14496-1, 7.2.6). */
function withoutBitRates(entries: Buffer): Buffer {
  const rates = entries.indexOf('btrt', 0, 'latin1');
  if (rates >= 0) entries.fill(0, rates + 4, rates + 16);
  let at = entries.indexOf('esds', 0, 'latin1');
  if (at < 0) return entries;
  /** A descriptor's tag, and its length of up to four bytes. */
  const descriptor = (tag: number) => {
    if (entries[at] !== tag) return false;
    while (entries[++at]! & 0x80);
    at++;
    return true;
  };
  at += 8;
  // Of a stream its id and flags come before its decoder, of which the kind of stream before the rates.
  if (!descriptor(3)) return entries;
  at += 3;
  if (descriptor(4)) entries.fill(0, at + 2, at + 13);
  return entries;
}

const round = (seconds: number) => Math.round(seconds * 1e6) / 1e6;

/** All of a track that tells what its stream is like, but its length and where its samples are. */
function shapeOf({ tkhd, mdia, edts }: TrakBox): object | undefined {
  const { stts, ctts, stss } = mdia.minf.stbl;
  const deltas = stts.sample_deltas;
  // The last sample may last longer or shorter.
  const isSteady = deltas.length === 1 || (deltas.length === 2 && stts.sample_counts[1] === 1);
  const isPicture = mdia.hdlr.handler === 'vide';
  if (isPicture && !isSteady) return undefined;
  return {
    ...{ handler: mdia.hdlr.handler, id: tkhd.track_id, flags: tkhd.flags, matrix: [...tkhd.matrix] },
    ...{ width: tkhd.width, height: tkhd.height, timescale: mdia.mdhd.timescale },
    ...{ delta: isPicture ? deltas[0] : null, first: ctts?.sample_offsets[0] ?? null, hasKeys: stss !== undefined },
    edits: (edts?.elst?.entries ?? []).map((edit) => [
      ...[edit.media_time, edit.media_rate_integer, edit.media_rate_fraction],
      edit.media_time === -1 ? edit.segment_duration : edit.segment_duration === 0,
    ]),
  };
}

/** How long a track is shown: as long as its samples are, or its edit. */
function shownSeconds({ edts, mdia: { mdhd } }: TrakBox, movieScale: number): number {
  const shown = (edts?.elst?.entries ?? []).filter(({ media_time }) => media_time !== -1);
  const [edit] = shown;
  const edited = edit && edit.segment_duration > 0 ? (edit.segment_duration * mdhd.timescale) / movieScale : Infinity;
  return Math.min(mdhd.duration, Math.round(edited)) / mdhd.timescale;
}

/** What a timecode track says of the first frame (QuickTime File Format, "Timecode media"). */
async function timecodeOf(
  file: string,
  { traks }: NonNullable<ParsedBoxes['moov']>,
  bytesOf: (box: Placed) => Buffer,
): Promise<CountedTimecode | undefined> {
  const track = traks.find(({ mdia }) => mdia.hdlr.handler === 'tmcd');
  if (!track) return undefined;
  const { stsd, stco, co64 } = track.mdia.minf.stbl;
  // Behind the table's own head and its count, and the entry's size, type and reference.
  const entry = bytesOf(stsd).subarray(16 + 16);
  const [flags, scale, each] = [entry.readUInt32BE(4), entry.readUInt32BE(8), entry.readUInt32BE(12)];
  const at = Number((stco ?? co64)?.chunk_offsets[0]);
  const handle = await open(file, 'r');
  try {
    const sample = Buffer.alloc(4);
    await handle.read(sample, 0, 4, at);
    const counted = rate(scale, each);
    return { label: formatTimecode(sample.readUInt32BE(0), counted, (flags & 1) !== 0), rate: counted };
  } finally {
    await handle.close();
  }
}
