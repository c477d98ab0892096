import type { Novelty } from './novelty.js';

/** Seconds to either side that a frame is compared with. */
const AROUND = 0.2;

/** How much each frame stands out of what is around it, in deviations; never below 0. */
export function accentsOf({ low, mid, high, sharp, rate, frames }: Novelty): Float32Array {
  const all = Float32Array.from(low, (value, i) => value + mid[i]! + 0.5 * high[i]! + sharp[i]!);
  const around = Math.round(AROUND * rate);
  const sums = new Float64Array(frames + 1);
  for (let i = 0; i < frames; i++) sums[i + 1] = sums[i]! + all[i]!;
  let square = 0;
  const out = all.map((value, i) => {
    const [from, to] = [Math.max(0, i - around), Math.min(frames, i + around + 1)];
    const above = Math.max(0, value - (sums[to]! - sums[from]!) / (to - from));
    square += above * above;
    return above;
  });
  const spread = Math.sqrt(square / frames) + 1e-9;
  return out.map((value) => value / spread);
}
