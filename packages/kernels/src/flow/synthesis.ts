import { bytesPerSample, type PixelLayout } from '@idle-bend/core';
import type { Field, GridFlow } from './estimate.js';
import type { FlowKernels } from './flow-kernels.js';
import type { Picture } from './pictures.js';
import { takePlane, type Plane } from './planes.js';

/** The motion of the pairs just before and just after a pair, where there are any. */
export interface Around<T> {
  readonly before: T | undefined;
  readonly after: T | undefined;
}

/** The picture `fraction` of the way from `a` to `b` under one estimate of their motion, written at `target`. */
export function synthesise(
  kernels: FlowKernels,
  layout: PixelLayout,
  a: Picture,
  b: Picture,
  flow: GridFlow,
  fraction: number,
  around: Around<GridFlow>,
  target: number,
): void {
  const { arena, run } = kernels;
  const mark = arena.mark();
  const { width: gridWidth, height: gridHeight, shift } = flow;
  const grid = [gridWidth, gridHeight] as const;
  const points = gridWidth * gridHeight;
  // Acceleration has one point for 2 × 2.
  const slow = ((gridWidth + 1) >> 1) * ((gridHeight + 1) >> 1);
  // Both as they would look at that moment, so that what only one of them sees fits in.
  const { gain, offset } = flow.exposure;
  const [now, plus] = [1 + (gain - 1) * fraction, offset * fraction];
  const changed = gain !== 1 || offset !== 0;
  const [first, second] = changed
    ? [exposed(kernels, a.lumas, now, plus), exposed(kernels, b.lumas, now / gain, plus - (offset * now) / gain)]
    : [a.lumas, b.lumas];
  const side = ({ flow: f, trust: t }: Field, other: Field | undefined) => {
    const [field, trust] = [kernels.load(f), kernels.load(t)];
    const own = other ? arena.take(slow * 16) : 0;
    if (other) run.accelerate(field, trust, kernels.load(other.flow), kernels.load(other.trust), ...grid, own, arena.take(slow * 16));
    return { field, trust, own };
  };
  const [near, far] = [side(flow.forward, around.before?.backward), side(flow.backward, around.after?.forward)];
  const carry = ({ field, trust, own }: typeof near, other: typeof near, part: number, isFirst: 0 | 1) => {
    const ends = own || other.own ? arena.take(slow * 16) : 0;
    if (ends) run.bothEnds(field, own, other.own, ...grid, ends);
    const [vectors, scores] = [arena.take(points * 16), arena.take(points * 4)];
    run.project(field, trust, ends, ...grid, part, isFirst, vectors, scores);
    return [vectors, scores] as const;
  };
  const [vectors, weights] = [arena.take(points * 16), arena.take(points * 8)];
  const [p, q] = [first[shift]!, second[shift]!];
  run.settle(
    p.at,
    q.at,
    p.stride,
    ...grid,
    fraction,
    near.field,
    near.trust,
    far.field,
    far.trust,
    ...carry(near, far, fraction, 1),
    ...carry(far, near, 1 - fraction, 0),
    vectors,
    weights,
  );
  run.fillHoles(vectors, weights, ...grid);
  const [before, weightsBefore] = [arena.take(points * 16), arena.take(points * 8)];
  for (let pass = 0; pass < 2; pass++) run.tidy(vectors, weights, before, weightsBefore, ...grid);
  const luma = first[0]!;
  const [x, y] = [
    [luma, ...a.rest],
    [second[0]!, ...b.rest],
  ] as const;
  let start = 0;
  for (const [i, plane] of x.entries()) {
    // Grid steps per sample of this plane: chroma may be coarser than luma.
    const perX = 2 ** (Math.round(Math.log2(luma.width / plane.width)) - shift);
    const perY = 2 ** (Math.round(Math.log2(luma.height / plane.height)) - shift);
    run.synthesise(plane.at, y[i]!.at, plane.stride, plane.width, plane.height, vectors, weights, ...grid, perX, perY, target + start, layout.bitDepth);
    start += plane.width * plane.height * bytesPerSample(layout);
  }
  arena.release(mark);
}

function exposed(kernels: FlowKernels, planes: readonly Plane[], gain: number, offset: number): Plane[] {
  return planes.map((plane) => {
    const target = takePlane(kernels.arena, plane.width, plane.height);
    kernels.expose(plane, target, gain, offset);
    return target;
  });
}
