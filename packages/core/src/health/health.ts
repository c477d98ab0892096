import { findHits, type Hit } from './hits.js';
import type { Movers } from './movers.js';
import type { FrameDifference } from './difference.js';

/** What is found in a source's frames by looking at them. */
export interface Health {
  /** Frames that repeat the one before them, increasing. */
  readonly repeats: readonly number[];
  /** First frames of new scenes inside the file. */
  readonly cuts: readonly number[];
  /** Frames after which one is missing: the next has moved twice as far, and a repeat stands in its place. */
  readonly drops: readonly number[];
  /** Frames at which something may hit, turn or flash, the likeliest first. */
  readonly hits: readonly Hit[];
}

/** More repeats in a row than this are a picture that stands still, not a stutter or animation on twos to fives. */
const MAX_RUN = 4;

/** A repeat moves less than this share of what the frames around it do; what is left is coding noise. */
const REPEAT_SHARE = 0.55;

/** The same for frames that a rhythm tells to be repeats. */
const RHYTHM_SHARE = 0.85;

/** Motion below this many levels in its strongest blocks cannot be told from coding noise. */
const NOISE_LEVELS = 0.5;

/** A picture that is shifted by less of its width stands still. */
const STILL_SHIFT = 0.0006;

/** A camera goes one way when its steps, added up, come to this share of their lengths. */
const ONE_WAY = 0.8;

/** How many frames on either side tell what motion to expect. */
const CONTEXT = 3;

/** And how many whether the picture is slow there anyway. */
const FAR = 12;

/**
 * Finds repeats, cuts and drops. `differences[n]` compares frame n with frame n − 1 (of frame 0, anything). A repeat is judged against
 * the motion around it, so the measure needs no fixed threshold and coding noise does not hide it; a picture that comes
 * to rest, turns round at the top of its flight or stands still for long is not a repeat.
 */
function findHealth(differences: readonly FrameDifference[]): Omit<Health, 'hits'> {
  const cuts = findCuts(differences);
  const repeats: number[] = [];
  const drops: number[] = [];
  const isCut = new Set(cuts);
  let start = 1;
  for (const end of [...cuts, differences.length]) {
    const found = repeatsWithin(differences, start, end).filter((n) => !isShortStep(differences, start, end, n));
    for (const n of found) repeats.push(n);
    const known = new Set(found);
    drops.push(
      ...found.filter((n) => n + 1 < end && !isCut.has(n + 1) && movedTwice(differences, start, end, n, known)),
    );
    start = end + 1;
  }
  return { repeats, cuts, drops };
}

/** Structure of a picture that is not in the one before: a new scene among calm frames has more than this, one among lively frames than that. */
const NEW_AMONG_CALM = 0.25;

const NEW_AMONG_LIVELY = 0.6;

/** By what factor it stands out from the frames beside it then. */
const OUT_OF_CALM = 2.5;

const OUT_OF_LIVELY = 1.2;

/** Levels a picture without structure (black, a card) differs by from one with some. */
export const DEFAULT_LEVELS = 25;

/**
 * First frames of new scenes. What is new is judged with motion taken off, and by what stands beside it: fast motion goes on for a few frames,
 * a cut is one step; and by what comes after it, since a flash returns to what was there, and a cut does not.
 */
const findCuts = (differences: readonly FrameDifference[]): number[] =>
  range(1, differences.length).filter((n) => !differences[n]!.returned && standsOut(differences, n));

/** Whether a frame is new beside those around it, as far as these are known: one that is not will not be when there are more. */
export function standsOut(differences: readonly FrameDifference[], n: number): boolean {
  const beside = (far: number) =>
    range(Math.max(1, n - far), Math.min(differences.length, n + far + 1))
      .filter((i) => i !== n)
      .map((i) => differences[i]!.unlike)
      .sort((a, b) => b - a);
  // Of animation on twos to fours only every second to fourth frame moves; another cut may be as near as that, so the second largest counts.
  const liveliest = (adjacent: number) => Math.max(0, beside(adjacent)[0] ?? 0, beside(MAX_RUN)[1] ?? 0);
  const { mean, histogram, unlike } = differences[n]!;
  if (unlike > NEW_AMONG_CALM && unlike > OUT_OF_CALM * liveliest(1)) return true;
  if (unlike > NEW_AMONG_LIVELY && unlike > OUT_OF_LIVELY * liveliest(2)) return true;
  if (mean <= DEFAULT_LEVELS || histogram <= 0.5) return false;
  const around = [n - 2, n - 1, n + 1, n + 2]
    .filter((i) => i > 0 && i < differences.length)
    .map((i) => differences[i]!.mean);
  return mean > 4 * Math.max(0, ...around);
}

function repeatsWithin(differences: readonly FrameDifference[], start: number, end: number): number[] {
  const motion = differences.map((d) => d.motion);
  const found: number[] = [];
  for (let n = start + 1; n < end; n++) {
    const length = range(1, MAX_RUN + 1).find((count) => n + count < end && isRun(motion, start, end, n, n + count));
    if (length === undefined) continue;
    found.push(...range(n, n + length));
    n += length;
  }
  return withRhythm(motion, start, end, found);
}

/**
 * Whether a frame that moves less than those beside it is a short step of a hand that shakes, whose steps are long and short by chance: then it is
 * shifted, if only a little. Of a camera that goes one way a coder may shift repeats by half a step, so there the steps beside it count alone.
 */
function isShortStep(differences: readonly FrameDifference[], start: number, end: number, n: number): boolean {
  const length = ([x, y]: readonly [number, number]) => Math.hypot(x, y);
  if (length(differences[n]!.shift) < STILL_SHIFT) return false;
  const steps = range(Math.max(start + 1, n - FAR), Math.min(end, n + FAR + 1)).map((i) => differences[i]!.shift);
  const along = steps.reduce<[number, number]>(([x, y], step) => [x + step[0], y + step[1]], [0, 0]);
  return length(along) < ONE_WAY * steps.reduce((sum, step) => sum + length(step), 0);
}

/** True when frames from `first` up to `after` hardly move between two that do: the picture stops and goes on at once. */
function isRun(motion: readonly number[], start: number, end: number, first: number, after: number): boolean {
  const most = Math.max(...motion.slice(first, after));
  const [into, outOf] = [motion[first - 1]!, motion[after]!];
  const edge = Math.min(into, outOf);
  const before = median(motion.slice(Math.max(start, first - CONTEXT), first));
  const afterwards = median(motion.slice(after, Math.min(end, after + CONTEXT)));
  const around = Math.min(before, afterwards);
  const stands =
    (most < REPEAT_SHARE * edge && edge > NOISE_LEVELS) ||
    (most < REPEAT_SHARE * around && edge > REPEAT_SHARE * around && around > NOISE_LEVELS);
  // At the top of a flight motion dies down and grows again by itself: what is beside the run is slow already.
  const lively = motion.slice(Math.max(start, first - FAR), Math.min(end, after + FAR)).toSorted((a, b) => a - b);
  return stands && edge > 0.35 * lively[Math.floor(lively.length * 0.75)]!;
}

/** Where most of a scene is held for the same number of frames, so are the few that noise hid, and those at its ends. */
function withRhythm(motion: readonly number[], start: number, end: number, found: readonly number[]): number[] {
  const known = new Set(found);
  for (const hold of range(2, MAX_RUN + 2))
    for (const phase of range(0, hold)) {
      const held = range(start, end).filter((n) => n % hold !== phase);
      const moving = range(start, end).filter((n) => n % hold === phase);
      if (
        moving.length < 3 ||
        moving.some((n) => known.has(n)) ||
        held.filter((n) => known.has(n)).length < 0.6 * held.length
      )
        continue;
      const near = (n: number) => moving.filter((m) => Math.abs(m - n) < hold).map((m) => motion[m]!);
      return held.filter((n) => known.has(n) || near(n).every((m) => motion[n]! < RHYTHM_SHARE * m));
    }
  return [...found];
}

/** After a repeat the picture makes up for it: it has moved clearly further than motion elsewhere does. */
function movedTwice(
  differences: readonly FrameDifference[],
  start: number,
  end: number,
  n: number,
  repeats: ReadonlySet<number>,
): boolean {
  const others = range(Math.max(start, n - 8), Math.min(end, n + 9)).filter(
    (i) => !repeats.has(i) && !repeats.has(i - 1),
  );
  return others.length >= 3 && differences[n + 1]!.mean > 1.5 * median(others.map((i) => differences[i]!.mean));
}

function median(values: readonly number[]): number {
  const sorted = values.toSorted((a, b) => a - b);
  const middle = sorted.length >> 1;
  return sorted.length % 2 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2;
}

const range = (from: number, to: number) => Array.from({ length: Math.max(0, to - from) }, (_, i) => from + i);

/** How a source's repeats are laid out, in a sentence; undefined without repeats. */
export function describeRepeats(repeats: readonly number[], frames: number): string | undefined {
  if (repeats.length === 0) return undefined;
  const share = repeats.length / frames;
  const held = [2, 3, 4, 5].find((hold) => Math.abs(share - (hold - 1) / hold) < 0.04);
  if (held)
    return `animated on ${['twos', 'threes', 'fours', 'fives'][held - 2]}: each picture stands for ${held} frames`;
  return repeats.length === 1 ? 'one repeated frame' : `${repeats.length} repeated frames`;
}

/** What was measured of pictures one after another, part of a source. */
export interface HealthRecords {
  /** Of the last pictures before them, whether one of these is the same as what was there before: then they were no new scene. */
  readonly before: readonly boolean[];
  readonly differences: readonly FrameDifference[];
  readonly movers: readonly Movers[];
  /** How many cells its pictures were reduced to, the fine and the coarse ones. */
  readonly cells: readonly number[];
}

/** What is found in a source of whose pictures all parts were measured; parts in order. */
export function healthOf(parts: readonly HealthRecords[]): Health {
  const differences = parts.flatMap((part) => part.differences.map((each) => ({ ...each })));
  let first = 0;
  for (const part of parts) {
    part.before.forEach((returned, i) => {
      if (returned) differences[first - part.before.length + i]!.returned = true;
    });
    first += part.differences.length;
  }
  const health = findHealth(differences);
  const movers = parts.flatMap((part) => part.movers);
  return { ...health, hits: findHits(movers, health.repeats, health.cuts, parts.at(-1)?.cells ?? [1, 1]) };
}
