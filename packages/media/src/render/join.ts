import { rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Loudness } from '@idle-bend/core/api';
import type { Project, Stretch } from '@idle-bend/core/model';
import { RENDER_FORMATS, type Chapter, type RenderFormatName } from '@idle-bend/core/render';
import { framesPerSecond, type Rate } from '@idle-bend/core/time';
import type { MediaFiles } from '../sound/clip-sounds.js';
import { DEFAULT_TIMES, timescaleOf } from '../encode/encoder.js';
import { collect } from '../ffmpeg/ffmpeg.js';
import { measureLoudness } from '../sound/loudness.js';
import { MediaError } from '../ffmpeg/media-error.js';
import { soundCodec, soundGraph, soundMix } from '../sound/mix-sounds.js';
import { checkRender } from './check.js';
import { chunkInput, joining } from './chunk-list.js';
import { zipPictures } from './numbered.js';
import { writeReview } from './review.js';

export interface JoinOrder {
  readonly format: RenderFormatName;
  readonly chunks: number;
  readonly stretch: Stretch;
  readonly chapters: readonly Chapter[];
  /** Of the first frame. */
  readonly timecode: string | null;
}

/** The name of a finished render in its folder. */
export const renderName = (format: RenderFormatName): string => `reel.${RENDER_FORMATS[format].extension}`;

/**
 * Puts the chunks of a render together, lays its sound under them and writes it to its folder, once it has been looked at from first to
 * last frame and found whole. Pictures are copied as they were made. Tells how loud it is. Throws `MediaError`, and leaves the chunks.
 */
export async function assembleRender(
  project: Project,
  files: MediaFiles,
  folder: string,
  order: JoinOrder,
  signal?: AbortSignal,
): Promise<Loudness | undefined> {
  const target = join(folder, renderName(order.format));
  const part = join(folder, `.joining.${RENDER_FORMATS[order.format].extension}`);
  const frames = order.stretch.to - order.stretch.from;
  try {
    const { picture } = RENDER_FORMATS[order.format];
    let sounds = false;
    if (picture?.kind === 'numbered') await zipPictures(folder, order, picture.codec, frames, part, signal);
    else if (picture?.kind === 'review') await writeReview(project.reel.rate, folder, order, part, signal);
    else sounds = await writeFilm(project, files, folder, order, part, signal);
    signal?.throwIfAborted();
    const checking = checkRender(part, order.format, project.reel.rate, frames, signal);
    const [, loudness] = await Promise.all([checking, sounds ? measureLoudness(part, signal) : undefined]);
    await rename(part, target);
    return loudness;
  } finally {
    await rm(part, { force: true });
  }
}

/**
 * Places in a list of chunks are kept in microseconds, in Matroska in thousandths of a second; this puts every picture back on its frame,
 * to the nearest tick of whatever it is put into. Up to 1000 frames a second no two frames are within a tick's rounding of each other.
 */
function onFrames(rate: Rate, muxer: string): string {
  const ticks = muxer === 'webm' || muxer === 'matroska' ? MATROSKA_TICKS : timescaleOf(rate);
  const frame = `${ticks * rate.den}/${rate.num}`;
  const placed = (time: string) => `round(round(${time}/(${frame}))*${frame})`;
  return `setts=pts=${placed('PTS')}:dts=${placed('DTS')}:duration=round(${frame})`;
}

/** Ticks of a second in Matroska and WebM. */
const MATROSKA_TICKS = 1000;

/** Tells whether there is sound in it. */
async function writeFilm(
  project: Project,
  files: MediaFiles,
  folder: string,
  order: JoinOrder,
  out: string,
  signal?: AbortSignal,
): Promise<boolean> {
  const { picture } = RENDER_FORMATS[order.format];
  const muxer = picture?.kind === 'film' ? picture.muxer : 'wav';
  const { rate } = project.reel;
  const scratch = join(folder, '.clips');
  const chapterFile = join(folder, '.chapters');
  try {
    const film = picture ? await chunkInput(folder, order) : [];
    const mix = await soundMix(project, files, scratch, picture ? 1 : 0, { signal, stretch: order.stretch });
    if (!picture && !mix)
      throw new MediaError('Nothing is heard in that part of the reel, so there is no sound to write.');
    const isMov = muxer === 'mp4' || muxer === 'mov';
    const can = RENDER_FORMATS[order.format];
    const chapters = can.chapters && order.chapters.length > 0 ? ['-f', 'ffmetadata', '-i', `file:${chapterFile}`] : [];
    if (chapters.length > 0) await writeFile(chapterFile, chapterText(order.chapters, rate));
    // Inputs: the film, the sounds, then the chapters.
    const soundInputs = mix ? mix.inputs.filter((arg) => arg === '-i').length : 0;
    const args = [
      ...['-v', 'error', '-nostdin', '-y', ...film, ...(mix?.inputs ?? []), ...chapters],
      ...(mix ? ['-filter_complex', soundGraph(mix, muxer)] : []),
      ...(picture ? ['-map', '0:v', '-c:v', 'copy', '-bsf:v', onFrames(rate, muxer)] : []),
      ...(mix ? ['-map', '[sound]', ...soundCodec(muxer)!] : []),
      ...(chapters.length > 0 ? ['-map_chapters', String((picture ? 1 : 0) + soundInputs)] : []),
      ...(order.timecode === null || !can.timecode ? [] : ['-timecode', order.timecode]),
      ...(picture?.kind === 'film' && picture.tag ? ['-tag:v', picture.tag] : []),
      ...(isMov ? ['-video_track_timescale', String(timescaleOf(rate)), '-movflags', '+faststart+write_colr'] : []),
      // No numbers drawn at random: the same render is the same file.
      ...['-fflags', '+bitexact', '-flags:a', '+bitexact', ...DEFAULT_TIMES, '-f', muxer, `file:${out}`],
    ];
    const seconds = (order.stretch.to - order.stretch.from) / framesPerSecond(rate);
    await collect('ffmpeg', args, { seconds: 600 + 10 * seconds, explain: joining, ...(signal && { signal }) });
    return mix !== undefined;
  } finally {
    await rm(scratch, { force: true });
    await rm(chapterFile, { force: true });
  }
}

/** ffmpeg's own text form of chapters. */
function chapterText(chapters: readonly Chapter[], { num, den }: Rate): string {
  const escaped = (text: string) => text.replace(/[\r\n]+/g, ' ').replace(/[=;#\\]/g, '\\$&');
  const blocks = chapters.map(
    ({ name, from, to }) => `[CHAPTER]\nTIMEBASE=${den}/${num}\nSTART=${from}\nEND=${to}\ntitle=${escaped(name)}`,
  );
  return [';FFMETADATA1', ...blocks, ''].join('\n');
}
