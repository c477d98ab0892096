import { HealthMeter, type Health } from '@idle-bend/core';
import { proxySize } from './proxy.js';
import { SourceReader } from './source-reader.js';
import type { OpenedSource } from './source.js';

/** Looks at every picture of a source, at the size of its proxy: repeats, cuts, drops. */
export async function inspectHealth(source: OpenedSource, onFrame?: (done: number, total: number) => void, signal?: AbortSignal): Promise<Health> {
  const pixelFormat = source.facts.video!.format.colour.range === 'full' ? 'yuvj420p' : 'yuv420p';
  const reader = new SourceReader(source.file, source.facts, source.index, { size: proxySize(source.facts.video!), pixelFormat, cacheBytes: 1 });
  const { frames } = source.index.grid;
  const meter = new HealthMeter();
  try {
    for (let n = 0; n < frames; n++) {
      signal?.throwIfAborted();
      const [frame] = await reader.frames([n]);
      meter.add(frame!.data, reader.format.width, reader.format.height);
      onFrame?.(n + 1, frames);
    }
    return meter.health();
  } finally {
    reader.close();
  }
}
