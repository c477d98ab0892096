import { resolve } from 'node:path';
import { openProjectIn } from './data-folder.js';
import { knownByName, mediaIn, openProjectFile, type ProjectFile } from './project-file.js';

/**
 * What `--data DIR` says: PROJECT is the name or id of a project there; without it, a file. `media` names a folder of further media.
 * `needsFrames`: what is done with it depends on which frames its footage has. Throws `InvalidInput`.
 */
export async function openProject(
  wanted: string,
  {
    data,
    media,
    needsFrames = true,
  }: { readonly data?: string; readonly media?: string; readonly needsFrames?: boolean },
): Promise<ProjectFile> {
  if (data === undefined) return openProjectFile(wanted, media);
  const opened = await openProjectIn(resolve(data), wanted, needsFrames);
  return media === undefined
    ? opened
    : { ...opened, media: { ...knownByName(opened.project, await mediaIn(media)), ...opened.media } };
}
