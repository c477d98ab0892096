import { existsSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { join } from 'node:path';
import { RENDER_FORMATS, type RenderFormatName } from '@idle-bend/core/render';
import { framesPerSecond, frameToSeconds, type Rate } from '@idle-bend/core/time';
import { collect, lastComplaint, safeInput } from '../ffmpeg/ffmpeg.js';
import { MediaError } from '../ffmpeg/media-error.js';
import { reviewStep } from './review.js';

/** Sound is coded in blocks: its end may stand out by one. Seconds. */
const BLOCK_SECONDS = 0.15;

/**
 * Reads a finished render from beginning to end: all of it decodes, it has the frames it should have, and lasts as long as they do.
 * Throws `MediaError` saying which is not so.
 */
export async function checkRender(
  file: string,
  format: RenderFormatName,
  rate: Rate,
  frames: number,
  signal?: AbortSignal,
): Promise<void> {
  const { picture } = RENDER_FORMATS[format];
  // An archive's pictures were decoded one by one when they went in.
  if (picture?.kind === 'numbered') return;
  const seconds = frames / framesPerSecond(rate);
  const wanted = picture?.kind === 'review' ? Math.ceil(frames / reviewStep(rate)) : frames;
  // Of pictures that follow one another unchanged a moving WebP keeps one, so its time tells whether all are there.
  if (format === 'webp') {
    return refuseLength(await webpSeconds(file), seconds, 2 / framesPerSecond(rate));
  }
  const explain = (complaint: string) => `The finished file does not decode: ${lastComplaint(complaint)}.`;
  const args = [
    '-v',
    'error',
    '-count_frames',
    '-show_entries',
    'stream=codec_type,nb_read_frames,time_base:format=duration',
    '-of',
    'json',
    `file:${file}`,
  ];
  const { stdout, stderr } = await collect('ffprobe', args, {
    seconds: 600 + 10 * seconds,
    explain,
    ...(signal && { signal }),
  });
  const wrong = stderr.trim();
  if (wrong) throw new MediaError(explain(wrong));
  const read = JSON.parse(stdout.toString()) as {
    streams: { codec_type: string; nb_read_frames?: string; time_base: string }[];
    format: { duration?: string };
  };
  const film = read.streams.find(({ codec_type }) => codec_type === 'video');
  if (picture && Number(film?.nb_read_frames) !== wanted)
    throw new MediaError(`The finished file has ${film?.nb_read_frames ?? 'no'} frames instead of ${wanted}.`);
  // The time of each picture of a small moving picture is in hundredths of a second.
  const slack = Math.max(BLOCK_SECONDS, (picture?.kind === 'review' ? 2 : 1) / framesPerSecond(rate));
  refuseLength(Number(read.format.duration), seconds, slack);
  if (picture?.kind === 'film') await checkTimes(file, film!.time_base, rate, signal);
}

/** Every picture is shown at its frame's own time, to the container's tick: a file may hold the right pictures on a wrong clock. */
async function checkTimes(file: string, timeBase: string, rate: Rate, signal?: AbortSignal): Promise<void> {
  const explain = (complaint: string) => `The times of the finished file cannot be read: ${lastComplaint(complaint)}.`;
  const args = [
    '-v',
    'error',
    '-select_streams',
    'v:0',
    '-show_entries',
    'packet=pts',
    '-of',
    'csv=p=0',
    `file:${file}`,
  ];
  const { stdout } = await collect('ffprobe', args, { seconds: 600, explain, ...(signal && { signal }) });
  const [num, den] = timeBase.split('/').map(Number) as [number, number];
  const times = stdout
    .toString('latin1')
    .split('\n')
    .filter((row) => row.trim() !== '')
    .map(Number.parseFloat)
    .sort((a, b) => a - b);
  const wrong = wrongTime(times, num / den, rate);
  if (wrong !== undefined)
    throw new MediaError(
      `Frame ${wrong} of the finished file is shown at ${((times[wrong]! * num) / den).toFixed(4)} s instead of ${frameToSeconds(wrong, rate).toFixed(4)}.`,
    );
}

/** The first frame that is not shown at its own time, to a tick; nothing where all are. Times in ticks, rising. */
export function wrongTime(times: readonly number[], tick: number, rate: Rate): number | undefined {
  const at = times.findIndex((t, k) => !(Math.abs(t * tick - frameToSeconds(k, rate)) <= tick * (1 + 1e-9)));
  return at < 0 ? undefined : at;
}

function refuseLength(lasts: number, seconds: number, slack: number): void {
  if (!(Math.abs(lasts - seconds) <= slack))
    throw new MediaError(`The finished file lasts ${lasts.toFixed(2)} s instead of ${seconds.toFixed(2)}.`);
}

/** Looks at a chunk somebody else made: all of it decodes, and it has its frames. Throws `MediaError`. */
export async function checkChunk(
  path: string,
  format: RenderFormatName,
  frames: number,
  firstNumber: number,
): Promise<void> {
  const { picture } = RENDER_FORMATS[format];
  if (!existsSync(path)) throw new MediaError('Nothing was brought for this chunk.');
  const explain = () => 'The chunk that was brought does not decode.';
  if (picture?.kind === 'numbered') {
    const count = await countPictures(path, picture.codec, firstNumber);
    if (count !== frames)
      throw new MediaError(`The chunk that was brought has ${count} pictures instead of ${frames}.`);
    return;
  }
  const args = [
    '-v',
    'error',
    '-count_frames',
    '-select_streams',
    'v:0',
    '-show_entries',
    'stream=nb_read_frames',
    '-of',
    'csv=p=0',
    ...safeInput(path),
  ];
  const { stdout, stderr } = await collect('ffprobe', args, { seconds: 600 + frames, explain });
  const count = Number.parseInt(stdout.toString(), 10);
  if (stderr.trim() !== '' || !(count > 0)) throw new MediaError(explain());
  if (count !== frames) throw new MediaError(`The chunk that was brought has ${count} frames instead of ${frames}.`);
}

/** How many of a folder's numbered pictures, from `first` on, can be decoded. */
export async function countPictures(
  folder: string,
  kind: string,
  first: number,
  signal?: AbortSignal,
): Promise<number> {
  const explain = (complaint: string) => `A picture of the render cannot be decoded: ${lastComplaint(complaint)}.`;
  const args = [
    '-v',
    'error',
    '-xerror',
    '-nostdin',
    '-f',
    'image2',
    '-start_number',
    String(first),
    '-i',
    `file:${join(folder, `%08d.${kind}`)}`,
  ];
  const { stdout } = await collect(
    'ffmpeg',
    [...args, '-fps_mode', 'passthrough', '-f', 'null', '-progress', 'pipe:1', '-'],
    { seconds: 3600, explain, ...(signal && { signal }) },
  );
  return Number([...stdout.toString().matchAll(/^frame=\s*(\d+)/gm)].at(-1)?.[1] ?? 0);
}

/** How long a moving WebP lasts: the times of its `ANMF` blocks (WebP Container Specification, "Animation"), seconds. */
async function webpSeconds(file: string): Promise<number> {
  const handle = await open(file, 'r');
  try {
    const { size } = await handle.stat();
    const head = Buffer.alloc(24);
    let milliseconds = 0;
    for (let at = 12; at + 8 <= size;) {
      await handle.read(head, 0, 24, at);
      const length = head.readUInt32LE(4);
      if (at + 8 + length > size) throw new MediaError('The finished file is cut short.');
      if (head.toString('latin1', 0, 4) === 'ANMF') milliseconds += head.readUIntLE(20, 3);
      at += 8 + length + (length % 2);
    }
    return milliseconds / 1000;
  } finally {
    await handle.close();
  }
}
