import type { Cells } from './cells.js';

/** How brightness changes from cell to cell, across and down, and from one picture to the next, at every cell but those at the edge. */
export interface Gradients {
  readonly columns: number;
  readonly rows: number;
  readonly across: Float32Array;
  readonly down: Float32Array;
  readonly change: Float32Array;
}

/** Of two pictures: slopes are the mean of both. */
export function gradientsOf({ columns, rows, values: before }: Cells, { values: now }: Cells): Gradients {
  const across = new Float32Array(columns * rows);
  const down = new Float32Array(columns * rows);
  const change = new Float32Array(columns * rows);
  for (let row = 1; row < rows - 1; row++)
    for (let i = row * columns + 1; i < (row + 1) * columns - 1; i++) {
      across[i] = (before[i + 1]! - before[i - 1]! + now[i + 1]! - now[i - 1]!) / 4;
      down[i] = (before[i + columns]! - before[i - columns]! + now[i + columns]! - now[i - columns]!) / 4;
      change[i] = now[i]! - before[i]!;
    }
  return { columns, rows, across, down, change };
}

/** Sums over a rectangle of cells: of ∇I∇Iᵀ, of ∇I·(I₂ − I₁), and of (I₂ − I₁)². */
export interface Slopes {
  xx: number;
  xy: number;
  yy: number;
  xt: number;
  yt: number;
  tt: number;
}

/** Those sums of all whole blocks of `size × size` cells, row by row; none of their cells lies at the edge. */
export function slopesOfBlocks({ columns, rows, across, down, change }: Gradients, size: number): Slopes[] {
  const found: Slopes[] = [];
  for (let top = 1; top + size < rows; top += size)
    for (let left = 1; left + size < columns; left += size) {
      let xx = 0;
      let xy = 0;
      let yy = 0;
      let xt = 0;
      let yt = 0;
      let tt = 0;
      for (let row = top; row < top + size; row++)
        for (let i = row * columns + left; i < row * columns + left + size; i++) {
          const gx = across[i]!;
          const gy = down[i]!;
          const by = change[i]!;
          xx += gx * gx;
          xy += gx * gy;
          yy += gy * gy;
          xt += gx * by;
          yt += gy * by;
          tt += by * by;
        }
      found.push({ xx, xy, yy, xt, yt, tt });
    }
  return found;
}

/** The sums of several together, each with its weight. */
export function addUp(blocks: readonly Slopes[], weights?: ArrayLike<number>): Slopes {
  const total = { xx: 0, xy: 0, yy: 0, xt: 0, yt: 0, tt: 0 };
  for (let i = 0; i < blocks.length; i++) {
    const block = blocks[i]!;
    const weight = weights ? weights[i]! : 1;
    total.xx += weight * block.xx;
    total.xy += weight * block.xy;
    total.yy += weight * block.yy;
    total.xt += weight * block.xt;
    total.yt += weight * block.yt;
    total.tt += weight * block.tt;
  }
  return total;
}
