import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { InvalidInput } from '@idle-bend/core/foundation';
import { frameBytes, parsePixelFormat, type ColourTags, type FrameFormat } from '@idle-bend/core/frame';
import { rate, type Rate } from '@idle-bend/core/time';
import { collect, safeInput } from '../ffmpeg/ffmpeg.js';
import { MediaError, missingFile } from '../ffmpeg/media-error.js';
import { timecodeOfFrames } from './start-timecode.js';

/** What the file says of its picture. Width and height as shown, after rotation. */
export interface VideoFacts {
  readonly stream: number;
  /** The number its container gives the track; none where it gives none. */
  readonly trackId: number | undefined;
  readonly codec: string;
  readonly profile: string | undefined;
  /** The pixel format frames are decoded to: the file's own when it is planar, else its planar equal. The range is among its colour tags. */
  readonly pixelFormat: string;
  /** The same as ffmpeg has to be asked for it, so that it changes no code. */
  readonly decodedAs: string;
  readonly format: FrameFormat;
  /** Degrees clockwise by which the stored picture is turned for showing: 0, 90, 180 or 270. */
  readonly rotation: number;
  readonly timeBase: { readonly num: number; readonly den: number };
  readonly declaredRate: Rate | undefined;
  readonly interlaced: boolean;
  /** How long the file says its picture lasts. */
  readonly durationSeconds: number | undefined;
}

export interface SoundFacts {
  readonly stream: number;
  readonly codec: string;
  readonly sampleRate: number;
  readonly channels: number;
  /** The container's time at which it begins, seconds; none where it does not say. */
  readonly startSeconds: number | undefined;
}

export interface MediaFacts {
  readonly name: string;
  readonly bytes: number;
  readonly container: string;
  readonly durationSeconds: number | undefined;
  readonly startSeconds: number;
  readonly video: VideoFacts | undefined;
  readonly sound: SoundFacts | undefined;
  /** Timecode of the first frame; from it single frames are counted (see `timecodeOfFrames`). */
  readonly startTimecode: string | undefined;
  /** The rate the camera says it shot at when that is not the rate the file plays at. */
  readonly captureRate: Rate | undefined;
}

interface RawStream {
  readonly index: number;
  readonly id?: string;
  readonly codec_type?: string;
  readonly codec_name?: string;
  readonly profile?: string;
  readonly width?: number;
  readonly height?: number;
  readonly pix_fmt?: string;
  readonly sample_aspect_ratio?: string;
  readonly color_range?: string;
  readonly color_space?: string;
  readonly color_primaries?: string;
  readonly color_transfer?: string;
  readonly chroma_location?: string;
  readonly field_order?: string;
  readonly r_frame_rate?: string;
  readonly codec_tag_string?: string;
  readonly avg_frame_rate?: string;
  readonly time_base?: string;
  readonly start_time?: string;
  readonly duration?: string;
  readonly sample_rate?: string;
  readonly channels?: number;
  readonly disposition?: { readonly attached_pic?: number };
  readonly side_data_list?: readonly { readonly rotation?: number }[];
  readonly tags?: Readonly<Record<string, string>>;
}

interface RawProbe {
  readonly streams?: readonly RawStream[];
  readonly format?: {
    readonly format_name?: string;
    readonly duration?: string;
    readonly start_time?: string;
    readonly tags?: Readonly<Record<string, string>>;
  };
}

/**
 * Reads what a file says of itself; `onBytesRead` is told how many bytes that took. Throws `MediaError`, one sentence, for anything that is
 * not footage or sound.
 */
export async function probe(
  file: string,
  name = basename(file),
  onBytesRead?: (bytes: number) => void,
): Promise<MediaFacts> {
  const info = await stat(file).catch(() => undefined);
  if (!info) throw new MediaError(missingFile(file, name) ?? `${name} may not be looked at.`);
  if (!info.isFile()) throw new MediaError(`${name} is not a file.`);
  if (info.size === 0) throw new MediaError(`${name} is empty.`);
  const { stdout, stderr } = await collect(
    'ffprobe',
    ['-v', onBytesRead ? 'verbose' : 'error', '-of', 'json', '-show_format', '-show_streams', ...safeInput(file)],
    {
      seconds: 30,
      explain: (complaint) => explainOpening(file, name, complaint),
    },
  );
  // What it read is among what it says when it closes the file.
  const read = [...stderr.matchAll(/Statistics: (\d+) bytes read/g)].reduce((sum, [, bytes]) => sum + Number(bytes), 0);
  onBytesRead?.(read);
  const raw = JSON.parse(stdout.toString('utf8')) as RawProbe;
  const streams = raw.streams ?? [];
  const picture = streams.find((s) => s.codec_type === 'video' && s.disposition?.attached_pic !== 1);
  const sound = streams.find((s) => s.codec_type === 'audio' && s.codec_name !== undefined);
  if (picture && (!picture.codec_name || picture.codec_name === 'unknown'))
    throw new MediaError(`${name}: its picture is coded in a way this machine cannot decode.`);
  if (!picture && !sound) throw new MediaError(`${name} holds neither picture nor sound.`);
  const container = raw.format?.format_name ?? 'unknown';
  const video = picture && readVideo(picture, name);
  const tags = { ...raw.format?.tags, ...picture?.tags };
  const timecode = tags['timecode'] ?? streams.find((s) => s.tags?.['timecode'])?.tags?.['timecode'];
  return {
    name,
    bytes: info.size,
    container,
    durationSeconds: seconds(raw.format?.duration),
    startSeconds: seconds(raw.format?.start_time) ?? 0,
    video,
    sound: sound && {
      stream: sound.index,
      codec: sound.codec_name!,
      sampleRate: Number(sound.sample_rate ?? 0),
      channels: sound.channels ?? 0,
      startSeconds: seconds(sound.start_time),
    },
    startTimecode: timecode && timecodeOfFrames({ label: timecode, rate: countedAt(streams) }, video?.declaredRate),
    captureRate: readCaptureRate(tags),
  };
}

/** The rate a file's timecode track counts at; it is of no kind that ffprobe has a name for. */
function countedAt(streams: readonly RawStream[]): Rate | undefined {
  const track = streams.find(({ codec_tag_string: tag }) => tag === 'tmcd');
  return track && readRate(track.avg_frame_rate);
}

function seconds(text: string | undefined): number | undefined {
  const value = Number(text);
  return text === undefined || !Number.isFinite(value) ? undefined : value;
}

/** Matroska's way to write a length: HH:MM:SS.nnnnnnnnn. */
function clockSeconds(text: string | undefined): number | undefined {
  const match = /^(\d+):(\d+):(\d+(?:\.\d+)?)$/.exec(text ?? '');
  return match ? Number(match[1]) * 3600 + Number(match[2]) * 60 + Number(match[3]) : undefined;
}

/** A decoded picture above this is refused: several have to be held at once. 8192 × 8192 in four planes of eight bits, or 8K at 16 bits and full chroma. */
const MAX_FRAME_BYTES = 256 * 2 ** 20;

function readVideo(stream: RawStream, name: string): VideoFacts {
  const { width, height } = stream;
  if (!width || !height) throw new MediaError(`${name}: its picture has no size; the file may be cut short.`);
  if (!stream.pix_fmt)
    throw new MediaError(`${name}: its picture cannot be decoded; the file may be cut short or damaged.`);
  const turned = ((-(stream.side_data_list?.find((d) => d.rotation !== undefined)?.rotation ?? 0) % 360) + 360) % 360;
  const sideways = turned === 90 || turned === 270;
  const decodedAs = decodedFormat(stream.pix_fmt);
  const pixelFormat = decodedAs.replace(/^yuvj/, 'yuv');
  const aspect = /^(\d+):(\d+)$/.exec(stream.sample_aspect_ratio ?? '');
  const [sarNum, sarDen] =
    aspect && Number(aspect[1]) > 0 && Number(aspect[2]) > 0 ? [Number(aspect[1]), Number(aspect[2])] : [1, 1];
  const bytes = frameBytes(parsePixelFormat(pixelFormat)!, width, height);
  if (bytes > MAX_FRAME_BYTES)
    throw new MediaError(
      `${name}: one of its pictures (${width} × ${height}) takes ${Math.round(bytes / 2 ** 20)} MiB; ${MAX_FRAME_BYTES / 2 ** 20} MiB is the most that is read.`,
    );
  const timeBase = /^(\d+)\/(\d+)$/.exec(stream.time_base ?? '') ?? ['', '1', '1000'];
  return {
    stream: stream.index,
    trackId: /^0x[0-9a-f]+$/i.test(stream.id ?? '') ? Number(stream.id) : undefined,
    codec: stream.codec_name!,
    profile: stream.profile,
    pixelFormat,
    decodedAs,
    format: {
      width: sideways ? height : width,
      height: sideways ? width : height,
      layout: parsePixelFormat(pixelFormat)!,
      colour: readColour(stream),
      pixelAspect: sideways ? { num: sarDen, den: sarNum } : { num: sarNum, den: sarDen },
    },
    rotation: turned,
    timeBase: { num: Number(timeBase[1]), den: Number(timeBase[2]) },
    declaredRate: readRate(stream.r_frame_rate) ?? readRate(stream.avg_frame_rate),
    durationSeconds: seconds(stream.duration) ?? clockSeconds(stream.tags?.['DURATION']),
    interlaced: stream.field_order !== undefined && !['progressive', 'unknown'].includes(stream.field_order),
  };
}

/** Planar formats stay; packed and palette ones become the planar format that loses nothing. */
function decodedFormat(pixelFormat: string): string {
  if (parsePixelFormat(pixelFormat)) return pixelFormat;
  const known: Readonly<Record<string, string>> = {
    nv12: 'yuv420p',
    nv21: 'yuv420p',
    nv16: 'yuv422p',
    p010le: 'yuv420p10le',
    p016le: 'yuv420p16le',
    yuyv422: 'yuv422p',
    uyvy422: 'yuv422p',
    monow: 'gray',
    monob: 'gray',
    ya8: 'yuva444p',
    gray10be: 'gray10le',
    gray16be: 'gray16le',
    y210le: 'yuv422p10le',
  };
  const alpha = /^(rgba|bgra|argb|abgr|pal8|rgba64|bgra64|ya16)/.test(pixelFormat) ? 'a' : '';
  const deep = /(48|64|16)(le|be)$/.test(pixelFormat) ? '16le' : '';
  return (
    known[pixelFormat] ??
    (/be$/.test(pixelFormat) && parsePixelFormat(pixelFormat.replace(/be$/, 'le'))
      ? pixelFormat.replace(/be$/, 'le')
      : `gbr${alpha}p${deep}`)
  );
}

function readColour(stream: RawStream): ColourTags {
  const known = (value: string | undefined) =>
    value && !['unknown', 'unspecified', 'reserved'].includes(value) ? value : undefined;
  const full = stream.color_range === 'pc' || /^yuvj/.test(stream.pix_fmt ?? '');
  return {
    range: full ? 'full' : stream.color_range === 'tv' ? 'limited' : undefined,
    matrix: known(stream.color_space),
    primaries: known(stream.color_primaries),
    transfer: known(stream.color_transfer),
    chromaLocation: known(stream.chroma_location),
  };
}

function readRate(text: string | undefined): Rate | undefined {
  const match = /^(\d+)\/(\d+)$/.exec(text ?? '');
  try {
    return match ? rate(Number(match[1]), Number(match[2])) : undefined;
  } catch (error) {
    if (error instanceof InvalidInput) return undefined;
    throw error;
  }
}

/** Cameras that write slow motion note what they shot at; the tag is a plain number of frames per second. */
function readCaptureRate(tags: Readonly<Record<string, string>>): Rate | undefined {
  const text = tags['com.android.capture.fps'] ?? tags['capture_fps'];
  const value = Number(text);
  if (text === undefined || !Number.isFinite(value) || value < 1 || value > 1000) return undefined;
  const near = [24000 / 1001, 30000 / 1001, 60000 / 1001, 120000 / 1001, 240000 / 1001].find(
    (r) => Math.abs(r - value) < 0.005,
  );
  return near ? rate(Math.round(near * 1001), 1001) : rate(Math.round(value * 1000), 1000);
}

/** ffmpeg's complaint about opening a file, as a sentence. */
export function explainOpening(file: string, name: string, complaint: string): string {
  const missing = missingFile(file, name);
  if (missing) return missing;
  if (/not on whitelist/i.test(complaint))
    return `${name} is a playlist, script, picture or text, not footage; import the video file itself.`;
  if (/moov atom not found/i.test(complaint))
    return `${name} is cut short: its index is missing, so it cannot be read; copy it again from the camera.`;
  if (/took longer/.test(complaint)) return `${name} could not be read in reasonable time; it may be damaged.`;
  if (/more packets/.test(complaint)) return `${name} has more packets than can be listed.`;
  if (/Permission denied/i.test(complaint)) return `${name} may not be read: permission denied.`;
  if (/ffmpeg could not be started/.test(complaint)) return complaint;
  return `${name} is not a video or sound file that can be read; it may be damaged or of another kind.`;
}
