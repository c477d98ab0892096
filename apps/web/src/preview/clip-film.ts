import { NO_EFFECTS } from '@idle-bend/core/look';
import { sourceOf } from '@idle-bend/core/reel';
import { resolveFrames, type ResolvedFrame, type ClipFrame } from '@idle-bend/core/resolve';
import { clipFrameCount, usableFrames, type Sample } from '@idle-bend/core/sampling';
import { positionAt, type TimeMap } from '@idle-bend/core/time-map';
import type { Compared, PreviewClip } from './messages.ts';

/** Which frames a clip is made of, by its own time. */
export interface ClipFilm {
  readonly map: TimeMap;
  readonly frameCount: number;
  resolve(k: number): ResolvedFrame;
  /** Nothing where it is black for want of a clip. */
  shown(k: number): ClipFrame | undefined;
  position(k: number): number;
}

export const BLACK: Sample = { kind: 'black' };

export function filmOf({ project, clip, places, length, effects }: PreviewClip): ClipFilm {
  const resolve = resolveFrames(project, places, (k) => effects.get(k) ?? NO_EFFECTS);
  return {
    map: clip.map,
    frameCount: length,
    resolve,
    shown: (k) => resolve(k).clipFrame,
    position: (k) => positionAt(clip.map, k),
  };
}

/** A curve the clip is compared with has its own length. What accents do to it is the clip's. */
export function filmOfOther({ project, clip }: Pick<Compared, 'project' | 'clip'>): ClipFilm {
  const length = clipFrameCount(clip.map, usableFrames(sourceOf(project, clip)));
  const resolve = resolveFrames(project, [{ item: clip, start: 0, frames: length }], () => NO_EFFECTS);
  return {
    map: clip.map,
    frameCount: length,
    resolve,
    shown: (k) => resolve(k).clipFrame,
    position: (k) => positionAt(clip.map, k),
  };
}
