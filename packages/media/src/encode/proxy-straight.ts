import { setImmediate } from 'node:timers/promises';
import { cellsOf, HEALTH_LEAD, type HealthRecords } from '@idle-bend/core/health';
import type { PieceLayout } from '@idle-bend/core/proxy';
import type { ColourTags } from '@idle-bend/core/frame';
import { formatRate, type Rate } from '@idle-bend/core/time';
import { join } from 'node:path';
import { codecOptions } from './codec.js';
import { colourArgs, timescaleOf } from './encoder.js';
import { PROXY_FORMAT, proxyColour, type ProxySize } from './proxy.js';
import type { Run, RunMaker } from './proxy-run.js';
import { BufferPool, RawStream } from '../decode/raw-stream.js';
import { keyIndexBefore, scaledTo, seekSeconds } from '../decode/source-reader.js';
import type { OpenedSource } from '../probe/source.js';
import { loadHealthMeter } from '../kernels.js';

/**
 * Makes pieces of a proxy that ffmpeg makes alone (see `isMadeStraight`) in one process, which decodes, scales and codes, and hands over
 * each picture as means of small cells for what is looked for in it. Every picture is known by its time: where another comes than the one whose
 * turn it is (a group that cannot be entered), it ends; returns the piece to go on with otherwise, `after` when all are made.
 */
export const writeStraight: RunMaker = async (source, layout, run, folder, { size, onFrame, onPiece, signal }) => {
  const { file, facts, index } = source;
  const begin = layout.first(run.first);
  const end = layout.first(run.after - 1) + layout.framesIn(run.after - 1);
  const lead = Math.max(0, begin - HEALTH_LEAD);
  const { side, columns, rows } = cellsOf(size.width, size.height);
  const listed: string[] = [];
  const bytes = columns * rows * 2;
  const pool = new BufferPool(bytes);
  const stream = new RawStream(
    {
      ...{ file, name: facts.name, video: facts.video!, frameBytes: bytes, pixelFormat: 'gray16le' },
      seekSeconds: seekSeconds(facts, index, keyIndexBefore(index, lead)),
      from: index.times[lead]!,
      to: index.times[end - 1]!,
      filters: [...scaling(source, size), `format=${facts.video!.decodedAs}`],
      besides: {
        handed: [
          ...['extractplanes=y', `crop=${columns * side}:${rows * side}:0:0`],
          `scale=${columns}:${rows}:flags=area+accurate_rnd:in_range=full:out_range=full`,
        ],
        written: written(source, index.times[begin]!),
        args: codingOf(index.grid.rate, proxyColour(source, size), layout, run, folder),
        onLine: (line) => listed.push(line),
      },
    },
    pool,
  );
  const meter = loadHealthMeter();
  const seen = new Map<number, HealthRecords>();
  let [next, piece] = [lead, run.first];
  /** Pieces that are whole, and of whose pictures each was the right one. */
  const settle = async () => {
    for (let records; listed.length > 0 && (records = seen.get(piece)); piece++) {
      listed.shift();
      seen.delete(piece);
      await onPiece(piece, join(folder, `.run-${piece}.mp4`), records);
    }
  };
  const stop = () => stream.close();
  signal?.addEventListener('abort', stop, { once: true });
  try {
    for (;;) {
      signal?.throwIfAborted();
      const picture = await stream.next();
      if (!picture || picture.time !== index.times[next]) break;
      meter.addCells(new Uint16Array(picture.data.buffer, picture.data.byteOffset, columns * rows), columns, rows);
      pool.give(picture.data);
      if (next >= begin) onFrame();
      next++;
      const at = layout.of(next - 1);
      if (next > begin && next === layout.first(at) + layout.framesIn(at))
        seen.set(at, meter.records(layout.first(at) - lead));
      await settle();
      // What has come meanwhile is taken in, so that ffmpeg need not wait while pictures are looked at.
      await setImmediate();
    }
    await settle();
    return piece;
  } catch (error) {
    signal?.throwIfAborted();
    throw error;
  } finally {
    signal?.removeEventListener('abort', stop);
    stream.close();
  }
};

function scaling(source: OpenedSource, size: ProxySize): string[] {
  const { format } = source.facts.video!;
  return size.width === format.width && size.height === format.height ? [] : [scaledTo(size)];
}

/** Pictures that were only looked at first are left out; the others follow one another at the exact rate. */
function written({ index: { grid } }: OpenedSource, from: number): string[] {
  return [`trim=start_pts=${from}`, `settb=${grid.rate.den}/${grid.rate.num}`, 'setpts=N', 'setsar=1'];
}

/** Coded as proxies are, each piece a file; its name is told on the third pipe when it is whole. */
function codingOf(
  rate: Rate,
  colour: ColourTags,
  layout: PieceLayout,
  { first, after }: Run,
  folder: string,
): string[] {
  const ends = Array.from({ length: after - first - 1 }, (_, i) => (i + 1) * layout.frames);
  return [
    ...codecOptions('proxy', PROXY_FORMAT).args,
    ...colourArgs({ colour }),
    ...['-r', formatRate(rate), '-f', 'segment', '-segment_format', 'mp4', '-reset_timestamps', '1'],
    // One cut after the end, where there would be none: without any ffmpeg cuts by time.
    ...['-segment_frames', [...ends, (after - first) * layout.frames].join(',')],
    '-segment_format_options',
    `movflags=+faststart+write_colr:video_track_timescale=${timescaleOf(rate)}`,
    ...[
      '-segment_start_number',
      String(first),
      '-segment_list',
      'pipe:3',
      '-segment_list_type',
      'flat',
      join(folder.replaceAll('%', '%%'), '.run-%d.mp4'),
    ],
  ];
}
