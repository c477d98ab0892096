import type { FootageFacts } from '@idle-bend/core/api';
import { keepBeside, openSource, readFacts } from '@idle-bend/media';
import { defineJob } from './define-job.js';

export interface CountInput {
  readonly file: string;
  readonly name: string;
  /** A path of ours beside which the list of its frames is kept. */
  readonly beside: string;
}

/** Lists all frames of a file whose headers do not, which takes reading it, or even decoding it. */
export const count = defineJob({
  silentSeconds: 7200,
  async run({ file, name, beside }: CountInput, { signal }): Promise<FootageFacts> {
    const source = await openSource(file, name, signal);
    await keepBeside(beside, source);
    return readFacts(source.facts, source.index);
  },
});
