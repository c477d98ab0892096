import type { Source } from '../model/group.js';
import type { Project } from '../model/project.js';
import { framesPerSecond, type Rate } from '../time/rate.js';
import { canDropFrames, isDropFrame, parseTimecode } from '../time/timecode.js';
import { shownFootage } from './pieces.js';

/** The start timecode a source's file has, where it has one. */
export type StartOf = (sourceId: string) => string | null | undefined;

/** The frame at a rate at which a file says that it begins: 0 where it says nothing that can be read. */
export function startFrame(
  timecode: string | null | undefined,
  { nativeRate }: Pick<Source, 'nativeRate'>,
  rate: Rate,
): number {
  if (!timecode) return 0;
  try {
    return Math.round((parseTimecode(timecode, nativeRate) / framesPerSecond(nativeRate)) * framesPerSecond(rate));
  } catch {
    return 0;
  }
}

/** Whether a list of the reel counts drop-frame when nobody says: where its rate can, and all timecodes that its footage has do. */
export function countsDropFrames(project: Project, startOf: StartOf): boolean {
  const starts = shownFootage(project).flatMap(({ id }) => startOf(id) ?? []);
  return canDropFrames(project.reel.rate) && starts.length > 0 && starts.every(isDropFrame);
}
