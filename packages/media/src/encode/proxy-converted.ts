import { HEALTH_LEAD } from '@idle-bend/core/health';
import { join } from 'node:path';
import { Encoder } from './encoder.js';
import { PROXY_FORMAT, proxyPictures } from './proxy.js';
import type { RunMaker } from './proxy-run.js';
import { loadHealthMeter } from '../kernels.js';

/** Makes pieces of any proxy: each picture is decoded, converted and looked at here, and handed on to the encoder. */
export const writeConverted: RunMaker = async (
  source,
  layout,
  { first, after },
  folder,
  { size, onFrame, onPiece, signal },
) => {
  const reader = proxyPictures(source, size);
  const { format } = reader;
  const meter = loadHealthMeter();
  const lead = Math.max(0, layout.first(first) - HEALTH_LEAD);
  const next = async (frame: number) => {
    signal?.throwIfAborted();
    const [picture] = await reader.frames([frame]);
    meter.add(picture!.data, format.width, format.height);
    return picture!;
  };
  try {
    for (let n = lead; n < layout.first(first); n++) await next(n);
    for (let piece = first; piece < after; piece++) {
      const file = join(folder, `.run-${piece}.mp4`);
      const kind = { muxer: 'mp4', codec: 'proxy' } as const;
      const { rate } = source.index.grid;
      const encoder = await Encoder.open({ file, kind, rate, format, pixelFormat: PROXY_FORMAT });
      try {
        const begin = layout.first(piece);
        for (let n = begin; n < begin + layout.framesIn(piece); n++) {
          await encoder.write(await next(n));
          onFrame();
        }
        await encoder.finish();
      } catch (error) {
        await encoder.discard();
        throw error;
      }
      await onPiece(piece, file, meter.records(layout.first(piece) - lead));
    }
    return after;
  } finally {
    reader.close();
  }
};
