import { canDropFrames, type Rate } from '@idle-bend/core';
import { proxySize, stripLayout, type FrameIndex, type MediaFacts, type VideoFacts } from '@idle-bend/media';

/** What the interface knows of a clip's picture. Width and height in samples as shown, after rotation. */
export interface PictureFacts {
  readonly rate: Rate;
  readonly frames: number;
  readonly width: number;
  readonly height: number;
  readonly codec: string;
  readonly pixelAspect: { readonly num: number; readonly den: number };
  /** Degrees clockwise by which the stored picture is turned for showing. */
  readonly rotation: number;
  readonly bitDepth: number;
  /** Set when the file's rate is variable: how many grid frames hold the one before, how many frames were left out. */
  readonly variable: { readonly held: number; readonly dropped: number } | null;
  readonly interlaced: boolean;
  /** The start timecode counts drop-frame. */
  readonly dropFrame: boolean;
  readonly proxy: { readonly width: number; readonly height: number };
  readonly strip: { readonly step: number; readonly count: number };
}

export interface SoundFacts {
  readonly codec: string;
  readonly channels: number;
  readonly sampleRate: number;
  /** Against the first picture, seconds. */
  readonly startSeconds: number;
}

/** What the interface knows of a piece of footage; a recording of sound alone has no picture. */
export interface FootageFacts {
  readonly container: string;
  readonly bytes: number;
  readonly durationSeconds: number | null;
  readonly startTimecode: string | null;
  /** What the camera says it shot at, where that is not what the file plays at. */
  readonly captureRate: Rate | null;
  readonly picture: PictureFacts | null;
  readonly sound: SoundFacts | null;
}

export function readFacts(facts: MediaFacts, index: FrameIndex | undefined): FootageFacts {
  const { video, sound, startTimecode } = facts;
  return {
    container: facts.container,
    bytes: facts.bytes,
    durationSeconds: facts.durationSeconds ?? null,
    startTimecode: startTimecode ?? null,
    captureRate: facts.captureRate ?? null,
    picture: video && index ? readPicture(video, index, startTimecode) : null,
    sound: sound ? { codec: sound.codec, channels: sound.channels, sampleRate: sound.sampleRate, startSeconds: sound.startSeconds } : null,
  };
}

function readPicture(video: VideoFacts, { grid }: FrameIndex, startTimecode: string | undefined): PictureFacts {
  return {
    rate: grid.rate,
    frames: grid.frames,
    width: video.format.width,
    height: video.format.height,
    codec: video.codec,
    pixelAspect: video.format.pixelAspect,
    rotation: video.rotation,
    bitDepth: video.format.layout.bitDepth,
    variable: grid.variable ? { held: grid.held, dropped: grid.dropped } : null,
    interlaced: video.interlaced,
    dropFrame: canDropFrames(grid.rate) && (startTimecode?.includes(';') ?? false),
    proxy: proxySize(video),
    strip: stripLayout(grid.frames),
  };
}
