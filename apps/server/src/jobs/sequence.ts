import type { Rate } from '@idle-bend/core/time';
import { writeSequence } from '@idle-bend/media';
import { defineJob } from './define-job.js';

export interface SequenceInput {
  readonly folder: string;
  /** The kind of the pictures, as their ending. */
  readonly pictures: string;
  readonly rate: Rate;
  readonly file: string;
  readonly name: string;
}

/** Makes a clip of numbered pictures. */
export const sequence = defineJob({
  silentSeconds: 6 * 3600,
  async run({ folder, pictures, rate, file, name }: SequenceInput, { signal }): Promise<void> {
    await writeSequence(folder, pictures, rate, file, name, signal);
  },
});
