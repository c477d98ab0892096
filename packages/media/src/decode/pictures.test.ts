import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { openPictures } from './pictures.js';
import { openSource } from '../probe/source.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-pictures-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test.each([
  ['large', '1280x720', { width: 640, height: 360 }, 'bt709'],
  ['small', '640x360', { width: 1280, height: 720 }, 'smpte170m'],
])(
  'an untagged %s picture means the same colours at another size: its codes stay, and what it left unsaid is said',
  async (name, from, size, matrix) => {
    const file = join(folder, `${name}.mkv`);
    const red = 'geq=lum=81:cb=104:cr=200';
    const made = spawnSync('ffmpeg', [
      '-v',
      'error',
      '-f',
      'lavfi',
      '-i',
      `color=black:s=${from}:r=24:d=0.1,format=yuv420p,${red}`,
      '-c:v',
      'ffv1',
      file,
    ]);
    expect(made.status).toBe(0);
    const source = await openSource(file);
    expect(source.facts.video!.format.colour.matrix).toBeUndefined();
    for (const [wanted, tagged] of [
      [size, matrix],
      [undefined, undefined],
    ] as const) {
      const pictures = openPictures(source, { size: wanted });
      const [frame] = await pictures.frames([0]);
      const { width, height, colour } = frame!.format;
      const chroma = (width * height) / 4;
      expect([frame!.data[5], frame!.data[width * height + 5], frame!.data[width * height + chroma + 5]]).toEqual([
        81, 104, 200,
      ]);
      expect(colour.matrix).toBe(tagged);
      pictures.close();
    }
  },
);
