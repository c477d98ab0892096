/**
 * Sums over blocks of cells of two pictures, of each block six one after another: of ∇I∇Iᵀ (xx, xy, yy), of ∇I·(I₂ − I₁) (xt, yt) and of (I₂ − I₁)² (tt).
 */
export type Slopes = Float32Array;

/** How many sums there are of a block. */
export const SUMS = 6;

/** The sums of all blocks together. */
export function addUp(blocks: Slopes) {
  let [xx, xy, yy, xt, yt] = [0, 0, 0, 0, 0];
  for (let at = 0; at < blocks.length; at += SUMS) {
    xx += blocks[at]!;
    xy += blocks[at + 1]!;
    yy += blocks[at + 2]!;
    xt += blocks[at + 3]!;
    yt += blocks[at + 4]!;
  }
  return { xx, xy, yy, xt, yt };
}
