import { appearances, mapDuration, positionAt, slopeAt, speedAt } from '@idle-bend/core';
import type { BenchClip } from '../bench-store.ts';
import { speedScale } from '../chart/scales.ts';
import { CLIP_BOTTOM, CLIP_TOP } from './layout.ts';
import type { X } from './reel-view.ts';

/** Places along a clip, in its frames: marks at even source distances, and whether it runs backward there. */
export interface PaceTick {
  readonly at: number;
  readonly back: boolean;
}

/** Marks at even source distances, about one a second of source, no closer than 3 pixels where it runs fastest. */
export function paceTicks({ clip: { map }, frames, source }: BenchClip, pixel: number): PaceTick[] {
  const samples = Array.from({ length: 65 }, (_, i) => (i / 64) * mapDuration(map));
  const fastest = Math.max(...samples.map((t) => Math.abs(slopeAt(map, t))));
  const reached = samples.map((t) => positionAt(map, t));
  const wanted = Math.max((3 / pixel) * fastest, source.frames / 120);
  const distance = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000].find((d) => d >= wanted) ?? 10_000;
  const first = Math.ceil(Math.min(...reached) / distance);
  const last = Math.floor(Math.max(...reached) / distance);
  const ticks: PaceTick[] = [];
  for (let n = first; n <= last; n++)
    for (const { from, to } of appearances(map, n * distance)) {
      if (from >= frames || to - from > 1e-3) continue;
      ticks.push({ at: from, back: slopeAt(map, from) < 0 });
    }
  return ticks;
}

const { place } = speedScale(CLIP_TOP + 16, CLIP_BOTTOM - 4);

/** The clip's speed as points from its left edge, every 3 pixels. */
export function speedLine({ clip: { map }, frames, slope }: BenchClip, width: number): Float32Array {
  const count = Math.max(2, Math.round(width / 3));
  return Float32Array.from({ length: count + 1 }, (_, i) => place(speedAt(map, Math.min(mapDuration(map) - 1e-6, (i / count) * frames), slope)));
}

const lines = new WeakMap<object, { readonly pixel: number; readonly frames: number; readonly ticks: readonly PaceTick[]; readonly speed: Float32Array }>();

/** Both, worked out once for a curve at a width. */
export function paceOf(bench: BenchClip, x: X): { readonly ticks: readonly PaceTick[]; readonly speed: Float32Array } {
  const pixel = x(1) - x(0);
  const known = lines.get(bench.clip);
  if (known?.frames === bench.frames && Math.abs(known.pixel / pixel - 1) < 1e-9) return known;
  const made = { pixel, frames: bench.frames, ticks: paceTicks(bench, pixel), speed: speedLine(bench, bench.frames * pixel) };
  lines.set(bench.clip, made);
  return made;
}
