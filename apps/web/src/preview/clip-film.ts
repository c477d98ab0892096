import { clipFrameCount, positionAt, showing, sourceOf, usableFrames, type Clip, type Project, type Sample, type Shown, type TimeMap } from '@idle-bend/core';
import type { PreviewClip } from './messages.ts';

/** Which frames a clip is made of, by its own time. */
export interface ClipFilm {
  readonly map: TimeMap;
  readonly frameCount: number;
  /** Nothing where it is black for want of a clip. */
  shown(k: number): Shown | undefined;
  position(k: number): number;
}

export const BLACK: Sample = { kind: 'black' };

function film(project: Project, clip: Clip, frameCount: number): ClipFilm {
  return { map: clip.map, frameCount, shown: showing(project, clip), position: (k) => positionAt(clip.map, k) };
}

export const filmOf = ({ project, clip, length }: PreviewClip): ClipFilm => film(project, clip, length);

/** A curve the clip is compared with has its own length. */
export const filmOfOther = (project: Project, clip: Clip): ClipFilm => film(project, clip, clipFrameCount(clip.map, usableFrames(sourceOf(project, clip))));
