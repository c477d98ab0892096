import type { Project } from '../model/project.js';
import type { Stretch } from '../model/reel.js';
import { placeItems } from '../reel/places.js';
import { resolveClip } from '../resolve/resolve-clip.js';
import { frameOfPosition } from '../sampling/dropped-repeats.js';
import { framesPerSecond } from '../time/rate.js';
import { canDropFrames, formatTimecode, isDropFrame, parseTimecode } from '../time/timecode.js';
import type { RenderTimecode } from './settings.js';

/** Reels conventionally begin at this hour. */
export const REEL_HOUR = 1;

export interface Chapter {
  readonly name: string;
  /** Frames of the file: the first, and the one past the last. */
  readonly from: number;
  readonly to: number;
}

/** The cues of a stretch of the reel as chapters that follow one another, from its beginning to its end; none without cues. */
export function chaptersOf({ reel }: Project, { from, to }: Stretch): Chapter[] {
  const cues = reel.cues
    .map(({ frame, name }) => ({ at: Math.round(frame) - from, name }))
    .filter(({ at }) => at >= 0 && at < to - from);
  if (cues.length === 0) return [];
  const sorted = [...new Map(cues.sort((a, b) => a.at - b.at).map((cue) => [cue.at, cue])).values()];
  const starts = sorted[0]!.at > 0 ? [{ at: 0, name: 'Start' }, ...sorted] : sorted;
  return starts.map(({ at, name }, i) => ({
    name: name || `Cue ${i + 1}`,
    from: at,
    to: starts[i + 1]?.at ?? to - from,
  }));
}

/**
 * The timecode of a file's first frame, or none. The reel begins at one o'clock. Of a source it is the time of the frame that is shown
 * first, counted at the reel's rate, from where its file says that it begins, or from zero.
 * @param startOf the start timecode a source's file has, and whether it was read
 */
export function startTimecode(
  project: Project,
  { from }: Stretch,
  wanted: RenderTimecode,
  startOf: (sourceId: string) => string | null,
): string | null {
  const { rate } = project.reel;
  if (wanted === 'none') return null;
  if (wanted === 'reel') return formatTimecode(Math.round(REEL_HOUR * 3600 * framesPerSecond(rate)) + from, rate);
  const place = placeItems(project).find(
    ({ start, frames, item }) => item.kind === 'clip' && from >= start && from < start + frames,
  );
  const shown = place?.item.kind === 'clip' ? resolveClip(project, place.item)(from - place.start) : undefined;
  if (!shown) return null;
  const { nativeRate, id } = shown.source;
  const begins = startOf(id) ?? '00:00:00:00';
  const frame = safelyParsed(begins, nativeRate) + Math.max(0, frameOfPosition(shown.source, shown.position));
  const seconds = frame / framesPerSecond(nativeRate);
  return formatTimecode(Math.round(seconds * framesPerSecond(rate)), rate, isDropFrame(begins) && canDropFrames(rate));
}

/** A file may say what cannot be: then it counts from zero. */
function safelyParsed(text: string, rate: Parameters<typeof parseTimecode>[1]): number {
  try {
    return parseTimecode(text, rate);
  } catch {
    return 0;
  }
}
