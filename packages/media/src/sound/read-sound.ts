import { basename } from 'node:path';
import { collect, safeInput } from '../ffmpeg/ffmpeg.js';
import { MediaError, missingFile } from '../ffmpeg/media-error.js';
import { probe, type MediaFacts } from '../probe/probe.js';
import { fromTimeZero, inTwoChannels, timeZero } from './sound-clock.js';

/** Samples a second that beats are found at: hats are well below half of it. */
export const BEATS_RATE = 22050;
/** Three hours of one channel. */
const MAX_BYTES = 3 * 3600 * BEATS_RATE * 4;

/** A file's sound from its time zero on, as one channel of `rate` samples a second, each −1…1. Throws `MediaError` when it has no sound that decodes. */
export async function readMono(
  file: string,
  facts: MediaFacts,
  rate = BEATS_RATE,
  signal?: AbortSignal,
): Promise<Float32Array> {
  if (!facts.sound) throw new MediaError(`${facts.name} has no sound.`);
  return decodeMono(file, facts.name, String(facts.sound.stream), rate, await timeZero(file, facts, signal), signal);
}

/** Files that hold sound alone. */
const SOUND_ALONE = /\.(wav|w64|aiff?|caf|au|mp3|aac|ac3|ogg|opus)$/i;

/** The same of a file nothing is known of: of sound alone only when it cannot be decoded is it looked into, to say why. */
export async function readUnknownMono(file: string, rate = BEATS_RATE): Promise<Float32Array> {
  if (SOUND_ALONE.test(file)) {
    try {
      return await decodeMono(file, basename(file), 'a:0', rate, undefined);
    } catch {
      // What is wrong with it is found out below.
    }
  }
  return readMono(file, await probe(file), rate);
}

async function decodeMono(
  file: string,
  name: string,
  stream: string,
  rate: number,
  zero: number | undefined,
  signal?: AbortSignal,
): Promise<Float32Array> {
  const explain = () => missingFile(file, name) ?? `${name}: its sound cannot be decoded; it may be damaged.`;
  const args = [
    '-v',
    'error',
    '-nostdin',
    '-threads',
    '1',
    ...safeInput(file),
    '-map',
    `0:${stream}`,
    '-af',
    fromTimeZero(zero, rate).join(','),
    '-ac',
    '1',
    '-f',
    'f32le',
    'pipe:1',
  ];
  const { stdout } = await collect('ffmpeg', args, {
    seconds: 1800,
    maxBytes: MAX_BYTES,
    explain,
    ...(signal && { signal }),
  });
  if (stdout.length < 4) throw new MediaError(`${name}: its sound is empty.`);
  const whole = stdout.length - (stdout.length % 4);
  return new Float32Array(stdout.buffer.slice(stdout.byteOffset, stdout.byteOffset + whole));
}

/** A file's sound as every browser plays it to the sample: FLAC, two channels, 48 kHz. Throws `MediaError`. */
export async function writeSoundProxy(
  file: string,
  facts: MediaFacts,
  out: string,
  signal?: AbortSignal,
): Promise<void> {
  if (!facts.sound) throw new MediaError(`${facts.name} has no sound.`);
  const explain = () =>
    missingFile(file, facts.name) ?? `${facts.name}: its sound cannot be decoded; it may be damaged.`;
  const filters = inTwoChannels(await timeZero(file, facts, signal));
  const args = [
    '-v',
    'error',
    '-nostdin',
    '-y',
    ...safeInput(file),
    '-map',
    `0:${facts.sound.stream}`,
    '-af',
    filters.join(','),
    '-c:a',
    'flac',
    '-sample_fmt',
    's16',
    '-f',
    'flac',
    `file:${out}`,
  ];
  await collect('ffmpeg', args, { seconds: 1800, explain, ...(signal && { signal }) });
}
