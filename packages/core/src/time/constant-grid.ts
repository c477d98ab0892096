import { InvalidInput } from '../foundation/errors.js';
import { framesPerSecond, frameToSeconds, type Rate, rate } from './rate.js';

/**
 * A source's frames laid on an exact constant grid. Grid frame n, shown at n/rate seconds after the first, is decoded
 * frame `slots[n]` (in order of presentation); without slots each grid frame is the decoded frame of the same number.
 */
export interface ConstantGrid {
  readonly rate: Rate;
  readonly frames: number;
  readonly slots: Int32Array | undefined;
  readonly variable: boolean;
  /** Grid frames that repeat the one before because the file has no frame there. */
  readonly held: number;
  /** Decoded frames that share a slot with a later one and are not shown. */
  readonly dropped: number;
}

const COMMON: readonly Rate[] = [
  [1, 1],
  [2, 1],
  [5, 1],
  [8, 1],
  [10, 1],
  [12, 1],
  [12000, 1001],
  [12500, 1000],
  [15000, 1001],
  [15, 1],
  [16, 1],
  [18, 1],
  [20, 1],
  [24000, 1001],
  [24, 1],
  [25, 1],
  [30000, 1001],
  [30, 1],
  [48000, 1001],
  [48, 1],
  [50, 1],
  [60000, 1001],
  [60, 1],
  [72, 1],
  [75, 1],
  [90, 1],
  [96, 1],
  [100, 1],
  [120000, 1001],
  [120, 1],
  [144, 1],
  [150, 1],
  [180, 1],
  [200, 1],
  [240000, 1001],
  [240, 1],
  [250, 1],
  [300, 1],
  [400, 1],
  [480, 1],
  [500, 1],
  [600, 1],
  [960, 1],
  [1000, 1],
].map(([n, d]) => rate(n!, d));

/**
 * Lays presentation times on a grid.
 * @param times presentation times in ticks, strictly increasing
 * @param tickSeconds length of a tick: the container's time base, which is also how coarsely it rounds
 * @param declared the rate the file states
 * Throws `InvalidInput` for times that jump so far that nearly all frames would be held.
 */
export function constantGrid(times: Float64Array, tickSeconds: number, declared: Rate | undefined): ConstantGrid {
  const n = times.length;
  if (n <= 1) return { rate: declared ?? rate(25), frames: n, slots: undefined, variable: false, held: 0, dropped: 0 };
  const start = times[0]!;
  const seconds = Float64Array.from(times, (t) => (t - start) * tickSeconds);
  // A container rounds each time to its tick, so a constant rate may be off by one tick anywhere.
  const slack = tickSeconds * 1.001 + 1e-9;
  const fits = (r: Rate) => seconds.every((t, i) => Math.abs(t - frameToSeconds(i, r)) <= slack);
  const constant = likelyRates(seconds, slack, declared).find(fits);
  if (constant) return { rate: constant, frames: n, slots: undefined, variable: false, held: 0, dropped: 0 };
  return variableGrid(seconds, slack, declared);
}

/** A declared rate this near to one in common use, as a share of it, is that one as a container could write it. */
const SAME_RATE = 2e-4;

/**
 * Rates a clip may have, likeliest first. Containers write 59.94 as 19001/317, or 23.976 as a thousandth: what fits the container's ticks and
 * is in common use comes before what only this file says.
 */
function likelyRates(seconds: Float64Array, slack: number, declared: Rate | undefined): Rate[] {
  const n = seconds.length;
  const lasts = seconds[n - 1]!;
  const average = (n - 1) / lasts;
  const apart = (r: Rate, fps: number) => Math.abs(framesPerSecond(r) - fps);
  const near = COMMON.filter((r) => apart(r, average) <= average * ((2 * slack) / lasts + 1e-9)).sort(
    (a, b) => apart(a, average) - apart(b, average),
  );
  // Where a tick is as long as a frame, times fit rates that are far apart: then the file's word counts.
  const telling = slack * average < 0.5 ? near : [];
  if (!declared) return [...telling, plainRate(average)];
  const fps = framesPerSecond(declared);
  const meant = COMMON.filter((r) => apart(r, fps) <= fps * SAME_RATE).sort((a, b) => apart(a, fps) - apart(b, fps));
  return [...meant, ...telling, declared, ...near, plainRate(average)];
}

/** A rate nobody listed: as a fraction of a thousand. */
function plainRate(average: number): Rate {
  return rate(Math.min(1_000_000, Math.max(1000, Math.round(average * 1000))), 1000);
}

/** Few frames may be shown by this share of a frame before or after their own time, so that one that comes early costs no faster grid. */
const MAX_MOVED = 0.95;

const FEW = 0.1;

/** A grid on which every frame has its very time is taken up to so many times the pace most frames have. */
const FASTER_AT_MOST = 2.6;

/**
 * The grid of a variable-rate file: the slowest rate on which every frame has a slot of its own and sits within a tick of it; failing that
 * the slowest, not below the pace most frames have, on which all have slots of their own less than a frame away; failing that the one that
 * loses fewest.
 */
function variableGrid(seconds: Float64Array, slack: number, declared: Rate | undefined): ConstantGrid {
  const choices = [...(declared ? [declared] : []), ...COMMON].sort((a, b) => framesPerSecond(a) - framesPerSecond(b));
  const spacing = middle(seconds.subarray(1).map((t, i) => t - seconds[i]!));
  let best: { rate: Rate; lost: number } | undefined;
  const apart: { rate: Rate; off: number }[] = [];
  for (const r of choices) {
    const pace = framesPerSecond(r) * spacing;
    if (isExact(seconds, r, slack) && pace <= FASTER_AT_MOST) return lay(seconds, r);
    const { lost, moved, off } = place(seconds, r);
    if (lost === 0 && moved <= FEW * seconds.length && pace >= 0.99) apart.push({ rate: r, off });
    if (!best || lost < best.lost) best = { rate: r, lost };
  }
  const [slowest] = apart;
  // 29.97 and 30 are told apart by which keeps the times better.
  const alike = apart
    .filter(({ rate: r }) => framesPerSecond(r) <= 1.01 * framesPerSecond(slowest!.rate))
    .sort((a, b) => a.off - b.off);
  return lay(seconds, alike[0]?.rate ?? best!.rate);
}

const middle = (values: Float64Array) => values.slice().sort()[values.length >> 1]!;

function isExact(seconds: Float64Array, r: Rate, slack: number): boolean {
  let previous = -1;
  for (const t of seconds) {
    const slot = Math.round((t * r.num) / r.den);
    if (slot === previous || Math.abs(t - frameToSeconds(slot, r)) > slack) return false;
    previous = slot;
  }
  return true;
}

/** A slot for every frame: the nearest, or the one after where that is taken and near enough; −1 where neither is free. `moved`: not in their nearest; `off`: by how much in all, in slots. */
function place(
  seconds: Float64Array,
  r: Rate,
): { readonly slots: Int32Array; readonly lost: number; readonly moved: number; readonly off: number } {
  let lost = 0;
  let off = 0;
  let moved = 0;
  let taken = -1;
  const slots = Int32Array.from(seconds, (t) => {
    const at = (t * r.num) / r.den;
    const slot = Math.max(taken + 1, Math.round(at));
    if (Math.abs(slot - at) > MAX_MOVED) {
      lost++;
      return -1;
    }
    if (slot !== Math.round(at)) moved++;
    off += Math.abs(slot - at);
    taken = slot;
    return slot;
  });
  return { slots, lost, moved, off };
}

function lay(seconds: Float64Array, r: Rate): ConstantGrid {
  const { slots: placed, lost } = place(seconds, r);
  const frames = placed.reduce((most, slot) => Math.max(most, slot), 0) + 1;
  if (frames > MAX_GRID_FRAMES || (frames > SURELY_FINE && frames > MAX_HELD * seconds.length))
    throw new InvalidInput(
      'times',
      `jump: ${seconds.length} frames are spread over ${Math.round(seconds[seconds.length - 1]!)} s`,
    );
  const slots = new Int32Array(frames).fill(-1);
  placed.forEach((slot, i) => {
    if (slot >= 0) slots[slot] = i;
  });
  let held = 0;
  for (let i = 1; i < frames; i++)
    if (slots[i] === -1) {
      slots[i] = slots[i - 1]!;
      held++;
    }
  return { rate: r, frames, slots, variable: true, held, dropped: lost };
}

/** A day at 120 frames a second. */
const MAX_GRID_FRAMES = 24 * 3600 * 120;

/** Of longer grids than this, one frame in so many at least must be the file's own; the others are held. */
const SURELY_FINE = 20_000;

const MAX_HELD = 200;

/** The decoded frame behind a grid frame. */
export function decodedFrame(grid: ConstantGrid, gridFrame: number): number {
  return grid.slots ? grid.slots[gridFrame]! : gridFrame;
}
