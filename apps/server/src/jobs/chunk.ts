import { FlowStore, runChunk, type ChunkJob, type MediaFiles } from '@idle-bend/media';
import { defineJob } from './define-job.js';

/** Where motion between frames is kept, and how much of it. */
export interface MotionPlace {
  readonly folder: string;
  readonly maxBytes: number;
}

export interface ChunkInput {
  readonly motion: MotionPlace;
  readonly chunk: ChunkJob;
  readonly files: MediaFiles;
  readonly folder: string;
}

/** Makes one chunk of a render. */
export const chunk = defineJob({
  silentSeconds: 1800,
  async run({ motion, chunk: job, files, folder }: ChunkInput, { signal, onProgress }): Promise<void> {
    await runChunk(job, files, folder, {
      signal,
      onFrame: onProgress,
      store: new FlowStore(motion.folder, motion.maxBytes),
    });
  },
});
