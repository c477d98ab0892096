import type { Cells } from './cells.js';
import type { BothGradients } from './difference.js';
import { addUp, type Slopes, slopesOfBlocks } from './slopes.js';

/** What moves between two pictures besides the camera, and how bright the second is. */
export interface Movers {
  /** Motion of all that moves otherwise than the picture as a whole, weighed by its contrast, across and down; at the fine and the coarse scale. */
  readonly momentum: readonly (readonly [x: number, y: number])[];
  /** How much moves so, whichever way; at the same scales. */
  readonly amount: readonly number[];
  /** Mean luma of the second picture, 8-bit levels. */
  readonly level: number;
}

/** A block is this many cells wide and high. */
const BLOCK = 5;

/** How often what the camera does is found again without the blocks that do something else. */
const ROUNDS = 3;

/** Squared brightness levels a cell of a block may be off by as noise. */
const NOISE = 4;

/**
 * What moves between two pictures, by the gradients between them; the second's coarse cells tell how bright it is.
 *
 * By brightness constancy (Lucas and Kanade 1981), block by block: the camera's shift is the one most of the picture agrees on, by least squares
 * weighed again and again so that blocks it does not explain count little (Holland and Welsch, "Robust regression using iteratively
 * reweighted least-squares", 1977); what it leaves of Σ∇I·(I₂ − I₁) is the motion of the rest times its contrast. Nothing of it depends on
 * where in the picture a thing is, so that of one that goes on evenly it stays the same.
 */
export function measureMovers({ fine, coarse }: BothGradients, { values }: Cells): Movers {
  const scales = [fine, coarse].map((gradients) => movement(slopesOfBlocks(gradients, BLOCK)));
  let light = 0;
  for (let i = 0; i < values.length; i++) light += values[i]!;
  return {
    momentum: scales.map(({ x, y }) => [x, y]),
    amount: scales.map(({ amount }) => amount),
    level: light / values.length,
  };
}

function movement(blocks: readonly Slopes[]): { x: number; y: number; amount: number } {
  const weights = new Float64Array(blocks.length).fill(1);
  let [cx, cy] = [0, 0];
  for (let round = 0; round < ROUNDS; round++) {
    const { xx, xy, yy, xt, yt } = addUp(blocks, weights);
    const determinant = (xx + 1) * (yy + 1) - xy * xy;
    [cx, cy] = [-((yy + 1) * xt - xy * yt) / determinant, -((xx + 1) * yt - xy * xt) / determinant];
    for (let i = 0; i < blocks.length; i++) {
      const b = blocks[i]!;
      const left = b.tt + 2 * (cx * b.xt + cy * b.yt) + cx * cx * b.xx + 2 * cx * cy * b.xy + cy * cy * b.yy;
      weights[i] = 1 / (1 + Math.max(0, left) / (NOISE * BLOCK * BLOCK));
    }
  }
  let [x, y, amount] = [0, 0, 0];
  for (const b of blocks) {
    const [mx, my] = [-b.xt - b.xx * cx - b.xy * cy, -b.yt - b.xy * cx - b.yy * cy];
    x += mx;
    y += my;
    amount += Math.sqrt(mx * mx + my * my);
  }
  return { x, y, amount };
}
