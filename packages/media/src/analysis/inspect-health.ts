import type { Health } from '@idle-bend/core/health';
import { proxyPictures } from '../encode/proxy.js';
import type { OpenedSource } from '../probe/source.js';
import { loadHealthMeter } from '../kernels.js';

/** Looks at every picture of a source, as its proxy has it: repeats, cuts, drops. */
export async function inspectHealth(
  source: OpenedSource,
  onFrame?: (done: number, total: number) => void,
  signal?: AbortSignal,
): Promise<Health> {
  const reader = proxyPictures(source);
  const { frames } = source.index.grid;
  const meter = loadHealthMeter();
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
