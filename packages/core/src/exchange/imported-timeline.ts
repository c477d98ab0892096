import type { Clip } from '../model/clip.js';
import type { Source } from '../model/group.js';
import type { Project } from '../model/project.js';
import { plainClip } from '../reel/clips.js';
import { straightMap } from '../time-map/time-map.js';
import { framesPerSecond, type Rate } from '../time/rate.js';

/** Footage a timeline may be of, known by its name or its file's. */
export type OfferedFootage = Pick<Source, 'id' | 'name' | 'frames' | 'nativeRate'> & {
  /** Where its file says that it begins. */
  readonly startTimecode?: string | null;
};

/** What a file of another tool brought, and what of it could not be taken. */
export interface ImportedTimeline {
  readonly project: Project;
  readonly losses: readonly string[];
}

/** A clip of `frames` frames of the reel at one speed, from native source position `from` on. */
export function constantSegment(
  id: string,
  source: Source,
  rate: Rate,
  frames: number,
  from: number,
  speed: number,
): Clip {
  const way = (frames / framesPerSecond(rate)) * framesPerSecond(source.nativeRate) * speed;
  return { ...plainClip(id, source, rate), map: straightMap(frames, from, from + way) };
}

/** A file's name without its folder and ending, in small letters: how tools that moved it still know it. */
export function bareName(text: string): string {
  const last = text.split(/[\\/]/).pop() ?? '';
  return decoded(last)
    .replace(/\.\w+$/, '')
    .toLowerCase();
}

/** An address's last part in plain letters; any other is taken as it is. */
function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}
