import type { FlowKernels, Sloped } from './flow-kernels.js';
import type { FlowEffort } from './levels.js';
import type { Picture } from './pictures.js';
import { takePlane, type Plane } from './planes.js';

/** Motion from every grid point of one picture to the other, (u, v) in grid steps, and 0…1 how far each is to be trusted. */
export interface Field {
  readonly flow: Float32Array;
  readonly trust: Float32Array;
}

/** The motion between two pictures, there and back, on a grid of `width` × `height` points. */
export interface GridFlow {
  readonly width: number;
  readonly height: number;
  /** The grid's step in pixels of the picture, as a power of two. */
  readonly shift: number;
  /** The second picture is about `gain` · the first + `offset` (in 12-bit steps of luma). */
  readonly exposure: { readonly gain: number; readonly offset: number };
  /**
   * 0…1: the share of the pictures' structure whose motion there and back agrees, the lower of both directions; or how alike
   * they are unmoved, where that is more: water and light that plays have no motion, and yet are no cut.
   */
  readonly agreement: number;
  readonly forward: Field;
  readonly backward: Field;
}

/** Patches are 8 × 8; no level is smaller. */
export const PATCH = 8;
/** Pictures whose slopes correlate by more than this where they lie show the same. */
const ALIKE = 0.5;
/** There and back within this many pixels is agreement. */
const TOLERANCE = 0.7;
/** A field's guess comes from no further than these shares of the picture: of the coarsest level, of the level that looks afar. */
const SCAN_SHARE = 0.3;
const AFAR_SHARE = 0.25;

/** Dense optical flow between two pictures, both directions, coarse to fine. */
export function estimate(kernels: FlowKernels, a: Picture, b: Picture, wanted: FlowEffort): GridFlow {
  const { arena, run } = kernels;
  const mark = arena.mark();
  const first = a.pyramid;
  const effort = { ...wanted, finest: finestFor(first, wanted) };
  const { pyramid: second, exposure } = matchExposure(kernels, first, b.pyramid, effort);
  const [p, q] = [first[effort.finest]!, second[effort.finest]!];
  const { width, height, stride } = p;
  const points = width * height;
  const [forward, backward] = [arena.take(points * 8 + 64), arena.take(points * 8 + 64)];
  const [forwardTrust, backwardTrust] = [arena.take(points * 4), arena.take(points * 4)];
  direction(kernels, first, second, effort, forward);
  direction(kernels, second, first, effort, backward);
  const tolerance = TOLERANCE / 2 ** effort.finest;
  const agree = (field: number, back: number, { alongX, alongY }: Sloped, trust: number) =>
    run.agree({ field, back, width, height, alongX, alongY, stride, tolerance, trust });
  agree(forward, backward, p, forwardTrust);
  agree(backward, forward, q, backwardTrust);
  const agreement = Math.min(
    run.agreement(forward, forwardTrust, width, height, p.alongX, p.alongY, stride),
    run.agreement(backward, backwardTrust, width, height, q.alongX, q.alongY, stride),
  );
  const likeness = run.likeness(p.alongX, p.alongY, q.alongX, q.alongY, stride, width, height);
  run.propagateTrusted(forward, forwardTrust, p.at, q.at, stride, width, height);
  run.propagateTrusted(backward, backwardTrust, q.at, p.at, stride, width, height);
  const field = (flow: number, trust: number) => ({
    flow: kernels.copy(flow, points * 2),
    trust: kernels.copy(trust, points),
  });
  const result = {
    width,
    height,
    shift: effort.finest,
    exposure,
    agreement: likeness > ALIKE ? Math.max(agreement, likeness) : agreement,
    forward: field(forward, forwardTrust),
    backward: field(backward, backwardTrust),
  };
  arena.release(mark);
  return result;
}

/** How the exposure changed, and the second pyramid as it would be without: the same one when it did not. */
function matchExposure(
  kernels: FlowKernels,
  first: readonly Sloped[],
  second: readonly Sloped[],
  { step, steps }: FlowEffort,
) {
  const { arena, run } = kernels;
  const mark = arena.mark();
  const level = Math.max(0, first.length - 2);
  const { at, stride, width, height } = first[level]!;
  const { columns, rows } = gridOf(first[level]!, step);
  const [found, costs, means] = [
    arena.take(columns * rows * 8),
    arena.take(columns * rows * 4),
    arena.take(columns * rows * 8),
  ];
  const [field, sums] = [arena.take(width * height * 8 + 64), arena.take(width * height * 20 + 128)];
  coarseToFine(kernels, first, second, { finest: level, step, steps, farWidth: 0 }, field, sums, found, costs);
  run.fitExposure({ plane0: at, plane1: second[level]!.at, stride, width, height, step, columns, rows, found, means });
  const [gain, offset] = [run.exposureGain(), run.exposureOffset()];
  arena.release(mark);
  // Less than half a grey level is no change.
  if (Math.abs(gain - 1) < 0.003 && Math.abs(offset) < 8) return { pyramid: second, exposure: { gain: 1, offset: 0 } };
  const pyramid = second.map((plane) => {
    const fresh = () => takePlane(arena, plane.width, plane.height);
    const exposed = { ...fresh(), alongX: fresh().at, alongY: fresh().at };
    kernels.expose(plane, exposed, 1 / gain, -offset / gain);
    kernels.slopes(exposed);
    return exposed;
  });
  return { pyramid, exposure: { gain, offset } };
}

function direction(
  kernels: FlowKernels,
  from: readonly Sloped[],
  to: readonly Sloped[],
  effort: FlowEffort,
  out: number,
): void {
  const { arena } = kernels;
  const mark = arena.mark();
  const finest = from[effort.finest]!;
  const { columns, rows } = gridOf(finest, effort.step);
  const sums = arena.take(finest.width * finest.height * 20 + 128);
  coarseToFine(kernels, from, to, effort, out, sums, arena.take(columns * rows * 8), arena.take(columns * rows * 4));
  arena.release(mark);
}

/** From the coarsest level to the finest; each level's field, in `out`, is the next one's guess. */
function coarseToFine(
  { run }: FlowKernels,
  from: readonly Sloped[],
  to: readonly Sloped[],
  { finest, step, steps, farWidth }: FlowEffort,
  out: number,
  sums: number,
  found: number,
  costs: number,
): void {
  let coarse: Plane | undefined;
  for (let l = from.length - 1; l >= finest; l--) {
    const plane = from[l]!;
    const other = to[l]!;
    const { width, height, stride } = plane;
    const { columns, rows } = gridOf(plane, step);
    const grid = { plane0: plane.at, plane1: other.at, stride, width, height, step, columns, rows, found };
    const search = { ...grid, alongX: plane.alongX, alongY: plane.alongY, costs, steps };
    const range = (share: number) => ({ rangeX: Math.ceil(width * share), rangeY: Math.ceil(height * share) });
    const guess = { width, height, step, columns, rows, found };
    if (coarse) run.inherit({ coarse: out, coarseWidth: coarse.width, coarseHeight: coarse.height, ...guess });
    else run.scanPatches({ ...grid, ...range(SCAN_SHARE) });
    run.searchPatches({ ...search, forward: 1 });
    // Far sights are for the finest level that is not too wide for them.
    const afar = coarse && width <= farWidth && (l === finest || from[l - 1]!.width > farWidth);
    if (afar) run.searchAfar({ ...search, ...range(AFAR_SHARE) });
    run.searchPatches({ ...search, forward: 0 });
    if (l > finest) run.spread({ ...grid, field: out, sums });
    else {
      const rough = sums + width * height * 12 + 64;
      run.spread({ ...grid, field: rough, sums });
      run.smoothAlike(rough, out, width, height);
    }
    coarse = plane;
  }
}

const gridOf = ({ width, height }: Plane, step: number) => ({
  columns: Math.ceil((width - PATCH) / step) + 1,
  rows: Math.ceil((height - PATCH) / step) + 1,
});

/** A small picture's field is finer than asked, so that a patch fits. */
function finestFor(pyramid: readonly Plane[], { finest: wanted, widest = Infinity }: FlowEffort): number {
  let finest = Math.min(wanted, pyramid.length - 1);
  while (finest + 1 < pyramid.length && pyramid[finest]!.width > widest) finest++;
  while (finest > 0 && Math.min(pyramid[finest]!.width, pyramid[finest]!.height) < PATCH) finest--;
  return finest;
}
