import type { DroppedRepeats } from '../model/source.js';
import { isWholeFrame, type SimpleSample } from './sample.js';

/** What of a source matters here. */
export interface RepeatedSource {
  readonly frames: number;
  readonly droppedRepeats: DroppedRepeats | null;
}

/** How many source positions a clip of this source has: its frames, or, closed up, those that are no repeats. */
export function usableFrames({ frames, droppedRepeats }: RepeatedSource): number {
  return droppedRepeats?.mode === 'close' ? frames - droppedRepeats.repeats.length : frames;
}

const listed = new WeakMap<DroppedRepeats, Int32Array>();

/** Native frame of each frame that is no repeat, increasing. */
function uniqueFrames(frames: number, droppedRepeats: DroppedRepeats): Int32Array {
  let unique = listed.get(droppedRepeats);
  if (!unique) {
    const repeated = new Set(droppedRepeats.repeats);
    unique = Int32Array.from({ length: frames }, (_, n) => n).filter((n) => !repeated.has(n));
    listed.set(droppedRepeats, unique);
  }
  return unique;
}

/** Where native frame n, or the frame it repeats, stands among those that are no repeats. */
function placeAmong(unique: Int32Array, n: number): number {
  let low = 0;
  let high = unique.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (unique[middle]! <= n) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** The position, in a clip's source positions, at which native frame `frame` shows; of a repeat, that of the frame it repeats. */
export function positionOfFrame({ frames, droppedRepeats }: RepeatedSource, frame: number): number {
  return droppedRepeats?.mode === 'close' ? placeAmong(uniqueFrames(frames, droppedRepeats), frame) : frame;
}

/** The inverse of `frameOfPosition`: a native position, between frames too, as a clip's source position. */
export function placeOfFrame({ frames, droppedRepeats }: RepeatedSource, position: number): number {
  if (droppedRepeats?.mode !== 'close' || position < 0) return position;
  const unique = uniqueFrames(frames, droppedRepeats);
  const i = placeAmong(unique, Math.floor(position));
  const next = unique[i + 1] ?? frames;
  return i + (position - unique[i]!) / (next - unique[i]!);
}

/** The native frame number, a real number between frames, that shows at a clip's source position. */
export function frameOfPosition({ frames, droppedRepeats }: RepeatedSource, position: number): number {
  if (droppedRepeats?.mode !== 'close' || position < 0) return position;
  const unique = uniqueFrames(frames, droppedRepeats);
  const i = Math.min(unique.length - 1, Math.floor(position + 1e-9));
  const next = unique[i + 1] ?? frames;
  return unique[i]! + (position - i) * (next - unique[i]!);
}

/**
 * What shows a clip's source position when repeats are left out: `sample(p, count)` decides among the `count` frames that are
 * no repeats, and its answer is given in native frames. Without a choice to skip it is asked as it is.
 */
export function samplerWithoutRepeats(
  { frames, droppedRepeats }: RepeatedSource,
  sample: (position: number, count: number) => SimpleSample,
): (position: number) => SimpleSample {
  if (!droppedRepeats || droppedRepeats.repeats.length === 0) return (position) => sample(position, frames);
  const unique = uniqueFrames(frames, droppedRepeats);
  const at = (frame: number | undefined) => (frame === undefined ? undefined : unique[frame]);
  const among =
    droppedRepeats.mode === 'close'
      ? (position: number) => position
      : (position: number) => placeInTime(unique, frames, position);
  return (position) => {
    const made = sample(among(position), unique.length);
    if (made.kind === 'source') return { kind: 'source', frame: unique[made.frame]! };
    if (made.kind === 'black') return made;
    const pair = { ...made, a: unique[made.a]!, b: unique[made.b]! };
    return pair.kind === 'mix' ? pair : { ...pair, before: at(pair.before), after: at(pair.after) };
  };
}

/** Keeping time: how far between the frames that are left a native position lies. Outside the source it stays as far outside. */
function placeInTime(unique: Int32Array, frames: number, position: number): number {
  if (position < 0) return position;
  const last = unique.length - 1;
  if (position > frames - 1) return Math.max(last, position - (frames - 1) + last);
  const exact = isWholeFrame(position) ? Math.round(position) : position;
  const i = placeAmong(unique, Math.floor(exact));
  // After the last frame that is no repeat there is nothing to move towards.
  return i === last ? last : i + (exact - unique[i]!) / (unique[i + 1]! - unique[i]!);
}
