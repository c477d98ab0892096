import { parseProject, type Project, type Stretch } from '@idle-bend/core/model';
import { reelFrames } from '@idle-bend/core/reel';
import { readRenderSettings, type RenderSettings } from '@idle-bend/core/render';
import { ChunkRow, RenderRow } from '../storage/rows.js';

/** What waits, or is under way. */
export const ACTIVE = ['queued', 'running', 'joining'] as const;

export const settingsOf = (row: RenderRow): RenderSettings => readRenderSettings(JSON.parse(row.settings), 'settings');
export const projectOf = (row: RenderRow): Project => parseProject(JSON.parse(row.document));
/** What of its document a render is of. Of one from before renders were kept so, all of it. */
export const stretchOf = (project: Project): Stretch => project.reel.range ?? { from: 0, to: reelFrames(project) };

/** Renders that wait or are under way, the one whose turn it is first. */
export const inTurn = (): Promise<RenderRow[]> =>
  RenderRow.findAll({ where: { status: [...ACTIVE] }, order: [['position', 'ASC']] });

export const chunksOfRender = (renderId: string): Promise<ChunkRow[]> =>
  ChunkRow.findAll({ where: { renderId }, order: [['number', 'ASC']] });

/** Changes a render that is still in one of these states; false where it is not any more. */
export async function change(id: string, from: readonly string[], values: Partial<RenderRow>): Promise<boolean> {
  const [count] = await RenderRow.update(values, { where: { id, status: [...from] } });
  return count > 0;
}
