import type { Project, Stretch } from '@idle-bend/core/model';
import { renderCost, type RenderCost } from '@idle-bend/core/render';
import { defineJob } from './define-job.js';

export interface CostsInput {
  readonly project: Project;
  readonly stretches: readonly Stretch[];
}

/** What stretches of a reel ask of a machine, where the reel is so long that looking at its frames would keep the server from answering. */
export const costs = defineJob({
  silentSeconds: 60,
  async run({ project, stretches }: CostsInput, { signal, onProgress }): Promise<readonly RenderCost[]> {
    const costs: RenderCost[] = [];
    for (const [i, stretch] of stretches.entries()) {
      // Room for a cancellation to arrive.
      if (i % 100 === 0) await new Promise(setImmediate);
      signal.throwIfAborted();
      costs.push(renderCost(project, stretch));
      onProgress(i + 1, stretches.length);
    }
    return costs;
  },
});
