import type { Patch } from '@idle-bend/core/model';
import { PatchTracker, type Luma } from '@idle-bend/core/steady';
import type { FrameProvider } from '@idle-bend/pipeline';
import { MediaError } from '../ffmpeg/media-error.js';

/**
 * Where a patch is from frame `from`, in which it is given, to frame `to`, after or before it: its middle, in widths of the picture from its middle. Throws
 * `MediaError` naming the frame in which it is lost.
 */
export async function followPatch(
  source: FrameProvider,
  from: number,
  to: number,
  { x, y, size }: Patch,
  signal?: AbortSignal,
): Promise<(readonly [number, number])[]> {
  const { width, height } = source.format;
  const luma = async (n: number): Promise<Luma> => ({
    width,
    height,
    data: (await source.frames([n]))[0]!.data.subarray(0, width * height),
  });
  const tracker = new PatchTracker(await luma(from), (x + 0.5) * width, y * width + height / 2, size * width);
  const places: (readonly [number, number])[] = [[x, y]];
  const step = to < from ? -1 : 1;
  for (let n = from; n !== to;) {
    n += step;
    signal?.throwIfAborted();
    const place = tracker.next(await luma(n));
    if (!place) throw new MediaError(`The patch is lost at frame ${n}; hold a shorter stretch, or another patch.`);
    places.push([place[0] / width - 0.5, (place[1] - height / 2) / width]);
  }
  return places;
}
