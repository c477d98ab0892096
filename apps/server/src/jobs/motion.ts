import { rename, writeFile } from 'node:fs/promises';
import { writeMotion } from '@idle-bend/core/motion';
import { analyseMotion, motionReader, openCached } from '@idle-bend/media';
import { defineJob } from './define-job.js';

export interface MotionInput {
  readonly proxy: string;
  readonly name: string;
  readonly repeats: readonly number[];
  /** The file that what is found is written to. */
  readonly file: string;
}

/** Looks at the motion between the pictures of a proxy. */
export const motion = defineJob({
  silentSeconds: 900,
  isIdle: true,
  async run({ proxy, name, repeats, file }: MotionInput, { signal, onProgress }): Promise<void> {
    const reader = motionReader(await openCached(proxy, name, { signal }));
    try {
      const found = await analyseMotion(reader, repeats, onProgress, signal);
      await writeFile(`${file}.part`, JSON.stringify(writeMotion(found)));
      await rename(`${file}.part`, file);
    } finally {
      reader.close();
    }
  },
});
