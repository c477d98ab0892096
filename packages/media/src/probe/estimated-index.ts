import { framesPerSecond, type Rate } from '@idle-bend/core/time';
import { fromDecoder, gridOf, indexFrames, quickIndex, type FrameIndex } from './frame-index.js';
import type { Tables } from './header-index.js';
import type { MediaFacts } from './probe.js';

/** A file that is smaller is listed about as soon as it is estimated, bytes. */
const ESTIMATED_FROM = 64 * 2 ** 20;
/** So many pictures at its beginning tell its rate. */
const FIRST_PICTURES = 12;
/** Rates are far from each other by this share. */
const FAR = 0.02;

/**
 * A file's frames as soon as something can be said of them: exactly where its headers list them or it is small; of a large one whose headers
 * do not, an estimate by its first pictures and its length. Throws `MediaError` as `indexFrames` does.
 */
export async function indexSoon(
  file: string,
  facts: MediaFacts,
  { tables, estimateFrom = ESTIMATED_FROM }: { readonly tables?: Promise<Tables>; readonly estimateFrom?: number } = {},
): Promise<FrameIndex> {
  if (facts.video && facts.bytes >= estimateFrom) {
    const quick = await quickIndex(file, facts, tables);
    const soon = quick?.index ?? (await estimateIndex(file, facts).catch(() => undefined));
    if (soon) return soon;
  }
  return indexFrames(file, facts, { tables });
}

/**
 * The frames a file is likely to have: as far apart as its first ones, from the first that can be decoded to the end it says it has. Where
 * decoding may start is not known; once a second is near enough for a seek, which goes to the place before. `undefined` where it does not say
 * how long it is. Throws `MediaError` where it does not decode.
 *
 * @param onBytesRead is told how many bytes of the file that took
 */
export async function estimateIndex(
  file: string,
  facts: MediaFacts,
  onBytesRead?: (bytes: number) => void,
): Promise<FrameIndex | undefined> {
  const video = facts.video!;
  const tick = video.timeBase.num / video.timeBase.den;
  const { times: first } = await fromDecoder(file, facts, video, { first: FIRST_PICTURES, onBytesRead });
  if (first.length < 2) return undefined;
  const grid = gridOf(facts, first, tick, video.declaredRate);
  const rate = declaredInstead(video.declaredRate, grid) ?? grid.rate;
  const start = first[0]!;
  const end =
    video.durationSeconds !== undefined
      ? start * tick + video.durationSeconds
      : facts.durationSeconds !== undefined
        ? facts.startSeconds + facts.durationSeconds
        : undefined;
  if (end === undefined) return undefined;
  const fps = framesPerSecond(rate);
  const frames = Math.max(first.length, Math.round((end - start * tick) * fps));
  const times = Float64Array.from({ length: frames }, (_, n) => start + Math.round(n / (fps * tick)));
  const everySecond = Math.max(1, Math.round(fps));
  const keys = Int32Array.from({ length: Math.ceil(frames / everySecond) }, (_, i) => i * everySecond);
  const even = { rate, frames, slots: undefined, variable: false, held: 0, dropped: 0 };
  return { times, keys, grid: even, sizes: undefined, isEstimated: true };
}

/** Where the first pictures are not evenly apart, what the file says is believed unless it is far from them. */
const declaredInstead = (declared: Rate | undefined, { rate, variable }: FrameIndex['grid']): Rate | undefined =>
  variable && declared && Math.abs(framesPerSecond(declared) / framesPerSecond(rate) - 1) < FAR ? declared : undefined;
