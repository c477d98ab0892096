import { basename } from 'node:path';
import { TWO_CHANNELS } from './clip-sounds.js';
import { collect, safeInput } from './ffmpeg.js';
import { MediaError } from './media-error.js';
import { probe, type MediaFacts } from './probe.js';

/** Samples a second that beats are found at: hats are well below half of it. */
export const BEATS_RATE = 22050;
/** Three hours of one channel. */
const MOST_BYTES = 3 * 3600 * BEATS_RATE * 4;

/** A file's sound as one channel of `rate` samples a second, each −1…1. Throws `MediaError` when it has none, or none that decodes. */
export function readMono(file: string, facts: MediaFacts, rate = BEATS_RATE, signal?: AbortSignal): Promise<Float32Array> {
  if (!facts.sound) throw new MediaError(`${facts.name} has no sound.`);
  return decodeMono(file, facts.name, String(facts.sound.stream), rate, signal);
}

/** The same of a file nothing is known of: only when it cannot be decoded is it looked into, to say why. */
export async function readUnknownMono(file: string, rate = BEATS_RATE): Promise<Float32Array> {
  try {
    return await decodeMono(file, basename(file), 'a:0', rate);
  } catch {
    return readMono(file, await probe(file), rate);
  }
}

async function decodeMono(file: string, name: string, stream: string, rate: number, signal?: AbortSignal): Promise<Float32Array> {
  const explain = () => `${name}: its sound cannot be decoded; it may be damaged.`;
  const args = [
    '-v',
    'error',
    '-nostdin',
    '-threads',
    '1',
    ...safeInput(file),
    '-map',
    `0:${stream}`,
    '-ac',
    '1',
    '-ar',
    String(rate),
    '-f',
    'f32le',
    'pipe:1',
  ];
  const { stdout } = await collect('ffmpeg', args, { seconds: 1800, mostBytes: MOST_BYTES, explain, ...(signal && { signal }) });
  if (stdout.length < 4) throw new MediaError(`${name}: its sound is empty.`);
  const whole = stdout.length - (stdout.length % 4);
  return new Float32Array(stdout.buffer.slice(stdout.byteOffset, stdout.byteOffset + whole));
}

/** A file's sound as every browser plays it to the sample: FLAC, two channels, 48 kHz. Throws `MediaError`. */
export async function writeSoundProxy(file: string, facts: MediaFacts, out: string, signal?: AbortSignal): Promise<void> {
  if (!facts.sound) throw new MediaError(`${facts.name} has no sound.`);
  const explain = () => `${facts.name}: its sound cannot be decoded; it may be damaged.`;
  const args = ['-v', 'error', '-nostdin', '-y', ...safeInput(file), '-map', `0:${facts.sound.stream}`, '-af', TWO_CHANNELS.join(','), '-c:a', 'flac', '-sample_fmt', 's16', '-f', 'flac', `file:${out}`]; // prettier-ignore
  await collect('ffmpeg', args, { seconds: 1800, explain, ...(signal && { signal }) });
}
