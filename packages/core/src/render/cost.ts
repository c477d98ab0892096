import type { Project } from '../model/project.js';
import type { Stretch } from '../model/reel.js';
import { placeItems } from '../reel/places.js';
import { resolveClip } from '../resolve/resolve-clip.js';
import { partsOf } from '../sampling/sample.js';

/** What a stretch of the reel asks of a machine. */
export interface RenderCost {
  readonly frames: number;
  /** Frames Flow makes, or whose motion is blurred. */
  readonly made: number;
  /** Frames blended of two. */
  readonly blended: number;
  /** Pictures Flow has to make for them: one for an in-between, many for one that is blurred. */
  readonly pictures: number;
  /** Picture elements written. */
  readonly pixels: number;
}

/** What a stretch asks: every frame is looked at, about a million a second. */
export function renderCost(project: Project, { from, to }: Stretch): RenderCost {
  let [made, blended, pictures, frames] = [0, 0, 0, 0];
  for (const { item, start, frames: length } of placeItems(project)) {
    const first = Math.max(0, from - start);
    const end = Math.min(length, to - start);
    if (end <= first) continue;
    frames += end - first;
    if (item.kind === 'gap') continue;
    const show = resolveClip(project, item);
    for (let n = first; n < end; n++) {
      const sample = show(n)?.sample;
      if (!sample) continue;
      const parts = partsOf(sample);
      const count = parts.filter(({ kind }) => kind === 'flow').length;
      pictures += count;
      if (count > 0) made++;
      else if (parts.some(({ kind }) => kind === 'mix')) blended++;
    }
  }
  const { width, height } = project.reel;
  return { frames, made, blended, pictures, pixels: frames * width * height };
}

/** A stretch that was rendered before, and how long that took. */
interface MeasuredWork {
  readonly cost: RenderCost;
  readonly seconds: number;
}

/** The two numbers a machine's speed comes down to, seconds for a million picture elements. */
interface Pace {
  readonly written: number;
  readonly made: number;
}

const million = ({ pixels, frames, pictures }: RenderCost) => ({
  written: pixels / 1e6,
  made: frames === 0 ? 0 : (pictures * pixels) / frames / 1e6,
});

/**
 * About how many seconds a render takes on a machine that took the measured times: least squares over what was written and what was
 * made, neither below zero. `undefined` before anything was measured.
 */
export function estimateSeconds(measured: readonly MeasuredWork[], cost: RenderCost): number | undefined {
  const pace = paceOf(measured);
  const { written, made } = million(cost);
  return pace && pace.written * written + pace.made * made;
}

function paceOf(measured: readonly MeasuredWork[]): Pace | undefined {
  const points = measured
    .map(({ cost, seconds }) => ({ ...million(cost), seconds }))
    .filter(({ written }) => written > 0);
  if (points.length === 0) return undefined;
  const sum = (f: (p: (typeof points)[number]) => number) => points.reduce((total, p) => total + f(p), 0);
  const [ww, wm, mm] = [sum((p) => p.written ** 2), sum((p) => p.written * p.made), sum((p) => p.made ** 2)];
  const [ws, ms] = [sum((p) => p.written * p.seconds), sum((p) => p.made * p.seconds)];
  const determinant = ww * mm - wm * wm;
  if (determinant > 1e-9 * ww * mm) {
    const written = (ws * mm - ms * wm) / determinant;
    const made = (ms * ww - ws * wm) / determinant;
    if (written >= 0 && made >= 0) return { written, made };
    if (written < 0) return { written: 0, made: ms / mm };
  }
  return { written: ws / ww, made: 0 };
}
