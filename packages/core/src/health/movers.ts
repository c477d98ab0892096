import { type Cells, type Reduced, type Slopes, slopes } from './difference.js';

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
 * By brightness constancy (Lucas and Kanade 1981), block by block: the camera's shift is the one most of the picture agrees on, by least squares
 * weighed again and again so that blocks it does not explain count little (Holland and Welsch, "Robust regression using iteratively
 * reweighted least-squares", 1977); what it leaves of Σ∇I·(I₂ − I₁) is the motion of the rest times its contrast. Nothing of it depends on
 * where in the picture a thing is, so that of one that goes on evenly it stays the same.
 */
export function measureMovers(before: Reduced, now: Reduced): Movers {
  const scales = (['fine', 'coarse'] as const).map((scale) => movement(blocksOf(before[scale], now[scale])));
  const { values } = now.coarse;
  return {
    momentum: scales.map(({ x, y }) => [x, y]),
    amount: scales.map(({ amount }) => amount),
    level: values.reduce((sum, value) => sum + value, 0) / values.length,
  };
}

function movement(blocks: readonly Slopes[]): { x: number; y: number; amount: number } {
  let weights = blocks.map(() => 1);
  let [cx, cy] = [0, 0];
  for (let round = 0; round < ROUNDS; round++) {
    const sum = (of: (block: Slopes) => number) => blocks.reduce((all, block, i) => all + weights[i]! * of(block), 0);
    const [xx, xy, yy, xt, yt] = [
      sum((b) => b.xx) + 1,
      sum((b) => b.xy),
      sum((b) => b.yy) + 1,
      sum((b) => b.xt),
      sum((b) => b.yt),
    ];
    const determinant = xx * yy - xy * xy;
    [cx, cy] = [-(yy * xt - xy * yt) / determinant, -(xx * yt - xy * xt) / determinant];
    weights = blocks.map(({ xx: a, xy: b, yy: c, xt: d, yt: e, tt }) => {
      const left = tt + 2 * (cx * d + cy * e) + cx * cx * a + 2 * cx * cy * b + cy * cy * c;
      return 1 / (1 + Math.max(0, left) / (NOISE * BLOCK * BLOCK));
    });
  }
  let [x, y, amount] = [0, 0, 0];
  for (const b of blocks) {
    const [mx, my] = [-b.xt - b.xx * cx - b.xy * cy, -b.yt - b.xy * cx - b.yy * cy];
    x += mx;
    y += my;
    amount += Math.hypot(mx, my);
  }
  return { x, y, amount };
}

function blocksOf(a: Cells, b: Cells): Slopes[] {
  const found: Slopes[] = [];
  for (let top = 1; top + BLOCK < a.rows; top += BLOCK)
    for (let left = 1; left + BLOCK < a.columns; left += BLOCK)
      found.push(slopes(a, b, { left, top, right: left + BLOCK, bottom: top + BLOCK }));
  return found;
}
