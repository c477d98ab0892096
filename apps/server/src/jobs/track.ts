import type { Patch } from '@idle-bend/core/model';
import { followPatch, motionReader, openCached } from '@idle-bend/media';
import { defineJob } from './define-job.js';

export interface TrackInput {
  readonly proxy: string;
  readonly name: string;
  readonly from: number;
  readonly to: number;
  readonly patch: Patch;
}

/** Follows a patch of the picture from one frame to another; answers where its middle is in each. */
export const track = defineJob({
  silentSeconds: 900,
  async run({ proxy, name, from, to, patch }: TrackInput, { signal }): Promise<readonly (readonly [number, number])[]> {
    const reader = motionReader(await openCached(proxy, name, { signal }));
    try {
      return await followPatch(reader, from, to, patch, signal);
    } finally {
      reader.close();
    }
  },
});
