import { InvalidInput } from '@idle-bend/core/foundation';
import { constantGrid, type ConstantGrid } from '@idle-bend/core/time';
import { afterWorking, collect, ended, safeInput, start } from '../ffmpeg/ffmpeg.js';
import { MediaError } from '../ffmpeg/media-error.js';
import { indexFromHeaders, type ListedPacket, type Tables } from './header-index.js';
import { indexFromBlocks } from './matroska-index.js';
import { explainOpening, type MediaFacts, type VideoFacts } from './probe.js';

/** When every decoded frame is shown, and where decoding may start. */
export interface FrameIndex {
  /** Presentation times in ticks of the stream's time base, strictly increasing: one for each decoded frame. */
  readonly times: Float64Array;
  /** Numbers of the frames decoding may start at, increasing; the first is 0. */
  readonly keys: Int32Array;
  readonly grid: ConstantGrid;
  /** Bytes of each frame's packet, where packets were listed. */
  readonly sizes: Float64Array | undefined;
  /** Set where nothing was listed: times are near those of real frames, and there may be more or fewer (see `indexSoon`). */
  readonly isEstimated?: true;
}

/**
 * Lists a file's frames from its headers, without reading more of it; where those do not tell, from its packets (no decoding), or, where
 * packets do not tell, by decoding it once. `tables` are its headers' where they are being read already; `onFrame` is told how many frames have
 * been decoded. Throws `MediaError` for files without frames and for those that end before their header says.
 */
export async function indexFrames(
  file: string,
  facts: MediaFacts,
  {
    signal,
    tables,
    onFrame,
  }: {
    readonly signal?: AbortSignal | undefined;
    readonly tables?: Promise<Tables>;
    readonly onFrame?: (frames: number) => void;
  } = {},
): Promise<FrameIndex> {
  const video = facts.video;
  if (!video) throw new MediaError(`${facts.name} has sound only and no picture.`);
  const quick = await quickIndex(file, facts, tables);
  if (quick) return quick.index;
  const packets = await fromPackets(file, facts, video, signal);
  const list = 'times' in packets ? packets : await fromDecoder(file, facts, video, { ...packets, signal, onFrame });
  if (list.times.length === 0) throw new MediaError(`${facts.name} has no frames that can be decoded.`);
  return onGrid(facts, video, list);
}

/** What ffmpeg calls Matroska and WebM. */
const MATROSKA = /(^|,)(matroska|webm)(,|$)/;

/** A file's frames by its headers alone, and how many bytes of it that took; `undefined` where only reading or decoding it tells. */
export async function quickIndex(
  file: string,
  facts: MediaFacts,
  tables?: Promise<Tables>,
): Promise<{ readonly index: FrameIndex; readonly bytesRead: number } | undefined> {
  const { video } = facts;
  if (!video) return undefined;
  const listed = MATROSKA.test(facts.container)
    ? indexFromBlocks(file, video)
    : await indexFromHeaders(file, facts, tables);
  const list = listed && fromListed(listed.packets);
  if (!list || !('times' in list) || list.times.length === 0) return undefined;
  return { index: onGrid(facts, video, list), bytesRead: listed.bytesRead };
}

/** The list with its grid. Throws `MediaError` for times that jump, and for files that end before their header says. */
function onGrid(facts: MediaFacts, video: VideoFacts, list: FrameList): FrameIndex {
  const tick = video.timeBase.num / video.timeBase.den;
  const grid = gridOf(facts, list.times, tick, video.declaredRate);
  refuseCutShort(facts, list.times, tick);
  return { ...list, grid };
}

type FrameList = Pick<FrameIndex, 'times' | 'keys' | 'sizes'>;

/** Their constant grid. Throws `MediaError` where they jump too far for one. */
export function gridOf(
  { name }: Pick<MediaFacts, 'name'>,
  times: Float64Array,
  tick: number,
  declared: VideoFacts['declaredRate'],
): ConstantGrid {
  try {
    return constantGrid(times, tick, declared);
  } catch (error) {
    if (error instanceof InvalidInput)
      throw new MediaError(
        `${name}: the times of its frames ${error.problem}; it may be damaged, or two recordings in one file.`,
      );
    throw error;
  }
}

/** `guessed`: packets without a time, so that decoders have to guess it. */
async function fromPackets(
  file: string,
  facts: MediaFacts,
  video: VideoFacts,
  signal: AbortSignal | undefined,
): Promise<FrameList | { readonly guessed: boolean }> {
  const rows = await listing(file, facts, video, ['-show_entries', 'packet=pts,size,flags'], signal);
  const packets: ListedPacket[] = [];
  for (const row of rows) {
    const [pts, size, flags = ''] = row.split(',');
    if (flags.includes('D')) continue;
    if (pts === 'N/A') return { guessed: true };
    if (flags.includes('C')) return { guessed: false };
    packets.push({ pts: Number(pts), key: flags.includes('K'), bytes: Number(size) });
  }
  return fromListed(packets.sort((a, b) => a.pts - b.pts));
}

/** Packets in order of presentation as frames; `guessed` stands for nothing here but that only decoding tells. */
function fromListed(packets: readonly ListedPacket[]): FrameList | { readonly guessed: false } {
  const unique = packets.every((p, i) => i === 0 || p.pts > packets[i - 1]!.pts);
  // Frames shown before the first key frame may not decode, and twin times hide frames: only decoding tells.
  if (!unique || !packets[0]?.key) return { guessed: false };
  return { ...frameList(packets), sizes: Float64Array.from(packets, (p) => p.bytes) };
}

/**
 * Decodes the file once with the very program that will read its pictures, so that both give a frame the same time. Where that is guessed
 * it depends on what was decoded before: such a file is always decoded from its beginning (`guessed`).
 *
 * @param first how many frames are wanted; all without it
 * @param onBytesRead is told how many bytes of the file that took
 */
export async function fromDecoder(
  file: string,
  facts: MediaFacts,
  video: VideoFacts,
  {
    guessed = false,
    first,
    signal,
    onBytesRead,
    onFrame,
  }: {
    readonly guessed?: boolean;
    readonly first?: number;
    readonly signal?: AbortSignal | undefined;
    readonly onBytesRead?: ((bytes: number) => void) | undefined;
    readonly onFrame?: ((frames: number) => void) | undefined;
  },
): Promise<FrameList> {
  const child = start('ffmpeg', [
    ...[
      '-hide_banner',
      '-nostats',
      '-nostdin',
      '-loglevel',
      onBytesRead ? 'verbose' : 'info',
      '-copyts',
      ...safeInput(file),
      '-map',
      `0:${video.stream}`,
      '-an',
      '-sn',
      '-dn',
      ...(first === undefined ? [] : ['-frames:v', String(first)]),
    ],
    ...['-vf', 'showinfo=checksum=0', '-fps_mode', 'passthrough', '-f', 'null', '-'],
  ]);
  const stop = () => child.kill('SIGKILL');
  const endTimer = afterWorking(longest(facts), stop);
  signal?.addEventListener('abort', stop, { once: true });
  const frames: { pts: number; key: boolean }[] = [];
  let [log, complaint] = ['', ''];
  child.stdout!.resume();
  child.stderr!.on('data', (chunk: Buffer) => {
    const lines = (log + chunk.toString('latin1')).split('\n');
    log = lines.pop()!;
    for (const line of lines) {
      const read = /Statistics: (\d+) bytes read/.exec(line);
      if (read) onBytesRead?.(Number(read[1]));
      const shown = /^\[Parsed_showinfo[^\]]*\] n: *\d+ pts: *(-?\d+) .*iskey:(\d)/.exec(line);
      if (!shown) complaint = (complaint + line + '\n').slice(-4000);
      else if (frames.length === 0 || Number(shown[1]) > frames[frames.length - 1]!.pts) {
        frames.push({ pts: Number(shown[1]), key: shown[2] === '1' });
        onFrame?.(frames.length);
      }
    }
  });
  const code = await ended(child).finally(() => {
    endTimer();
    signal?.removeEventListener('abort', stop);
  });
  signal?.throwIfAborted();
  if (code !== 0 && frames.length === 0)
    throw new MediaError(
      explainOpening(file, facts.name, code < 0 ? `took longer than ${longest(facts)} s` : complaint),
    );
  const list = frameList(frames);
  return guessed ? { ...list, keys: list.keys.subarray(0, 1) } : list;
}

function frameList(frames: readonly { pts: number; key: boolean }[]): FrameList {
  const keys = frames.flatMap((f, i) => (f.key || i === 0 ? [i] : []));
  return { times: Float64Array.from(frames, (f) => f.pts), keys: Int32Array.from(keys), sizes: undefined };
}

/** Seconds that listing a file's frames may take. */
const longest = ({ bytes }: MediaFacts) => 120 + bytes / 2e6;

async function listing(
  file: string,
  facts: MediaFacts,
  video: VideoFacts,
  entries: string[],
  signal: AbortSignal | undefined,
): Promise<string[]> {
  const seconds = longest(facts);
  const args = [
    '-v',
    'error',
    '-select_streams',
    String(video.stream),
    ...entries,
    '-of',
    'csv=p=0',
    ...safeInput(file),
  ];
  const { stdout } = await collect('ffprobe', args, {
    seconds,
    signal,
    explain: (complaint) => explainOpening(file, facts.name, complaint),
  });
  return stdout
    .toString('latin1')
    .split('\n')
    .filter((row) => row.trim() !== '');
}

/** A file whose header promises clearly more picture than its data holds was cut while being copied. */
function refuseCutShort(facts: MediaFacts, times: Float64Array, tick: number): void {
  const promised = facts.video?.durationSeconds ?? (facts.sound ? undefined : facts.durationSeconds);
  if (promised === undefined) return;
  const spacing = times.length > 1 ? (times[times.length - 1]! - times[0]!) / (times.length - 1) : 0;
  // Some containers count their length from zero, some from their first time: whichever is longer stands.
  const held = (times[times.length - 1]! - Math.min(0, times[0]!) + spacing) * tick;
  if (held < promised * 0.98 - 2 * spacing * tick - 0.1 && /mov|mp4|matroska|avi/.test(facts.container))
    throw new MediaError(
      `${facts.name} is cut short: it promises ${promised.toFixed(1)} s but its data ends after ${held.toFixed(1)} s; copy it again.`,
    );
}
