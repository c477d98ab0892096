import { resolve } from 'node:path';
import { formatRate, type Rate } from '@idle-bend/core/time';
import { collect, lastComplaint } from '../ffmpeg/ffmpeg.js';

/** Kinds of picture a numbered sequence may be made of. */
export const PICTURE_KINDS = ['png', 'jpg', 'jpeg', 'tif', 'tiff', 'exr', 'bmp', 'webp'] as const;

/**
 * Makes a clip of numbered pictures: `folder/000000.png`, `000001.png` … become frame 0, 1 … at `rate`, lossless (FFV1, Matroska). The
 * pictures' depth and transparency are kept. Throws `MediaError` naming the sequence.
 */
export async function writeSequence(
  folder: string,
  kind: string,
  rate: Rate,
  file: string,
  name: string,
  signal?: AbortSignal,
): Promise<void> {
  const explain = (complaint: string) => `${name}: the pictures could not be read: ${lastComplaint(complaint)}.`;
  const input = [
    '-protocol_whitelist',
    'file',
    '-f',
    'image2',
    '-pattern_type',
    'sequence',
    '-framerate',
    formatRate(rate),
    '-start_number',
    '0',
  ];
  const args = ['-v', 'error', '-nostdin', '-xerror', '-y', ...input, '-i', `file:${resolve(folder)}/%06d.${kind}`];
  const output = [
    '-c:v',
    'ffv1',
    '-level',
    '3',
    '-g',
    '1',
    '-fps_mode',
    'passthrough',
    '-f',
    'matroska',
    `file:${file}`,
  ];
  await collect('ffmpeg', [...args, ...output], { seconds: 3600, signal, explain });
}
