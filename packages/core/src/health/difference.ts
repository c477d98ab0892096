import { addUp, type Slopes, SUMS } from './slopes.js';

/** How much a picture differs from the one before it, in 8-bit luma levels. */
export interface FrameDifference {
  /** Over the whole picture. */
  readonly mean: number;
  /** What of the difference is motion, where there is most of it: so that a small thing that moves counts and coding noise does not. */
  readonly motion: number;
  /** How far the picture as a whole is shifted, across and down, in shares of its width. */
  readonly shift: readonly [x: number, y: number];
  /** Share of luma that lies elsewhere in the histogram, 0…1: high where the scene changes. */
  readonly histogram: number;
  /** Share of the picture's structure that is nowhere near in the one before, 0…1: motion leaves little, a new scene most of it. */
  readonly unlike: number;
  /** The picture is, or is before, that of a few frames ago again: what came between was no new scene. */
  readonly returned: boolean;
}

export const NO_DIFFERENCE: FrameDifference = {
  mean: 0,
  motion: 0,
  shift: [0, 0],
  histogram: 0,
  unlike: 0,
  returned: false,
};

/** Blocks that a difference is measured in are this many cells wide and high. */
export const DIFFERENCE_BLOCK = 6;

const CELLS = DIFFERENCE_BLOCK * DIFFERENCE_BLOCK;

const STRONGEST = 5;

/**
 * How much of the difference a shift of the picture explains, in its strongest blocks: by least squares on brightness constancy (Lucas and
 * Kanade, "An Iterative Image Registration Technique", 1981) the part bᵀA⁻¹b of a block's squared difference, with A the
 * sum of ∇I∇Iᵀ and b that of ∇I·(I₂ − I₁). Noise has no such part, or a small one.
 */
export function motionIn(blocks: Slopes): number {
  if (blocks.length === 0) return 0;
  const count = Math.min(STRONGEST, blocks.length / SUMS);
  /** The strongest so far, the least of them first. */
  const strongest = new Float64Array(count);
  for (let at = 0; at < blocks.length; at += SUMS) {
    const moved = blockMotion(blocks, at);
    if (moved <= strongest[0]!) continue;
    strongest[0] = moved;
    strongest.sort();
  }
  return Math.sqrt(strongest.reduce((sum, v) => sum + v, 0) / count / CELLS);
}

/**
 * How far one shift takes a picture as a whole to the other, in shares of its width: the least-squares step of all its blocks together, in which
 * noise cancels. Small ones are measured, large ones underestimated.
 */
export function shiftIn(blocks: Slopes, columns: number): readonly [x: number, y: number] {
  const { xx, xy, yy, xt, yt } = addUp(blocks);
  const steady = Math.max(1, blocks.length / SUMS) * CELLS;
  const scale = -1 / (((xx + steady) * (yy + steady) - xy * xy) * columns);
  return [((yy + steady) * xt - xy * yt) * scale, ((xx + steady) * yt - xy * xt) * scale];
}

function blockMotion(blocks: Slopes, at: number): number {
  // Without structure to shift there is no motion to see.
  const xx = blocks[at]! + CELLS;
  const xy = blocks[at + 1]!;
  const yy = blocks[at + 2]! + CELLS;
  const xt = blocks[at + 3]!;
  const yt = blocks[at + 4]!;
  return (yy * xt * xt - 2 * xy * xt * yt + xx * yt * yt) / (xx * yy - xy * xy);
}
