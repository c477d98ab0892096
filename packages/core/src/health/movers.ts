import { type Slopes, SUMS } from './slopes.js';

/** What moves between two pictures besides the camera, and how bright the second is. */
export interface Movers {
  /** Motion of all that moves otherwise than the picture as a whole, weighed by its contrast, across and down; at the fine and the coarse scale. */
  readonly momentum: readonly (readonly [x: number, y: number])[];
  /** How much moves so, whichever way; at the same scales. */
  readonly amount: readonly number[];
  /** Mean luma of the second picture, 8-bit levels. */
  readonly level: number;
}

/** Blocks that movers are looked for in are this many cells wide and high. */
export const MOVERS_BLOCK = 5;

/** How often what the camera does is found again without the blocks that do something else. */
const ROUNDS = 3;

/** Squared brightness levels a block may be off by as noise: 4 a cell. */
const NOISE = 4 * MOVERS_BLOCK * MOVERS_BLOCK;

/**
 * What moves between two pictures, by the slopes of blocks at the fine and the coarse scale.
 *
 * By brightness constancy (Lucas and Kanade 1981), block by block: the camera's shift is the one most of the picture agrees on, by least squares
 * weighed again and again so that blocks it does not explain count little (Holland and Welsch, "Robust regression using iteratively
 * reweighted least-squares", 1977); what it leaves of Σ∇I·(I₂ − I₁) is the motion of the rest times its contrast. Nothing of it depends on
 * where in the picture a thing is, so that of one that goes on evenly it stays the same.
 */
export function moversIn(scales: readonly Slopes[], level: number): Movers {
  const found = scales.map(movement);
  return {
    momentum: found.map(({ x, y }) => [x, y]),
    amount: found.map(({ amount }) => amount),
    level,
  };
}

function movement(blocks: Slopes): { x: number; y: number; amount: number } {
  let [cx, cy] = [0, 0];
  for (let round = 0; round < ROUNDS; round++) {
    let [xx, xy, yy, xt, yt] = [1, 0, 1, 0, 0];
    for (let at = 0; at < blocks.length; at += SUMS) {
      const gxx = blocks[at]!;
      const gxy = blocks[at + 1]!;
      const gyy = blocks[at + 2]!;
      const gxt = blocks[at + 3]!;
      const gyt = blocks[at + 4]!;
      const byCamera = cx * cx * gxx + 2 * cx * cy * gxy + cy * cy * gyy;
      const left = blocks[at + 5]! + 2 * (cx * gxt + cy * gyt) + byCamera;
      const weight = round === 0 ? 1 : NOISE / (NOISE + Math.max(0, left));
      xx += weight * gxx;
      xy += weight * gxy;
      yy += weight * gyy;
      xt += weight * gxt;
      yt += weight * gyt;
    }
    const determinant = xx * yy - xy * xy;
    [cx, cy] = [-(yy * xt - xy * yt) / determinant, -(xx * yt - xy * xt) / determinant];
  }
  let [x, y, amount] = [0, 0, 0];
  for (let at = 0; at < blocks.length; at += SUMS) {
    const mx = -blocks[at + 3]! - blocks[at]! * cx - blocks[at + 1]! * cy;
    const my = -blocks[at + 4]! - blocks[at + 1]! * cx - blocks[at + 2]! * cy;
    x += mx;
    y += my;
    amount += Math.sqrt(mx * mx + my * my);
  }
  return { x, y, amount };
}
