import { addSource, appendClip } from '@idle-bend/core/edit';
import type { Project } from '@idle-bend/core/model';
import { H264, makeNumberedClip } from '../../../packages/media/test/numbered-clip.js';
import type { RunningServer } from './running-server.js';

export interface FilledProject {
  readonly id: string;
  /** The id of its footage. */
  readonly footage: string;
  readonly document: Project;
}

/** The clip of `filledProject`: 60 frames at 30 fps. */
export const marbleBell = (file: string): Promise<string> =>
  makeNumberedClip({ file, frames: 60, rate: '30', options: H264 });

/** A project with one clip on its reel, all of `clip` (`marbleBell`). */
export async function filledProject(
  on: RunningServer,
  clip: string,
  headers: Record<string, string> = {},
): Promise<FilledProject> {
  const { id, document } = (await on.send('POST', '/api/projects', { name: 'Marble Parade' }, headers)).body;
  const { id: footage } = await on.upload(id, clip);
  const media = {
    id: footage,
    name: 'marble-bell',
    frames: 60,
    nativeRate: { num: 30, den: 1 },
    readAs: { num: 30, den: 1 },
    moments: [],
    droppedRepeats: null,
  };
  const edited = appendClip(addSource(document, media), 'c', footage);
  await on.send('PUT', `/api/projects/${id}/document`, { version: 1, document: edited, by: 'a' }, headers);
  return { id, footage, document: edited };
}
