import { frameToSeconds, framesPerSecond, rate, type Rate } from '../rate/rate.js';

/**
 * A source's frames laid on an exact constant grid. Grid frame n, shown at n/rate seconds after the first, is decoded
 * frame `slots[n]` (in order of presentation); without slots each grid frame is the decoded frame of the same number.
 */
export interface ConstantGrid {
  readonly rate: Rate;
  readonly frames: number;
  readonly slots: Int32Array | undefined;
  readonly variable: boolean;
  /** Grid frames that repeat the one before because the file has none there. */
  readonly held: number;
  /** Decoded frames that share a slot with a later one and are not shown. */
  readonly dropped: number;
}

const COMMON: readonly Rate[] = [
  [1, 1], [2, 1], [5, 1], [8, 1], [10, 1], [12, 1], [12000, 1001], [12500, 1000], [15000, 1001], [15, 1], [16, 1], [18, 1], [20, 1],
  [24000, 1001], [24, 1], [25, 1], [30000, 1001], [30, 1], [48000, 1001], [48, 1], [50, 1], [60000, 1001], [60, 1], [72, 1], [75, 1],
  [90, 1], [96, 1], [100, 1], [120000, 1001], [120, 1], [144, 1], [150, 1], [180, 1], [200, 1], [240000, 1001], [240, 1], [250, 1],
  [300, 1], [400, 1], [480, 1], [500, 1], [600, 1], [960, 1], [1000, 1],
].map(([n, d]) => rate(n!, d!)); // prettier-ignore

/**
 * Lays presentation times on a grid.
 * @param times presentation times in ticks, strictly increasing
 * @param tickSeconds length of a tick: the container's time base, which is also how coarsely it rounds
 * @param declared the rate the file states, tried first
 */
export function constantGrid(times: Float64Array, tickSeconds: number, declared: Rate | undefined): ConstantGrid {
  const n = times.length;
  if (n <= 1) return { rate: declared ?? rate(25), frames: n, slots: undefined, variable: false, held: 0, dropped: 0 };
  const start = times[0]!;
  const seconds = Float64Array.from(times, (t) => (t - start) * tickSeconds);
  const average = (n - 1) / seconds[n - 1]!;
  // A container rounds each time to its tick, so a constant rate may be off by one tick anywhere.
  const slack = tickSeconds * 1.001 + 1e-9;
  const near = (r: Rate) => Math.abs(framesPerSecond(r) - average) <= average * ((2 * slack) / seconds[n - 1]! + 1e-9);
  const candidates = [...(declared ? [declared] : []), ...COMMON].filter(near);
  const closest = candidates.sort((a, b) => Math.abs(framesPerSecond(a) - average) - Math.abs(framesPerSecond(b) - average));
  const preferred = declared && closest.includes(declared) ? [declared, ...closest] : closest;
  for (const r of preferred)
    if (seconds.every((t, i) => Math.abs(t - frameToSeconds(i, r)) <= slack))
      return { rate: r, frames: n, slots: undefined, variable: false, held: 0, dropped: 0 };
  const plain = plainRate(average);
  if (seconds.every((t, i) => Math.abs(t - frameToSeconds(i, plain)) <= slack))
    return { rate: plain, frames: n, slots: undefined, variable: false, held: 0, dropped: 0 };
  return variableGrid(seconds, slack, declared);
}

/** A rate nobody listed: as a fraction of a thousand. */
function plainRate(average: number): Rate {
  return rate(Math.min(1_000_000, Math.max(1000, Math.round(average * 1000))), 1000);
}

/**
 * The grid of a variable-rate file: the slowest common rate on which every frame has a slot of its own and sits within
 * a tick of it; failing that the slowest on which no two frames share a slot; failing that the one that loses fewest.
 */
function variableGrid(seconds: Float64Array, slack: number, declared: Rate | undefined): ConstantGrid {
  const choices = [...(declared ? [declared] : []), ...COMMON].sort((a, b) => framesPerSecond(a) - framesPerSecond(b));
  let best: { rate: Rate; lost: number } | undefined;
  let apart: Rate | undefined;
  for (const r of choices) {
    let lost = 0;
    let exact = true;
    let previous = -1;
    for (const t of seconds) {
      const slot = Math.round((t * r.num) / r.den);
      if (Math.abs(t - frameToSeconds(slot, r)) > slack) exact = false;
      if (slot === previous) lost++;
      previous = slot;
    }
    if (exact && lost === 0) return lay(seconds, r);
    if (lost === 0) apart ??= r;
    if (!best || lost < best.lost) best = { rate: r, lost };
  }
  return lay(seconds, apart ?? best!.rate);
}

function lay(seconds: Float64Array, r: Rate): ConstantGrid {
  const frames = Math.round((seconds[seconds.length - 1]! * r.num) / r.den) + 1;
  const slots = new Int32Array(frames).fill(-1);
  let dropped = 0;
  seconds.forEach((t, i) => {
    const slot = Math.round((t * r.num) / r.den);
    if (slots[slot] !== -1) dropped++;
    slots[slot] = i;
  });
  let held = 0;
  for (let i = 1; i < frames; i++)
    if (slots[i] === -1) {
      slots[i] = slots[i - 1]!;
      held++;
    }
  return { rate: r, frames, slots, variable: true, held, dropped };
}

/** The decoded frame behind a grid frame. */
export function decodedFrame(grid: ConstantGrid, gridFrame: number): number {
  return grid.slots ? grid.slots[gridFrame]! : gridFrame;
}
