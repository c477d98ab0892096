import { bytesPerSample, type PixelLayout } from '@idle-bend/core/frame';
import type { FlowTuning } from '@idle-bend/core/model';
import type { Field, GridFlow } from './estimate.js';
import { BLOCK, blocksOf, REACHES, TERMS, type Blocks } from './choice.js';
import type { FlowKernels } from './flow-kernels.js';
import type { Picture } from './pictures.js';
import { takePlane, type Plane } from './planes.js';

/** The motion of the pairs just before and just after a pair, where there are any. */
export interface Around<T> {
  readonly before: T | undefined;
  readonly after: T | undefined;
}

/** What an in-between is made of: a pair's pictures and motion, how far between, and what is around. */
export interface Wanted {
  readonly a: Picture;
  readonly b: Picture;
  readonly flow: GridFlow;
  readonly fraction: number;
  readonly around: Around<GridFlow>;
  /** Things hit or turn here: they go straight up to where their velocity jumps, and straight on from there. */
  readonly knot: boolean;
}

/** How large an acceleration is believed against the motion, both squared: as large as a turn makes it, or as a bounce does. */
const MOST_TURN = 0.8;
const MOST_JUMP = 4.5;

/** A moment in between, in the kernels' memory: for every grid point the ways to both pictures and both weights. */
export interface SolvedInstant {
  readonly vectors: number;
  readonly weights: number;
  /** The trust either side carried there, below 0 where it brought nothing. */
  readonly scores: readonly [number, number];
  /** Luma of both pictures at every pyramid level, as exposed at that moment. */
  readonly lumas: readonly [readonly Plane[], readonly Plane[]];
}

/** Says for every grid point of the moment where it is in both pictures. Takes memory of the arena; the caller gives it back. */
export function solveInstant(
  kernels: FlowKernels,
  { a, b, flow, fraction, around, knot }: Wanted,
  { trust, keenness }: FlowTuning,
): SolvedInstant {
  const { arena, run } = kernels;
  const { width, height, shift } = flow;
  const grid = [width, height] as const;
  const points = width * height;
  // Acceleration has one point for 2 × 2.
  const slow = ((width + 1) >> 1) * ((height + 1) >> 1);
  // Both as they would look at that moment, so that what only one of them sees fits in.
  const { gain, offset } = flow.exposure;
  const [now, plus] = [1 + (gain - 1) * fraction, offset * fraction];
  const changed = gain !== 1 || offset !== 0;
  const [first, second] = changed
    ? [exposed(kernels, a.lumas, now, plus), exposed(kernels, b.lumas, now / gain, plus - (offset * now) / gain)]
    : [a.lumas, b.lumas];
  const side = ({ flow: f, trust: t }: Field, other: Field | undefined) => {
    const [field, held] = [kernels.load(f), kernels.load(t)];
    const own = other ? arena.take(slow * 16) : 0;
    if (other)
      run.accelerate({
        ...{ field, trust: held, other: kernels.load(other.flow), otherTrust: kernels.load(other.trust) },
        ...{ width, height, most: knot ? MOST_JUMP : MOST_TURN, own, scratch: arena.take(slow * 16) },
      });
    return { field, trust: held, own };
  };
  const [near, far] = [side(flow.forward, around.before?.backward), side(flow.backward, around.after?.forward)];
  const carry = ({ field, trust: held, own }: typeof near, other: typeof near, part: number, isFirst: 0 | 1) => {
    const ends = own || other.own ? arena.take(slow * 16) : 0;
    if (ends) run.bothEnds(field, own, other.own, ...grid, ends);
    const [ways, scores] = [arena.take(points * 16), arena.take(points * 4)];
    run.project({
      field,
      trust: held,
      ends,
      width,
      height,
      part,
      kinked: Number(knot),
      first: isFirst,
      vectors: ways,
      scores,
    });
    return [ways, scores] as const;
  };
  const [fromFirst, fromSecond] = [carry(near, far, fraction, 1), carry(far, near, 1 - fraction, 0)];
  const [vectors, weights] = [arena.take(points * 16), arena.take(points * 8)];
  const [p, q] = [first[shift]!, second[shift]!];
  run.solve({
    ...{ plane0: p.at, plane1: q.at, stride: p.stride, width, height, fraction, vectors, weights },
    ...{ field0: near.field, trust0: near.trust, vectors0: fromFirst[0], scores0: fromFirst[1] },
    ...{ field1: far.field, trust1: far.trust, vectors1: fromSecond[0], scores1: fromSecond[1] },
  });
  run.fillHoles(vectors, weights, ...grid);
  const [before, weightsBefore] = [arena.take(points * 16), arena.take(points * 8)];
  for (let pass = 0; pass < 2; pass++) run.removeOutliers(vectors, weights, before, weightsBefore, ...grid);
  if (trust < 1 || keenness !== 0)
    run.tune({
      ...{ a: p.at, b: q.at, stride: p.stride, width, height, fraction, trust, keenness },
      ...{ scores0: fromFirst[1], scores1: fromSecond[1], vectors, weights, before },
    });
  return { vectors, weights, scores: [fromFirst[1], fromSecond[1]], lumas: [first, second] };
}

/** Paints a moment's picture at `target`, every plane of it. */
export function paintInstant(
  { run }: FlowKernels,
  layout: PixelLayout,
  { a, b, flow }: Wanted,
  moment: SolvedInstant,
  target: number,
): void {
  const { width, height, shift } = flow;
  const [first, second] = moment.lumas;
  const luma = first[0]!;
  const others = [second[0]!, ...b.rest];
  let start = 0;
  for (const [i, plane] of [luma, ...a.rest].entries()) {
    // Grid steps per sample of this plane: chroma may be coarser than luma.
    const perX = 2 ** (Math.round(Math.log2(luma.width / plane.width)) - shift);
    const perY = 2 ** (Math.round(Math.log2(luma.height / plane.height)) - shift);
    run.synthesise({
      ...{ a: plane.at, b: others[i]!.at, stride: plane.stride, width: plane.width, height: plane.height },
      ...{ vectors: moment.vectors, weights: moment.weights, gridWidth: width, gridHeight: height, perX, perY },
      ...{ out: target + start, bits: layout.bitDepth },
    });
    start += plane.width * plane.height * bytesPerSample(layout);
  }
}

/** What tells how well motion explains a moment, block by block. */
export function weighBlocks(
  kernels: FlowKernels,
  wanted: Wanted,
  { vectors, weights, scores, lumas }: SolvedInstant,
): Blocks {
  const { arena, run } = kernels;
  const { flow, fraction, around } = wanted;
  const { width, height, shift } = flow;
  const { columns, rows } = blocksOf(flow);
  const [p, q] = [lumas[0][shift]!, lumas[1][shift]!];
  const mark = arena.mark();
  const before = around.before ? kernels.load(around.before.backward.flow) : 0;
  const after = around.after ? kernels.load(around.after.forward.flow) : 0;
  const [out, between] = [0, 1].map(() => arena.take(columns * rows * TERMS * 4)) as [number, number];
  run.blockTerms({
    ...{ a: p.at, b: q.at, stride: p.stride, width, height, fraction, vectors, weights },
    ...{ scores0: scores[0], scores1: scores[1], before, after, out },
  });
  const gathered = [REACHES.near, REACHES.region].map((reach) => {
    const sums = arena.take(columns * rows * TERMS * 4);
    run.gatherTerms(out, columns, rows, reach, between, sums);
    return sums;
  });
  const [terms, near, region] = [out, ...gathered].map((at) =>
    new Float32Array(arena.memory.buffer, at, columns * rows * TERMS).slice(),
  ) as [Float32Array, Float32Array, Float32Array];
  arena.release(mark);
  return { terms, near, region, columns, rows, fraction, around: Number(before !== 0) + Number(after !== 0) };
}

/** Brings the picture at `target` nearer to the plain blend where `chosen`, the blocks' shares, leave some to it. */
export function settleInstant(
  kernels: FlowKernels,
  layout: PixelLayout,
  wanted: Wanted,
  moment: SolvedInstant,
  chosen: Float32Array,
  target: number,
): void {
  const { arena, run } = kernels;
  const { a, b, flow, fraction } = wanted;
  if (chosen.every((share) => share === 1)) return;
  const mark = arena.mark();
  const shares = kernels.load(chosen);
  const [first, second] = moment.lumas;
  const luma = first[0]!;
  const others = [second[0]!, ...b.rest];
  let start = 0;
  for (const [i, plane] of [luma, ...a.rest].entries()) {
    const per = (whole: number, part: number) => 2 ** (Math.round(Math.log2(whole / part)) - flow.shift) / BLOCK;
    run.blendDoubted({
      ...{ a: plane.at, b: others[i]!.at, stride: plane.stride, width: plane.width, height: plane.height, fraction },
      ...{ shares, ...blocksOf(flow) },
      ...{ perX: per(luma.width, plane.width), perY: per(luma.height, plane.height) },
      ...{ out: target + start, bits: layout.bitDepth },
    });
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
