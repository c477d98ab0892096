import { expect, test } from '@jest/globals';
import { copyPlanes } from './copy-planes.js';

test('a format without those codes is refused by its name', async () => {
  const copyTo = () => Promise.reject(new Error('never asked'));
  for (const format of ['RGBX', null] as const)
    await expect(copyPlanes({ format, copyTo }, 8, 8)).rejects.toThrow(
      `decodes to ${format ?? 'an unknown format'}, which cannot be shown exactly`,
    );
});
