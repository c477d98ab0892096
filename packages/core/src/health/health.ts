import { compareReduced, reduceLuma, type FrameDifference, type Reduced } from './difference.js';

/** What is found in a source's frames by looking at them. */
export interface Health {
  /** Frames that repeat the one before them, increasing. */
  readonly repeats: readonly number[];
  /** First frames of new scenes inside the file. */
  readonly cuts: readonly number[];
  /** Frames after which one is missing: the next has moved twice as far, and a repeat stands in its place. */
  readonly drops: readonly number[];
}

/** More repeats in a row than this are a picture that stands still, not a stutter or animation on twos to fives. */
const LONGEST_RUN = 4;
/** A repeat moves less than this share of what the frames around it do; what is left is coding noise. */
const REPEAT_SHARE = 0.55;
/** The same for frames that a rhythm tells to be repeats. */
const RHYTHM_SHARE = 0.85;
/** Motion below this many levels in its strongest blocks cannot be told from coding noise. */
const NOISE_LEVELS = 0.5;
/** How many frames on either side tell what motion to expect. */
const CONTEXT = 3;
/** And how many whether the picture is slow there anyway. */
const FAR = 12;

/**
 * Finds repeats, cuts and drops. `differences[n]` compares frame n with frame n − 1 (of frame 0, anything). A repeat is judged against
 * the motion around it, so the measure needs no fixed threshold and coding noise does not hide it; a picture that comes
 * to rest, turns round at the top of its flight or stands still for long is none.
 */
export function findHealth(differences: readonly FrameDifference[]): Health {
  const cuts = findCuts(differences);
  const repeats: number[] = [];
  const drops: number[] = [];
  const isCut = new Set(cuts);
  let start = 1;
  for (const end of [...cuts, differences.length]) {
    const found = repeatsWithin(differences, start, end);
    for (const n of found) repeats.push(n);
    const known = new Set(found);
    drops.push(...found.filter((n) => n + 1 < end && !isCut.has(n + 1) && movedTwice(differences, start, end, n, known)));
    start = end + 1;
  }
  return { repeats, cuts, drops };
}

/** A whole new picture: nearly all of it differs, it is spread differently over light and dark, and its neighbours are calm. */
function findCuts(differences: readonly FrameDifference[]): number[] {
  const cuts: number[] = [];
  for (let n = 1; n < differences.length; n++) {
    const { mean, histogram } = differences[n]!;
    const around = [n - 2, n - 1, n + 1, n + 2].filter((i) => i > 0 && i < differences.length).map((i) => differences[i]!.mean);
    const calm = around.length === 0 ? 0 : median(around);
    if (mean > 6 && mean > 3 * calm && (histogram > 0.2 || mean > 25)) cuts.push(n);
  }
  return cuts;
}

function repeatsWithin(differences: readonly FrameDifference[], start: number, end: number): number[] {
  const motion = differences.map((d) => d.motion);
  const found: number[] = [];
  for (let n = start + 1; n < end; n++) {
    const length = range(1, LONGEST_RUN + 1).find((count) => n + count < end && isRun(motion, start, end, n, n + count));
    if (length === undefined) continue;
    found.push(...range(n, n + length));
    n += length;
  }
  return withRhythm(motion, start, end, found);
}

/** True when frames from `first` up to `after` hardly move between two that do: the picture stops and goes on at once. */
function isRun(motion: readonly number[], start: number, end: number, first: number, after: number): boolean {
  const most = Math.max(...motion.slice(first, after));
  const [into, outOf] = [motion[first - 1]!, motion[after]!];
  const edge = Math.min(into, outOf);
  const before = median(motion.slice(Math.max(start, first - CONTEXT), first));
  const afterwards = median(motion.slice(after, Math.min(end, after + CONTEXT)));
  const around = Math.min(before, afterwards);
  const stands = (most < REPEAT_SHARE * edge && edge > NOISE_LEVELS) || (most < REPEAT_SHARE * around && edge > REPEAT_SHARE * around && around > NOISE_LEVELS);
  // At the top of a flight motion dies down and grows again by itself: what is beside the run is slow already.
  const lively = motion.slice(Math.max(start, first - FAR), Math.min(end, after + FAR)).toSorted((a, b) => a - b);
  return stands && edge > 0.35 * lively[Math.floor(lively.length * 0.75)]!;
}

/** Where most of a scene is held for the same number of frames, so are the few that noise hid, and those at its ends. */
function withRhythm(motion: readonly number[], start: number, end: number, found: readonly number[]): number[] {
  const known = new Set(found);
  for (const hold of range(2, LONGEST_RUN + 2))
    for (const phase of range(0, hold)) {
      const held = range(start, end).filter((n) => n % hold !== phase);
      const moving = range(start, end).filter((n) => n % hold === phase);
      if (moving.length < 3 || moving.some((n) => known.has(n)) || held.filter((n) => known.has(n)).length < 0.6 * held.length) continue;
      const near = (n: number) => moving.filter((m) => Math.abs(m - n) < hold).map((m) => motion[m]!);
      return held.filter((n) => known.has(n) || near(n).every((m) => motion[n]! < RHYTHM_SHARE * m));
    }
  return [...found];
}

/** After a repeat the picture makes up for it: it has moved clearly further than motion elsewhere does. */
function movedTwice(differences: readonly FrameDifference[], start: number, end: number, n: number, repeats: ReadonlySet<number>): boolean {
  const others = range(Math.max(start, n - 8), Math.min(end, n + 9)).filter((i) => !repeats.has(i) && !repeats.has(i - 1));
  return others.length >= 3 && differences[n + 1]!.mean > 1.5 * median(others.map((i) => differences[i]!.mean));
}

function median(values: readonly number[]): number {
  const sorted = values.toSorted((a, b) => a - b);
  const middle = sorted.length >> 1;
  return sorted.length % 2 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2;
}

const range = (from: number, to: number) => Array.from({ length: Math.max(0, to - from) }, (_, i) => from + i);

/** How a source's repeats are laid out, in a sentence; undefined when there are none. */
export function describeRepeats(repeats: readonly number[], frames: number): string | undefined {
  if (repeats.length === 0) return undefined;
  const share = repeats.length / frames;
  const held = [2, 3, 4, 5].find((hold) => Math.abs(share - (hold - 1) / hold) < 0.04);
  if (held) return `animated on ${['twos', 'threes', 'fours', 'fives'][held - 2]}: each picture stands for ${held} frames`;
  return repeats.length === 1 ? 'one repeated frame' : `${repeats.length} repeated frames`;
}

/** Takes a source's pictures one after another and says what is found in them. */
export class HealthMeter {
  private before: Reduced | undefined;
  private readonly differences: FrameDifference[] = [];

  /** @param data 8-bit luma first, `width × height` */
  add(data: Uint8Array, width: number, height: number): void {
    const now = reduceLuma(data, width, height);
    this.differences.push(this.before ? compareReduced(this.before, now) : { mean: 0, motion: 0, histogram: 0 });
    this.before = now;
  }

  health(): Health {
    return findHealth(this.differences);
  }
}
