import type { FrameTimes } from '@idle-bend/core/api';
import { sameSpace } from '@idle-bend/core/colour';
import { decodedFrame } from '@idle-bend/core/time';
import type { OpenedSource } from '../probe/source.js';
import { ownSpace, standardSpace } from './pictures.js';

/** Containers whose packets carry the times ffmpeg gives their frames. */
const CONTAINERS = /(^|,)(mov|mp4|matroska|webm)(,|$)/;
const CODECS = ['h264', 'hevc', 'vp8', 'vp9', 'av1'];
/** 8-bit 4:2:0, of limited and of full range. */
const FORMATS = ['yuv420p', 'yuvj420p'];

/**
 * When each frame of a source's grid is shown, in ticks, for browsers that decode the file themselves: they know a picture by its time.
 * `undefined` where that is not enough: pictures that are turned, converted or made of fields before they are shown, or of a kind no browser decodes.
 */
export function directTimes(source: OpenedSource): FrameTimes | undefined {
  const { facts, index } = source;
  const video = facts.video!;
  const isShownAsCoded =
    CONTAINERS.test(facts.container) &&
    CODECS.includes(video.codec) &&
    FORMATS.includes(video.decodedAs) &&
    video.rotation === 0 &&
    !video.interlaced &&
    sameSpace(standardSpace(source), ownSpace(source));
  if (!isShownAsCoded) return undefined;
  return {
    timeBase: video.timeBase,
    times: Array.from({ length: index.grid.frames }, (_, n) => index.times[decodedFrame(index.grid, n)]!),
    keys: Array.from(index.keys, (key) => index.times[key]!),
  };
}
