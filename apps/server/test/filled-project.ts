import { addSource, appendClip } from '@idle-bend/core/edit';
import type { Project, Source } from '@idle-bend/core/model';
import { rate } from '@idle-bend/core/time';
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

/** That clip as a source of a project. */
export const marbleSource = (id: string): Source => ({
  id,
  name: 'marble-bell',
  frames: 60,
  nativeRate: rate(30),
  readAs: rate(30),
  moments: [],
  droppedRepeats: null,
});

/** A project with one clip on its reel, all of `clip` (`marbleBell`). */
export async function filledProject(
  on: RunningServer,
  clip: string,
  headers: Record<string, string> = {},
): Promise<FilledProject> {
  const { id, document } = (await on.send('POST', '/api/projects', { name: 'Marble Parade' }, headers)).body;
  const { id: footage } = await on.upload(id, clip);
  const edited = appendClip(addSource(document, marbleSource(footage)), 'c', footage);
  await on.send('PUT', `/api/projects/${id}/document`, { version: 1, document: edited, by: 'a' }, headers);
  return { id, footage, document: edited };
}
