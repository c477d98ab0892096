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

/** What is asked of a moment's blocks. */
export interface Blocks {
  /** `TERMS` sums for each, row by row; see `blockTerms` of the kernels. */
  readonly terms: Float32Array;
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
    let sum = BIAS;
    for (let i = 0; i < FEATURES; i++) sum += WEIGHTS[i]! * features[k * FEATURES + i]!;
    const share = 1 / (1 + Math.exp(-sum));
    shares[k] = share > CERTAIN ? 1 : share;
  }
  return shares;
}

/** What is measured of a block and its surroundings; see `ratiosOf`. */
const [GAINED, MISFIT, DISTRUST, BOWED, JERKED, LOOSE, LOOSE_APART, SPREAD, HIDDEN, CHANGED, BEYOND, FAR_BEYOND] = [
  ...[0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11],
] as const;
const NEAR_BY = [GAINED, DISTRUST, BOWED, JERKED, LOOSE, MISFIT, SPREAD, HIDDEN, CHANGED, LOOSE_APART];
/** How far around a block is looked, in blocks, and at what: at itself, near it, in its region. */
const REACHES = [
  { reach: 0, looksAt: [DISTRUST, MISFIT, HIDDEN, LOOSE, LOOSE_APART] },
  { reach: 2, looksAt: NEAR_BY },
  { reach: 6, looksAt: [...NEAR_BY, BEYOND, FAR_BEYOND] },
];
/** Numbers of a block that the regression sees. */
export const FEATURES = REACHES.reduce((sum, { looksAt }) => sum + looksAt.length, 2);

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
export function choiceFeatures({ terms, columns, rows, fraction, around }: Blocks): Float32Array {
  const out = new Float32Array(columns * rows * FEATURES);
  const ratios = new Float64Array(FAR_BEYOND + 1);
  let first = 0;
  for (const { reach, looksAt } of REACHES) {
    const sums = surroundings(terms, columns, rows, reach);
    for (let k = 0; k < columns * rows; k++) {
      ratiosOf(sums, k * TERMS, around, ratios);
      for (let i = 0; i < looksAt.length; i++) out[k * FEATURES + first + i] = ratios[looksAt[i]!]!;
    }
    first += looksAt.length;
  }
  for (let k = 0; k < columns * rows; k++) {
    out[k * FEATURES + first] = around / 2;
    out[k * FEATURES + first + 1] = 4 * fraction * (1 - fraction);
  }
  return out;
}

/** Half the logarithm of a ratio of two squares, each with `FLOOR` added: noise is no evidence. */
const ratio = (one: number, other: number) => Math.log((one + FLOOR) / (other + FLOOR)) / 2;
const FLOOR = 2;
const size = (square: number) => Math.log(1 + square) / 4;

function ratiosOf(sums: Float32Array, at: number, around: number, out: Float64Array): void {
  const count = sums[at]!;
  const along = sums[at + 2]! / Math.max(1e-6, sums[at + 1]!);
  const unmoved = sums[at + 3]! / count;
  const apart = sums[at + 4]! / count;
  const loose = sums[at + 7]! / count;
  // The two pictures along the motion against unmoved, and against what motion changes.
  out[GAINED] = ratio(along, unmoved);
  out[MISFIT] = ratio(along, apart);
  out[DISTRUST] = sums[at + 5]! / count;
  out[BOWED] = around === 0 ? 0 : ratio(sums[at + 8]! / count, apart);
  out[JERKED] = around < 2 ? 0 : ratio(sums[at + 9]! / count, apart);
  out[LOOSE] = ratio(loose, sums[at + 6]! / count);
  out[LOOSE_APART] = ratio(loose, apart);
  out[SPREAD] = size((4 * sums[at + 11]!) / count);
  out[HIDDEN] = 1 - sums[at + 1]! / count;
  out[CHANGED] = size((4 * sums[at + 10]!) / count);
  // What motion makes differs from the plain blend by as much as the pictures from each other, or by more.
  out[BEYOND] = ratio(apart, unmoved);
  out[FAR_BEYOND] = Math.max(0, out[BEYOND] + 0.25);
}

/** Each block's terms with those around it, weights falling evenly to 0 beyond `reach` blocks. */
function surroundings(terms: Float32Array, columns: number, rows: number, reach: number): Float32Array {
  if (reach === 0) return terms;
  return blurred(blurred(terms, columns, rows, reach, 1, columns), rows, columns, reach, columns, 1);
}

/**
 * Along one direction: `count` blocks `step` apart in each of `lines` lines that are `next` apart. From one block to the next the sum
 * grows by those ahead and shrinks by those behind, so that a long reach costs no more than a short one.
 */
function blurred(
  terms: Float32Array,
  count: number,
  lines: number,
  reach: number,
  step: number,
  next: number,
): Float32Array {
  const out = new Float32Array(terms.length);
  const [sum, ahead, behind] = [new Float64Array(TERMS), new Float64Array(TERMS), new Float64Array(TERMS)];
  for (let line = 0; line < lines; line++) {
    const at = (k: number) => (line * next + k * step) * TERMS;
    sum.fill(0);
    ahead.fill(0);
    behind.fill(0);
    // As if it stood just before the first block.
    for (let k = 0; k <= reach && k < count; k++)
      for (let term = 0; term < TERMS; term++) {
        ahead[term]! += terms[at(k) + term]!;
        sum[term]! += (reach - k) * terms[at(k) + term]!;
      }
    for (let k = 0; k < count; k++) {
      const [here, enters, leaves] = [at(k), at(k + reach + 1), at(k - reach - 1)];
      for (let term = 0; term < TERMS; term++) {
        sum[term]! += ahead[term]! - behind[term]!;
        out[here + term] = sum[term]!;
        const own = terms[here + term]!;
        ahead[term]! += (k + reach + 1 < count ? terms[enters + term]! : 0) - own;
        behind[term]! += own - (k - reach - 1 >= 0 ? terms[leaves + term]! : 0);
      }
    }
  }
  return out;
}
