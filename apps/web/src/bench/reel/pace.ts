import { appearances, mapDuration, positionAt, slopeAt, speedAt } from '@idle-bend/core/time-map';
import { speedScale } from '../chart/scales.ts';
import { CLIP_BOTTOM, CLIP_TOP } from './layout.ts';
import type { X } from './reel-view.ts';
import { type BenchClip } from '../../session/bench-state.ts';

/** A place along a clip, in its frames, at an even source distance from the next; and whether it runs backward there. */
export interface PaceTick {
  readonly at: number;
  readonly back: boolean;
}

/** What of a clip's pace does not depend on how close one looks; worked out once for a curve and length. */
interface Pace {
  readonly frames: number;
  readonly fastest: number;
  readonly reached: readonly [low: number, high: number];
  /** Marks by their distance in source frames, lines by their number of points, as they were asked for. */
  readonly ticks: Map<number, readonly PaceTick[]>;
  readonly lines: Map<number, Float32Array>;
}

const known = new WeakMap<object, Pace>();

function paceFor({ clip, frames }: BenchClip): Pace {
  const found = known.get(clip);
  if (found?.frames === frames) return found;
  const { map } = clip;
  const samples = Array.from({ length: 65 }, (_, i) => (i / 64) * mapDuration(map));
  const fastest = Math.max(...samples.map((t) => Math.abs(slopeAt(map, t))));
  const positions = samples.map((t) => positionAt(map, t));
  const made: Pace = {
    frames,
    fastest,
    reached: [Math.min(...positions), Math.max(...positions)],
    ticks: new Map(),
    lines: new Map(),
  };
  known.set(clip, made);
  return made;
}

const DISTANCES = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000];

/** Marks at even source distances, about one a second of source, no closer than 3 pixels where the clip runs fastest. */
function ticksOf(
  { clip: { map }, frames, source }: BenchClip,
  { fastest, reached: [low, high], ticks }: Pace,
  pixel: number,
): readonly PaceTick[] {
  const wanted = Math.max((3 / pixel) * fastest, source.frames / 120);
  const distance = DISTANCES.find((d) => d >= wanted) ?? 10_000;
  let marks = ticks.get(distance);
  if (!marks) {
    const all: PaceTick[] = [];
    for (let n = Math.ceil(low / distance); n <= Math.floor(high / distance); n++)
      for (const { from, to } of appearances(map, n * distance))
        if (from < frames && to - from <= 1e-3) all.push({ at: from, back: slopeAt(map, from) < 0 });
    ticks.set(distance, (marks = all));
  }
  return marks;
}

const { place } = speedScale(CLIP_TOP + 16, CLIP_BOTTOM - 4);

/** The clip's speed as heights at even places along it, at most 8 pixels apart. */
function lineOf({ clip: { map }, frames, slope }: BenchClip, { lines }: Pace, width: number): Float32Array {
  let count = 32;
  while (count * 8 < width && count < 4096) count *= 2;
  let line = lines.get(count);
  if (!line) {
    line = Float32Array.from({ length: count + 1 }, (_, i) =>
      place(speedAt(map, Math.min(mapDuration(map) - 1e-6, (i / count) * frames), slope)),
    );
    lines.set(count, line);
  }
  return line;
}

/** A clip's marks and its speed line, as close as one looks. */
export function paceOf(bench: BenchClip, x: X): { readonly ticks: readonly PaceTick[]; readonly speed: Float32Array } {
  const pixel = x(1) - x(0);
  const pace = paceFor(bench);
  return { ticks: ticksOf(bench, pace, pixel), speed: lineOf(bench, pace, bench.frames * pixel) };
}
