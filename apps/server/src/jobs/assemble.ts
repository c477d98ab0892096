import type { Loudness } from '@idle-bend/core/api';
import { parseProject } from '@idle-bend/core/model';
import { atQuality, type RenderQuality } from '@idle-bend/core/render';
import { assembleRender, type JoinOrder, type MediaFiles } from '@idle-bend/media';
import { defineJob } from './define-job.js';

export interface AssembleInput {
  /** The render's document as JSON text. */
  readonly document: string;
  readonly quality: RenderQuality;
  readonly join: JoinOrder;
  readonly files: MediaFiles;
  readonly folder: string;
}

/** Puts the chunks of a render together with its sound; answers how loud it is, where it has sound. */
export const assemble = defineJob({
  silentSeconds: 12 * 3600,
  run({ document, quality, join, files, folder }: AssembleInput, { signal }): Promise<Loudness | undefined> {
    return assembleRender(atQuality(parseProject(JSON.parse(document)), quality), files, folder, join, signal);
  },
});
