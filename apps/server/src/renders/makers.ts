import type { ChunkJob, MediaFiles } from '@idle-bend/media';
import type { MotionPlace } from '../jobs/chunk.js';
import { runJob } from '../jobs/job.js';

/** A chunk that is to be made: what of which render, from which media, into which folder. */
export interface WantedChunk {
  readonly renderId: string;
  readonly job: ChunkJob;
  readonly files: MediaFiles;
  readonly folder: string;
}

export interface MakingChunk {
  /** Resolves when the chunk stands in the render's folder; rejects with a sentence. */
  readonly result: Promise<unknown>;
  cancel(): void;
}

/** Whoever makes chunks: processes of this server, or workers on other machines. */
export interface ChunkMaker {
  /** How many may be under way at once. */
  readonly slots: number;
  make(chunk: WantedChunk, onProgress: (done: number) => void): MakingChunk;
  /** Whether somebody is there to make them. */
  isThere(): boolean;
  /** Why chunks of a render were left to others by those who are there, as long as nobody else makes them. */
  whyLeft(renderId: string): string | undefined;
  close(): Promise<void>;
}

/** Chunks made by this server, in a process for each core. */
export class LocalProcesses implements ChunkMaker {
  constructor(
    readonly slots: number,
    private readonly motion: MotionPlace,
  ) {}

  make({ job, files, folder }: WantedChunk, onProgress: (done: number) => void): MakingChunk {
    return runJob('chunk', { motion: this.motion, chunk: job, files, folder }, onProgress);
  }

  isThere(): boolean {
    return true;
  }

  whyLeft(): undefined {
    return undefined;
  }

  close(): Promise<void> {
    return Promise.resolve();
  }
}
