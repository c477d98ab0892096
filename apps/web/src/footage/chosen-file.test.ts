import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@jest/globals';
import { fingerprintOf as asServed } from '@idle-bend/media';
import { fingerprintOf } from './chosen-file.ts';

test('a file has the fingerprint in the page that it has on the server, whatever its length', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'idle-bend-fingerprint-'));
  const file = join(folder, 'film.mp4');
  const mebibyte = 1 << 20;
  for (const length of [1, 1000, mebibyte - 1, mebibyte, mebibyte + 1, 2.5 * mebibyte, 5 * mebibyte + 3]) {
    writeFileSync(
      file,
      Uint8Array.from({ length }, (_, i) => (i * 2654435761) >>> 24),
    );
    expect(await fingerprintOf(new Blob([readFileSync(file)]))).toBe(await asServed(file));
  }
  rmSync(folder, { recursive: true });
});
