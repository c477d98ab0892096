import { LATE, vertexOf } from './onsets.js';

/** A beat is looked for this near to where it was tracked, seconds. */
const NEAR = 0.03;

/** Beats either side that a beat's time is evened by. */
const AROUND = 4;

/** An onset further than this from its neighbours' line is another thing than the beat, seconds. */
const ASTRAY = 0.02;

/**
 * Says when beats are, in seconds, from where they were tracked (frames): each goes to the sharpest rise near it; what is left of
 * looseness is evened by a line through the neighbours, weighed by how sharp they are. `sharp` is the short-window novelty.
 */
export function refineBeats(beats: readonly number[], sharp: Float32Array, rate: number): number[] {
  const near = Math.round(NEAR * rate);
  const found = beats.map((beat) => {
    const at = Math.round(beat);
    let top = Math.max(1, Math.min(sharp.length - 2, at));
    for (let i = Math.max(1, at - near); i <= Math.min(sharp.length - 2, at + near); i++)
      if (sharp[i]! > sharp[top]!) top = i;
    const weight = sharp[top] ?? 0;
    return {
      time: (top + vertexOf(sharp[top - 1]!, sharp[top]!, sharp[top + 1]!)) / rate - LATE.sharp,
      weight,
      tracked: beat / rate,
    };
  });
  const usual = Math.max(1e-6, ...found.map(({ weight }) => weight)) / 4;
  return found.map(({ time, tracked, weight }, i) => {
    const line = lineThrough(found, i, usual);
    if (line === undefined) return weight > usual ? time : tracked;
    return Math.abs(time - line) < ASTRAY && weight > usual ? 0.7 * line + 0.3 * time : line;
  });
}

/** The time of beat i on a weighted line through its neighbours; `undefined` where they are too few or not in a line. */
function lineThrough(found: readonly { time: number; weight: number }[], i: number, usual: number): number | undefined {
  const from = Math.max(0, i - AROUND);
  const to = Math.min(found.length - 1, i + AROUND);
  const gap = (found[to]!.time - found[from]!.time) / (to - from);
  let rest = Array.from({ length: to - from + 1 }, (_, n) => from + n);
  for (let round = 0; ; round++) {
    let [w, wx, wy, wxx, wxy] = [0, 0, 0, 0, 0];
    for (const n of rest) {
      const weight = Math.min(1, found[n]!.weight / usual) / (1 + Math.abs(n - i) / AROUND);
      const x = n - i;
      const y = found[n]!.time - found[i]!.time - gap * x;
      [w, wx, wy, wxx, wxy] = [
        w + weight,
        wx + weight * x,
        wy + weight * y,
        wxx + weight * x * x,
        wxy + weight * x * y,
      ];
    }
    const bottom = w * wxx - wx * wx;
    if (rest.length < 4 || bottom < 1e-9) return undefined;
    const slope = (w * wxy - wx * wy) / bottom;
    const offset = (wy - slope * wx) / w;
    const off = (n: number) => Math.abs(found[n]!.time - found[i]!.time - gap * (n - i) - offset - slope * (n - i));
    const kept = rest.filter((n) => off(n) < ASTRAY);
    if (kept.length === rest.length || round === 2) return kept.length >= 4 ? found[i]!.time + offset : undefined;
    rest = kept.length >= 4 ? kept : rest;
  }
}
