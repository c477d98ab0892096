import type { Project } from '@idle-bend/core/model';
import { placeItems, reelBeats } from '@idle-bend/core/reel';
import { reelFrameOf } from '../../session/bench-state.ts';
import { current } from '../../session/command.ts';

/** How near, in pixels, something catches what is dragged. */
const CATCH_PIXELS = 7;

/** Frames of the reel that catch: cuts (but for a clip's own), cues, beats, the playhead. */
function catching(project: Project, clipId: string | undefined): number[] {
  const cuts = placeItems(project).flatMap(({ item, start, frames }) =>
    item.id === clipId ? [] : [start, start + frames],
  );
  const bench = current();
  return [
    ...cuts,
    ...project.reel.cues.map((c) => Math.round(c.frame)),
    ...reelBeats(project).map(({ frame }) => Math.round(frame)),
    ...(bench ? [reelFrameOf(bench)] : []),
  ];
}

/** The whole frame a drag to `frame` means: the nearest one that catches, else the nearest. */
export function caughtFrame(project: Project, frame: number, pixelsPerFrame: number, clipId?: string): number {
  const near = catching(project, clipId).filter((at) => Math.abs(at - frame) * pixelsPerFrame <= CATCH_PIXELS);
  return near.length > 0
    ? near.reduce((a, b) => (Math.abs(a - frame) <= Math.abs(b - frame) ? a : b))
    : Math.round(frame);
}
