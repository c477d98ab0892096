import { BIAS, WEIGHTS } from './choice-weights.js';

/** Grid points across and down a block, and the numbers the kernel leaves of each; as in the assembly. */
export const BLOCK = 8;
export const TERMS = 12;
/** The blocks of a grid. */
export const blocksOf = ({ width, height }: { width: number; height: number }) => ({
  columns: Math.ceil(width / BLOCK),
  rows: Math.ceil(height / BLOCK),
});

/** Motion that is as good as certain makes the whole of a picture. */
const CERTAIN = 0.96;
/** Where motion and the plain blend make the same, to this mean square in grey levels of 8 bits, it does not matter which. */
const SAME = 0.03;

/** What is asked of a moment's blocks. */
export interface Blocks {
  /** `TERMS` sums for each, row by row; see `blockTerms` of the kernels. */
  readonly terms: Float32Array;
  /** The same with those around it, as far as `REACHES` say: near it, and in its region. */
  readonly near: Float32Array;
  readonly region: Float32Array;
  readonly columns: number;
  readonly rows: number;
  /** 0…1, how far between the two pictures. */
  readonly fraction: number;
  /** How many of the pairs around are known: 0, 1 or 2. */
  readonly around: number;
}

/**
 * The share 0…1 of every block that motion keeps of the picture; the rest is the plain blend, for places that it makes better. A logistic regression on ratios of what was measured in the block's surroundings; the weights are those that make the
 * error of drawn sequences least, see `bench/sequences/fit-choice.mjs`.
 */
export function motionShares(blocks: Blocks): Float32Array {
  const { columns, rows } = blocks;
  const features = choiceFeatures(blocks);
  const shares = new Float32Array(columns * rows);
  for (let k = 0; k < shares.length; k++) {
    if (blocks.near[k * TERMS + 4]! < SAME * blocks.near[k * TERMS]!) {
      shares[k] = 1;
      continue;
    }
    let sum = BIAS;
    for (let i = 0; i < FEATURES; i++) sum += WEIGHTS[i]! * features[k * FEATURES + i]!;
    const share = 1 / (1 + Math.exp(-sum));
    // A region may be steep where nothing moves, and a block may see little of what does.
    const borne = Math.max(borneOut(blocks.near, k * TERMS), borneOut(blocks.region, k * TERMS));
    shares[k] = borne * (share > CERTAIN ? 1 : share);
  }
  return shares;
}

/** From this ratio on a way is doubted, and from the second on not gone at all. */
const [DOUBTED, REFUSED] = [0.5, 1];
/** Mean squares of grey levels of 8 bits below which nothing is told. */
const UNTOLD = 0.3;

/**
 * 0…1: whether the pictures differ by enough for the way that is claimed. A wave of k radians a grid step and power σ² that moves by φ radians
 * differs unmoved by U = 4 σ² sin² φ/2, has the squared slope S = k² σ², and half way is off the plain blend by A = σ² (1 − cos φ/2)², so that
 * A·S / U² = k² / (16 (1 + cos φ/2)²): a sixteenth of k² where it moves by half a wave, and beyond all bounds toward a whole one, where the
 * pictures are the same and nothing has to move. Differences of neighbours see no k above 1, and motion that leaves nothing alike has 3/8 k².
 */
function borneOut(sums: Float32Array, at: number): number {
  const count = sums[at]!;
  const unmoved = sums[at + 3]! / count;
  const apart = sums[at + 4]! / count;
  const slope = sums[at + 6]! / count;
  const ratio = (apart + UNTOLD) / (unmoved ** 2 / (slope + UNTOLD) + UNTOLD);
  return Math.min(1, Math.max(0, Math.log(REFUSED / ratio) / Math.log(REFUSED / DOUBTED)));
}

/** How far around a block is looked, in blocks. */
export const REACHES = { near: 2, region: 6 } as const;
/** Numbers that are looked at of the block itself, near it, and in its region. */
const [OWN, AROUND, WIDE] = [5, 10, 12] as const;
/** Numbers of a block that the regression sees. */
export const FEATURES = OWN + AROUND + WIDE + 2;

/** What the choice says of a moment's picture as a whole. */
export interface ChoiceDoubt {
  /** 0…1: how much of what motion leaves unexplained is still in the picture. */
  readonly kept: number;
  /** What motion and the plain blend differ by where neither was chosen for certain: a mean square in grey levels of 8 bits. */
  readonly open: number;
}

/** What is blended wholly is off by this share of what both differ by, what is half and half by about this one. */
const BLENDED = 0.3;
const HALVED = 1.5;

export function choiceDoubt({ terms }: Blocks, shares: Float32Array): ChoiceDoubt {
  let [unexplained, kept, open] = [0, 0, 0];
  shares.forEach((share, k) => {
    const at = k * TERMS;
    const count = terms[at]!;
    const apart = terms[at + 4]! / count;
    const missing = (terms[at + 2]! + terms[at + 7]!) / count;
    unexplained += missing;
    kept += share * share * missing;
    open += (BLENDED * (1 - share) ** 2 + HALVED * share * (1 - share)) * apart;
  });
  return { kept: unexplained === 0 ? 1 : (kept / unexplained) ** 0.2, open: open / shares.length };
}

/** What the regression sees of every block, `FEATURES` numbers each, row by row. */
export function choiceFeatures({ terms, near, region, columns, rows, fraction, around }: Blocks): Float32Array {
  const out = new Float32Array(columns * rows * FEATURES);
  for (let k = 0; k < columns * rows; k++) {
    const [at, to] = [k * TERMS, k * FEATURES];
    lookAtOwn(terms, at, out, to);
    lookAround(near, at, around, out, to + OWN);
    const beyond = lookAround(region, at, around, out, to + OWN + AROUND);
    // What motion makes differs from the plain blend by as much as the pictures from each other, or by more.
    out[to + OWN + 2 * AROUND] = beyond;
    out[to + OWN + 2 * AROUND + 1] = Math.max(0, beyond + 0.25);
    out[to + FEATURES - 2] = around / 2;
    out[to + FEATURES - 1] = 4 * fraction * (1 - fraction);
  }
  return out;
}

/** Half the logarithm of a ratio of two squares, each with `FLOOR` added: noise is no evidence. */
const ratio = (one: number, other: number) => Math.log((one + FLOOR) / (other + FLOOR)) / 2;
const FLOOR = 2;
const size = (square: number) => Math.log(1 + square) / 4;

/** Of the block itself: distrust, misfit, what is hidden, and what is loose against its structure and what motion changes. */
function lookAtOwn(sums: Float32Array, at: number, out: Float32Array, to: number): void {
  const count = sums[at]!;
  const apart = sums[at + 4]! / count;
  const loose = sums[at + 7]! / count;
  out[to] = sums[at + 5]! / count;
  out[to + 1] = ratio(sums[at + 2]! / Math.max(1e-6, sums[at + 1]!), apart);
  out[to + 2] = 1 - sums[at + 1]! / count;
  out[to + 3] = ratio(loose, sums[at + 6]! / count);
  out[to + 4] = ratio(loose, apart);
}

/** Of a block with those around it; answers what motion changes against what differs unmoved. */
function lookAround(sums: Float32Array, at: number, around: number, out: Float32Array, to: number): number {
  const count = sums[at]!;
  const along = sums[at + 2]! / Math.max(1e-6, sums[at + 1]!);
  const unmoved = sums[at + 3]! / count;
  const apart = sums[at + 4]! / count;
  const loose = sums[at + 7]! / count;
  // The two pictures along the motion against unmoved.
  out[to] = ratio(along, unmoved);
  out[to + 1] = sums[at + 5]! / count;
  out[to + 2] = around === 0 ? 0 : ratio(sums[at + 8]! / count, apart);
  out[to + 3] = around < 2 ? 0 : ratio(sums[at + 9]! / count, apart);
  out[to + 4] = ratio(loose, sums[at + 6]! / count);
  // And against what motion changes.
  out[to + 5] = ratio(along, apart);
  out[to + 6] = size((4 * sums[at + 11]!) / count);
  out[to + 7] = 1 - sums[at + 1]! / count;
  out[to + 8] = size((4 * sums[at + 10]!) / count);
  out[to + 9] = ratio(loose, apart);
  return ratio(apart, unmoved);
}
