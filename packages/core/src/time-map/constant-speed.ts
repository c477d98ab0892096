import { InvalidInput } from '../foundation/errors.js';
import { type Rational, rational, timesWhole } from '../time/rational.js';
import { straightMap, type TimeMap } from './time-map.js';

/** The frames of a clip at one speed: timeline frame k shows `origin + k·step`, exactly, for k = 0 … count−1. */
export interface ConstantClip {
  /** Source frame of k = 0, a whole number. */
  readonly origin: number;
  /** Source frames per timeline frame, signed and exact. */
  readonly step: Rational;
  readonly count: number;
}

export interface SourceRange {
  /** First and last source frame, both included. */
  readonly first: number;
  readonly last: number;
  /** How many frames the source has. */
  readonly frames: number;
}

function checkRange({ first, last, frames }: SourceRange): void {
  if (frames < 1) throw new InvalidInput('source', 'has no frames');
  if (first < 0 || first >= frames)
    throw new InvalidInput('in point', `frame ${first} is not in the source, which has frames 0 to ${frames - 1}`);
  if (last < first || last >= frames)
    throw new InvalidInput('out point', `frame ${last} is not between ${first} and ${frames - 1}`);
}

/**
 * The clip that plays source frames first…last at `step` (its sign is the direction). Forward it takes every k whose
 * position is below last+1 and not past the source's last frame; in reverse it starts at `last` and takes every k whose
 * position is not below `first`. So the speed stays as typed and no end frame is held. Throws `InvalidInput`.
 */
export function constantClip(range: SourceRange, step: Rational): ConstantClip {
  checkRange(range);
  if (step.num === 0n) throw new InvalidInput('speed', '0 % never ends; give a map or a duration to freeze a frame');
  const { first, last, frames } = range;
  const magnitude = step.num < 0n ? -step.num : step.num;
  if (step.num < 0n) {
    const count = Number((BigInt(last - first) * step.den) / magnitude) + 1;
    return { origin: last, step, count };
  }
  const toLastFrame = (BigInt(frames - 1 - first) * step.den) / magnitude;
  const span = BigInt(last + 1 - first) * step.den;
  const belowEnd = (span - 1n) / magnitude;
  const most = toLastFrame < belowEnd ? toLastFrame : belowEnd;
  return { origin: first, step, count: Number(most) + 1 };
}

/** The clip of exactly `count` frames whose first shows `first` and whose last shows `last` (the other way round when reversed). */
export function fittedClip(range: SourceRange, count: number, reverse = false): ConstantClip {
  checkRange(range);
  if (!Number.isSafeInteger(count) || count < 1) throw new InvalidInput('fit', `"${count}" is not a count of frames`);
  const distance = BigInt(reverse ? range.first - range.last : range.last - range.first);
  const step = count === 1 ? rational(0n, 1n) : rational(distance, BigInt(count - 1));
  return { origin: reverse ? range.last : range.first, step, count };
}

export function constantPosition(clip: ConstantClip, k: number): number {
  return clip.origin + timesWhole(k, clip.step);
}

/** The same clip as a time map of one reach, its last vertex the edge at t = count. */
export function constantMap(clip: ConstantClip): TimeMap {
  return straightMap(clip.count, clip.origin, clip.origin + timesWhole(clip.count, clip.step));
}
