/**
 * Sums over blocks of cells of two pictures, of each block six one after another: of ∇I∇Iᵀ (xx, xy, yy), of ∇I·(I₂ − I₁) (xt, yt) and of (I₂ − I₁)² (tt).
 */
export type Slopes = Float32Array;

/** How many sums there are of a block. */
export const SUMS = 6;

/** The sums of several blocks together, each with its weight. */
export function addUp(blocks: Slopes, weights?: ArrayLike<number>) {
  let [xx, xy, yy, xt, yt] = [0, 0, 0, 0, 0];
  for (let i = 0, at = 0; at < blocks.length; i++, at += SUMS) {
    const weight = weights ? weights[i]! : 1;
    xx += weight * blocks[at]!;
    xy += weight * blocks[at + 1]!;
    yy += weight * blocks[at + 2]!;
    xt += weight * blocks[at + 3]!;
    yt += weight * blocks[at + 4]!;
  }
  return { xx, xy, yy, xt, yt };
}
