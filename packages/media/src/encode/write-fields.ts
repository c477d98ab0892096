import { collect, lastComplaint, safeInput } from '../ffmpeg/ffmpeg.js';
import { MediaError, missingFile } from '../ffmpeg/media-error.js';
import type { MediaFacts } from '../probe/probe.js';

/**
 * Makes whole frames of an interlaced file's fields: 25 frames of two fields become 50 frames, each of its own instant, so
 * that there is real motion to slow down. Missing lines are filled by ffmpeg's bwdif; the result is lossless (FFV1, Matroska) with
 * its sound as it was. Throws `MediaError` for a file that is not interlaced.
 */
export async function writeFields(
  original: string,
  facts: MediaFacts,
  file: string,
  signal?: AbortSignal,
): Promise<void> {
  if (!facts.video?.interlaced)
    throw new MediaError(`${facts.name} is not interlaced, so it has no fields to make frames of.`);
  const explain = (complaint: string) =>
    missingFile(original, facts.name) ??
    `The fields of ${facts.name} could not be made into frames: ${lastComplaint(complaint)}.`;
  const picture = [
    '-map',
    `0:${facts.video.stream}`,
    '-vf',
    'bwdif=mode=send_field:parity=auto:deint=all',
    '-c:v',
    'ffv1',
    '-level',
    '3',
    '-g',
    '1',
    '-field_order',
    'progressive',
  ];
  const sound = facts.sound ? ['-map', `0:${facts.sound.stream}`, '-c:a', 'copy'] : [];
  const args = [
    '-v',
    'error',
    '-nostdin',
    '-y',
    ...safeInput(original),
    ...picture,
    ...sound,
    '-f',
    'matroska',
    `file:${file}`,
  ];
  await collect('ffmpeg', args, { seconds: 600 + facts.bytes / 1e5, signal, explain });
}
