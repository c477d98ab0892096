import type { Cells, Reduced } from './cells.js';
import { addUp, type Gradients, type Slopes, slopesOfBlocks } from './slopes.js';
import { unlike } from './unlike.js';

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

/** A block is this many cells wide and high. */
const BLOCK = 6;

const STRONGEST = 5;

/** Gradients between two pictures at the scales that motion is seen at. */
export interface BothGradients {
  readonly fine: Gradients;
  readonly coarse: Gradients;
}

export function compareReduced(a: Reduced, b: Reduced, gradients: BothGradients): FrameDifference {
  const mean = meanApart(a.fine, b.fine);
  let histogram = 0;
  for (let i = 0; i < 32; i++) histogram += Math.abs(b.histogram[i]! - a.histogram[i]!) / 2;
  const fine = slopesOfBlocks(gradients.fine, BLOCK);
  return {
    mean,
    motion: Math.max(motion(fine), motion(slopesOfBlocks(gradients.coarse, BLOCK))),
    shift: shift(fine, a.fine.columns),
    histogram,
    unlike: mean < ALIKE_MEAN ? 0 : unlike(a, b),
    returned: false,
  };
}

/** Pictures that differ by less are of one scene, and are not looked at more closely. */
const ALIKE_MEAN = 4;

function meanApart({ values: a }: Cells, { values: b }: Cells): number {
  let total = 0;
  for (let i = 0; i < a.length; i++) total += Math.abs(b[i]! - a[i]!);
  return total / a.length;
}

/**
 * How much of the difference a shift of the picture explains, in its strongest blocks: by least squares on brightness constancy (Lucas and
 * Kanade, "An Iterative Image Registration Technique", 1981) the part bᵀA⁻¹b of a block's squared difference, with A the
 * sum of ∇I∇Iᵀ and b that of ∇I·(I₂ − I₁). Noise has no such part, or a small one.
 */
function motion(blocks: readonly Slopes[]): number {
  if (blocks.length === 0) return 0;
  const strongest = Float64Array.from(blocks, blockMotion).sort().slice(-STRONGEST);
  return Math.sqrt(strongest.reduce((sum, v) => sum + v, 0) / strongest.length / (BLOCK * BLOCK));
}

/**
 * How far one shift takes a picture as a whole to the other, in shares of its width: the least-squares step of all its blocks together, in which
 * noise cancels. Small ones are measured, large ones underestimated.
 */
function shift(blocks: readonly Slopes[], columns: number): readonly [x: number, y: number] {
  const { xx, xy, yy, xt, yt } = addUp(blocks);
  const steady = Math.max(1, blocks.length) * BLOCK * BLOCK;
  const scale = -1 / (((xx + steady) * (yy + steady) - xy * xy) * columns);
  return [((yy + steady) * xt - xy * yt) * scale, ((xx + steady) * yt - xy * xt) * scale];
}

function blockMotion({ xx, xy, yy, xt, yt }: Slopes): number {
  // Without structure to shift there is no motion to see.
  const steady = BLOCK * BLOCK;
  const determinant = (xx + steady) * (yy + steady) - xy * xy;
  return ((yy + steady) * xt * xt - 2 * xy * xt * yt + (xx + steady) * yt * yt) / determinant;
}
