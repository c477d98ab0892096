import { spawnSync } from 'node:child_process';
import { rmSync, writeFileSync } from 'node:fs';
import { drums, RATE, type Strike } from '../../core/src/beats/test-drums.js';

/** Drums as a file of any kind ffmpeg knows by its name. */
export function makeDrumFile(
  file: string,
  strikes: readonly Strike[],
  seconds: number,
  options: readonly string[] = [],
): string {
  const raw = `${file}.f32`;
  writeFileSync(raw, Buffer.from(drums(strikes, seconds).buffer));
  const { status, stderr } = spawnSync(
    'ffmpeg',
    ['-v', 'error', '-y', '-f', 'f32le', '-ar', String(RATE), '-ac', '1', '-i', raw, ...options, file],
    { encoding: 'utf8' },
  );
  rmSync(raw);
  if (status !== 0) throw new Error(stderr);
  return file;
}

/** A file's sound: its left channel at 48 kHz. */
export function leftChannel(file: string): Float32Array {
  const { stdout, stderr, status } = spawnSync(
    'ffmpeg',
    ['-v', 'error', '-i', file, '-map', '0:a:0', '-af', 'aresample=48000,pan=mono|c0=c0', '-f', 'f32le', 'pipe:1'],
    { maxBuffer: 2 ** 29 },
  );
  if (status !== 0) throw new Error(stderr.toString());
  return new Float32Array(
    stdout.buffer.slice(stdout.byteOffset, stdout.byteOffset + stdout.length - (stdout.length % 4)),
  );
}

/** Seconds at which a 48 kHz sound first gets louder than `loud` after `from` seconds. */
export function firstLoud(samples: Float32Array, loud: number, from = 0): number {
  for (let i = Math.max(0, Math.round(from * 48000)); i < samples.length; i++)
    if (Math.abs(samples[i]!) > loud) return i / 48000;
  return Infinity;
}
