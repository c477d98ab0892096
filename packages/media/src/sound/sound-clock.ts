import { SOUND_RATE } from '@idle-bend/core/sound';
import { indexFrames } from '../probe/frame-index.js';
import { readKnown } from '../probe/index-cache.js';
import type { MediaFacts } from '../probe/probe.js';

/**
 * Seconds from where a container's times begin to the source's time zero: the presentation time of its first picture that can be decoded.
 * None for sound alone, which begins with its first sample. Throws `MediaError` for a picture that cannot be decoded.
 */
export async function timeZero(file: string, facts: MediaFacts, signal?: AbortSignal): Promise<number | undefined> {
  const { video } = facts;
  if (!video) return undefined;
  const times = (await readKnown(file))?.times ?? (await indexFrames(file, facts, { signal })).times;
  // ffmpeg counts from the container's start.
  return (times[0]! * video.timeBase.num) / video.timeBase.den - facts.startSeconds;
}

/** Filters that make a sound begin at time zero: silence before it where it starts later, and what comes before left out. */
export function fromTimeZero(zero: number | undefined, rate: number): string[] {
  const clock = zero === undefined ? 'asetpts=PTS-STARTPTS' : `asetpts=PTS-(${zero.toFixed(7)})/TB`;
  return [clock, `aresample=${rate}:async=1:first_pts=0`];
}

/**
 * The same in two channels. More channels are folded by a matrix whose sums are 1 at most, so that nothing clips that did not clip before
 * (ITU-R BS.775-4, annex 4, with attenuation); in floating point ffmpeg would leave it louder.
 */
export function inTwoChannels(zero: number | undefined): string[] {
  const [clock, resample] = fromTimeZero(zero, SOUND_RATE) as [string, string];
  return [
    clock,
    `${resample}:rematrix_maxval=1:out_channel_layout=stereo`,
    'aformat=sample_fmts=flt:channel_layouts=stereo',
  ];
}
