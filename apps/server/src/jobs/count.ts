import type { FootageFacts } from '@idle-bend/core/api';
import { indexFrames, keepBeside, probe, readFacts } from '@idle-bend/media';
import { defineJob } from './define-job.js';

export interface CountInput {
  readonly file: string;
  readonly name: string;
  /** A path of ours beside which the list of its frames is kept. */
  readonly beside: string;
  /** So many it is likely to have. */
  readonly frames: number;
}

/** Lists all frames of a file whose headers do not, which takes reading it, or even decoding it. */
export const count = defineJob({
  silentSeconds: 7200,
  isIdle: true,
  async run({ file, name, beside, frames }: CountInput, { signal, onProgress }): Promise<FootageFacts> {
    const facts = await probe(file, name);
    const index = await indexFrames(file, facts, { signal, onFrame: (n) => onProgress(Math.min(n, frames), frames) });
    await keepBeside(beside, { file, facts, index });
    return readFacts(facts, index);
  },
});
