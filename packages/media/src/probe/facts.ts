import type { FootageFacts, PictureFacts } from '@idle-bend/core/api';
import { highRangeOf, spaceOf } from '@idle-bend/core/colour';
import { proxySize } from '@idle-bend/core/proxy';
import { canDropFrames, isDropFrame } from '@idle-bend/core/time';
import type { FrameIndex } from './frame-index.js';
import type { MediaFacts, VideoFacts } from './probe.js';
import { stripLayout } from '../encode/proxy.js';

/** What is told of a file's picture and sound. */
export function readFacts(facts: MediaFacts, index: FrameIndex | undefined): FootageFacts {
  const { video, sound, startTimecode } = facts;
  return {
    container: facts.container,
    bytes: facts.bytes,
    durationSeconds: facts.durationSeconds ?? null,
    startTimecode: startTimecode ?? null,
    captureRate: facts.captureRate ?? null,
    picture: video && index ? readPicture(video, index, startTimecode) : null,
    sound: sound
      ? {
          codec: sound.codec,
          channels: sound.channels,
          sampleRate: sound.sampleRate,
          startSeconds: soundStart(facts, index),
        }
      : null,
  };
}

/** When a file's sound begins, in seconds from its first picture that can be decoded. */
export function soundStart({ sound, video, startSeconds }: MediaFacts, index: FrameIndex | undefined): number {
  if (!sound || !video || !index) return 0;
  const start = sound.startSeconds ?? startSeconds;
  return Math.round((start - (index.times[0]! * video.timeBase.num) / video.timeBase.den) * 1e6) / 1e6;
}

function readPicture(
  video: VideoFacts,
  { grid, isEstimated }: FrameIndex,
  startTimecode: string | undefined,
): PictureFacts {
  return {
    rate: grid.rate,
    frames: grid.frames,
    width: video.format.width,
    height: video.format.height,
    codec: video.codec,
    pixelAspect: video.format.pixelAspect,
    rotation: video.rotation,
    bitDepth: video.format.layout.bitDepth,
    highRange: highRangeOf(video.format.colour) ?? null,
    colour: spaceOf(video.format),
    alpha: video.format.layout.alpha,
    variable: grid.variable ? { held: grid.held, dropped: grid.dropped } : null,
    interlaced: video.interlaced,
    dropFrame: canDropFrames(grid.rate) && startTimecode !== undefined && isDropFrame(startTimecode),
    proxy: proxySize(video.format),
    strip: stripLayout(grid.frames),
    ...(isEstimated && { estimate: { rate: grid.rate, frames: grid.frames, isCounted: false } }),
  };
}
