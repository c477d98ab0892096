import { execFileSync } from 'node:child_process';
import { chmodSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { H264, HEIGHT, makeNumberedClip, WIDTH } from './numbered-clip.js';

/**
 * A transport stream as large as a camera's, with numbers 0 to 49 at 25 fps and 50 to 149 at 50 fps: what its beginning says of its frames is
 * wrong. Parts are made in `folder`.
 */
export async function filmOfTwoRates(file: string, folder: string, width = WIDTH, height = HEIGHT): Promise<string> {
  const part = (name: string, rate: string, first: number, frames: number) =>
    makeNumberedClip({
      ...{ file: join(folder, name), rate, frames, width, height, numberOf: (n: number) => n + first },
      options: [...H264, '-bf', '2', '-g', '25', '-muxdelay', '0', '-muxpreload', '0'],
    });
  const parts = [await part('slow.ts', '25', 0, 50), await part('quick.ts', '50', 50, 100)];
  const list = join(folder, 'parts.txt');
  writeFileSync(list, parts.map((each) => `file '${each}'\nduration 2\n`).join(''));
  // Filled up with empty packets.
  const options = ['-c', 'copy', '-muxrate', '160M'];
  execFileSync('ffmpeg', ['-v', 'error', '-f', 'concat', '-safe', '0', '-i', list, ...options, file]);
  return file;
}

/** An ffprobe that lists no packets before the file `gate` is there: a disk as slow as can be. Returns its path. */
export function slowProbe(folder: string, gate: string): string {
  const file = join(folder, 'ffprobe');
  const waits = `case "$*" in *packet=*) while [ ! -e '${gate}' ]; do sleep 0.1; done;; esac`;
  writeFileSync(file, `#!/bin/sh\n${waits}\nexec ${process.env['IDLE_BEND_FFPROBE'] ?? 'ffprobe'} "$@"\n`);
  chmodSync(file, 0o755);
  return file;
}
