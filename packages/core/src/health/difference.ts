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

/** Means of square cells of a picture, which coding noise moves little. */
export interface Cells {
  readonly columns: number;
  readonly rows: number;
  readonly values: Float32Array;
}

/** A picture reduced for comparing: cells of 4 × 4 and 8 × 8 samples, and its histogram. */
export interface Reduced {
  readonly fine: Cells;
  readonly coarse: Cells;
  /** Cells of 16 × 16, by which far motion is followed. */
  readonly rough: Cells;
  /** Shares of 32 luma ranges, each 8 levels wide. */
  readonly histogram: Float32Array;
}

/** Side of a fine cell, samples. */
export const CELL = 4;

/** A block is this many cells wide and high. */
const BLOCK = 6;

const STRONGEST = 5;

/** How many cells a picture has across and down, which are squares of `CELL` samples: what is left at its edges does not count. */
export const cellsOf = (width: number, height: number): Pick<Cells, 'columns' | 'rows'> => ({
  columns: Math.max(1, Math.floor(width / CELL)),
  rows: Math.max(1, Math.floor(height / CELL)),
});

/** Reduces a picture's luma (8 bit, `width × height`, the first plane of its data). */
export function reduceLuma(data: Uint8Array, width: number, height: number): Reduced {
  const { columns, rows } = cellsOf(width, height);
  const values = new Float32Array(columns * rows);
  const sums = new Int32Array(columns);
  for (let row = 0; row < rows; row++) {
    sums.fill(0);
    for (let y = row * CELL; y < Math.min(height, (row + 1) * CELL); y++) addLine(sums, data, y * width, width);
    for (let column = 0; column < columns; column++) values[row * columns + column] = sums[column]! / (CELL * CELL);
  }
  return reduceCells({ columns, rows, values });
}

/** A picture of which there are the means of its fine cells already. */
export function reduceCells(fine: Cells): Reduced {
  const histogram = new Float32Array(32);
  for (const value of fine.values) histogram[value >> 3]! += 1 / fine.values.length;
  const coarse = halved(fine);
  return { fine, coarse, rough: halved(coarse), histogram };
}

/** Adds a line of a picture to the sums of the cells it runs through. */
function addLine(sums: Int32Array, data: Uint8Array, line: number, width: number): void {
  if (width < CELL) {
    for (let x = 0; x < width; x++) sums[0]! += data[line + x]!;
    return;
  }
  for (let column = 0, at = line; column < sums.length; column++, at += CELL)
    sums[column]! += data[at]! + data[at + 1]! + data[at + 2]! + data[at + 3]!;
}

function halved({ columns, rows, values }: Cells): Cells {
  const [across, down] = [Math.max(1, columns >> 1), Math.max(1, rows >> 1)];
  const half = new Float32Array(across * down);
  for (let row = 0; row < down; row++)
    for (let column = 0; column < across; column++) {
      const at = 2 * row * columns + 2 * column;
      half[row * across + column] =
        (values[at]! + (values[at + 1] ?? 0) + (values[at + columns] ?? 0) + (values[at + columns + 1] ?? 0)) / 4;
    }
  return { columns: across, rows: down, values: half };
}

export function compareReduced(a: Reduced, b: Reduced): FrameDifference {
  let total = 0;
  for (let i = 0; i < a.fine.values.length; i++) {
    const apart = b.fine.values[i]! - a.fine.values[i]!;
    total += apart < 0 ? -apart : apart;
  }
  let histogram = 0;
  for (let i = 0; i < 32; i++) {
    const apart = b.histogram[i]! - a.histogram[i]!;
    histogram += (apart < 0 ? -apart : apart) / 2;
  }
  const mean = total / a.fine.values.length;
  return {
    mean,
    motion: Math.max(motion(a.fine, b.fine), motion(a.coarse, b.coarse)),
    shift: shift(a.fine, b.fine),
    histogram,
    unlike: mean < ALIKE_MEAN ? 0 : unlike(a, b),
    returned: false,
  };
}

/** Pictures that differ by less are of one scene, and are not looked at more closely. */
const ALIKE_MEAN = 4;

/** Side of a block of structure, in cells, and how far it is looked for. */
const PART = 6;

const REACH = { fine: 3, coarse: 5, rough: 8 };

/** Less than this is left by motion alone. */
const WELL_EXPLAINED = 0.08;

/** Levels a cell's structure may be noise by. */
const GRAIN = 0.8;

/**
 * How much of a picture's structure is not found in another one: every block, less its mean (light may change), is looked for around where it
 * was; what is left of its contrast where it fits best. At three scales, and what is explained best counts: near and fine, far and rough.
 * Where it is `enough` or more, how much more is not found out.
 */
export function unlike(a: Reduced, b: Reduced, enough = 1): number {
  let least = 1;
  // What one scale explains well needs no other; the rough one is a sixteenth of the fine one's work.
  for (const scale of ['rough', 'coarse', 'fine'] as const) {
    least = Math.min(least, unmatched(a[scale], b[scale], REACH[scale], Math.min(least, enough)));
    if (least < WELL_EXPLAINED) break;
  }
  return least;
}

/** What blocks of cells are compared by. */
interface Structure {
  /** Sums of 3 × 3 cells, of which a block has four, each kept at its first cell; where none fits, 0. */
  readonly quarters: Float64Array;
  /** By block: how far its cells are from their mean, added up. */
  readonly contrasts: Float64Array;
  /** Of all blocks. */
  readonly contrast: number;
}

const QUARTER = PART / 2;

/** Cells of a block. */
const COUNT = PART * PART;

const structures = new WeakMap<Cells, Structure>();

function structureOf(cells: Cells): Structure {
  const known = structures.get(cells);
  if (known) return known;
  const { columns, rows, values } = cells;
  const across = new Float64Array(columns * rows);
  const quarters = new Float64Array(columns * rows);
  for (let row = 0; row < rows; row++)
    for (let at = row * columns; at + QUARTER <= (row + 1) * columns; at++)
      across[at] = values[at]! + values[at + 1]! + values[at + 2]!;
  for (let at = 0; at + (QUARTER - 1) * columns < across.length; at++)
    quarters[at] = across[at]! + across[at + columns]! + across[at + 2 * columns]!;
  const contrasts = new Float64Array(Math.floor(columns / PART) * Math.floor(rows / PART));
  let [block, contrast] = [0, 0];
  for (let top = 0; top + PART <= rows; top += PART)
    for (let left = 0; left + PART <= columns; left += PART) {
      const own = contrastOf(values, top * columns + left, columns, meanOf(quarters, top * columns + left, columns));
      contrasts[block++] = own;
      contrast += own;
    }
  const structure = { quarters, contrasts, contrast };
  structures.set(cells, structure);
  return structure;
}

/** Mean of the block that begins at a cell. */
function meanOf(quarters: Float64Array, at: number, columns: number): number {
  const below = at + QUARTER * columns;
  return (quarters[at]! + quarters[at + QUARTER]! + quarters[below]! + quarters[below + QUARTER]!) / COUNT;
}

function contrastOf(values: Float32Array, at: number, columns: number, mean: number): number {
  let contrast = 0;
  for (let y = 0; y < PART; y++, at += columns)
    for (let x = 0; x < PART; x++) contrast += Math.abs(values[at + x]! - mean);
  return contrast;
}

/** Places a block is looked for at, nearest first. */
const places = new Map<number, readonly (readonly [x: number, y: number])[]>();

function placesWithin(reach: number): readonly (readonly [x: number, y: number])[] {
  const known = places.get(reach);
  if (known) return known;
  const side = Array.from({ length: 2 * reach + 1 }, (_, i) => i - reach);
  const all = side.flatMap((y) => side.map((x) => [x, y] as const));
  all.sort(([ax, ay], [bx, by]) => ax * ax + ay * ay - bx * bx - by * by);
  places.set(reach, all);
  return all;
}

/**
 * The share of structure that is left where every block fits best; pictures smaller than a block are compared as they stand. Given up once it is
 * `enough`.
 *
 * A place is only looked at closely where the sums of the block's quarters, less its mean, are not further apart already than the whole of it is at
 * the best place so far (Li and Salari, "Successive elimination algorithm for motion estimation", 1995), and the place where its neighbour
 * fitted best comes first; both leave the result as it is.
 */
function unmatched(a: Cells, b: Cells, reach: number, enough: number): number {
  const { columns, rows } = b;
  if (columns < PART || rows < PART) return standingApart(a.values, b.values);
  const [{ quarters }, own] = [structureOf(a), structureOf(b)];
  const all = own.contrast + GRAIN * 2 * b.values.length;
  const noise = GRAIN * COUNT;
  const part = new Float64Array(COUNT);
  const [right, below] = [QUARTER, QUARTER * columns];
  const offsets = placesWithin(reach);
  let [left, block, lastX, lastY] = [0, 0, 0, 0];
  for (let top = 0; top + PART <= rows; top += PART)
    for (let start = 0; start + PART <= columns; start += PART) {
      let best = own.contrasts[block++]!;
      // Less than noise counts as nothing, wherever it fits.
      if (best <= noise) continue;
      const here = top * columns + start;
      const mean = meanOf(own.quarters, here, columns);
      for (let y = 0; y < PART; y++)
        for (let x = 0; x < PART; x++) part[y * PART + x] = b.values[here + y * columns + x]! - mean;
      const q0 = own.quarters[here]!;
      const q1 = own.quarters[here + right]!;
      const q2 = own.quarters[here + below]!;
      const q3 = own.quarters[here + below + right]!;
      let [dx, dy] = [lastX, lastY];
      for (let i = -1; i < offsets.length && best > noise; i++) {
        if (i >= 0) [dx, dy] = offsets[i]!;
        if (top + dy < 0 || top + dy + PART > rows || start + dx < 0 || start + dx + PART > columns) continue;
        const at = here + dy * columns + dx;
        const p0 = quarters[at]! - q0;
        const p1 = quarters[at + right]! - q1;
        const p2 = quarters[at + below]! - q2;
        const p3 = quarters[at + below + right]! - q3;
        const shared = (p0 + p1 + p2 + p3) / 4;
        const least = Math.abs(p0 - shared) + Math.abs(p1 - shared) + Math.abs(p2 - shared) + Math.abs(p3 - shared);
        if (least >= best) continue;
        const apart = apartWithin(a.values, at, columns, part, mean + (4 * shared) / COUNT, best);
        if (apart >= best) continue;
        best = apart;
        [lastX, lastY] = [dx, dy];
      }
      left += Math.max(0, best - noise);
      if (left >= enough * all) return left / all;
    }
  return left / all;
}

/** The share of a small picture's structure that is not where it was. */
function standingApart(a: Float32Array, b: Float32Array): number {
  const mean = (values: Float32Array) => values.reduce((sum, value) => sum + value, 0) / values.length;
  const [meanA, meanB] = [mean(a), mean(b)];
  let [apart, own] = [0, 0];
  for (let i = 0; i < b.length; i++) {
    apart += Math.abs(a[i]! - meanA - b[i]! + meanB);
    own += Math.abs(b[i]! - meanB);
  }
  return Math.max(0, Math.min(apart, own) - GRAIN * b.length) / (own + GRAIN * 2 * b.length);
}

/** How far a block's structure is from that of the cells at `at`, whose mean this is; given up, and then too large, once it is `most`. */
function apartWithin(
  values: Float32Array,
  at: number,
  columns: number,
  part: Float64Array,
  mean: number,
  most: number,
): number {
  let apart = 0;
  for (let y = 0, i = 0; y < PART && apart < most; y++, at += columns)
    for (let x = 0; x < PART; x++, i++) {
      const off = values[at + x]! - mean - part[i]!;
      apart += off < 0 ? -off : off;
    }
  return apart;
}

/**
 * How much of the difference a shift of the picture explains, in its strongest blocks: by least squares on brightness constancy (Lucas and
 * Kanade, "An Iterative Image Registration Technique", 1981) the part bᵀA⁻¹b of a block's squared difference, with A the
 * sum of ∇I∇Iᵀ and b that of ∇I·(I₂ − I₁). Noise has no such part, or a small one.
 */
function motion(a: Cells, b: Cells): number {
  const { columns, rows } = a;
  const strengths: number[] = [];
  for (let top = 1; top + BLOCK < rows; top += BLOCK)
    for (let left = 1; left + BLOCK < columns; left += BLOCK) strengths.push(blockMotion(a, b, left, top));
  strengths.sort((x, y) => y - x);
  const strongest = strengths.slice(0, STRONGEST);
  return strongest.length === 0
    ? 0
    : Math.sqrt(strongest.reduce((s, v) => s + v, 0) / strongest.length / (BLOCK * BLOCK));
}

/**
 * How far one shift takes a picture as a whole to the other, in shares of its width: the least-squares step of all its cells together, in which
 * noise cancels. Small ones are measured, large ones underestimated.
 */
function shift(a: Cells, b: Cells): readonly [x: number, y: number] {
  const { columns, rows } = a;
  const { xx, xy, yy, xt, yt } = slopes(a, b, { left: 1, top: 1, right: columns - 1, bottom: rows - 1 });
  const steady = columns * rows;
  const scale = -1 / (((xx + steady) * (yy + steady) - xy * xy) * columns);
  return [((yy + steady) * xt - xy * yt) * scale, ((xx + steady) * yt - xy * xt) * scale];
}

function blockMotion(a: Cells, b: Cells, left: number, top: number): number {
  const { xx, xy, yy, xt, yt } = slopes(a, b, { left, top, right: left + BLOCK, bottom: top + BLOCK });
  // Without structure to shift there is no motion to see.
  const steady = BLOCK * BLOCK;
  const determinant = (xx + steady) * (yy + steady) - xy * xy;
  return ((yy + steady) * xt * xt - 2 * xy * xt * yt + (xx + steady) * yt * yt) / determinant;
}

/** Sums over a rectangle of cells: of ∇I∇Iᵀ, of ∇I·(I₂ − I₁), and of (I₂ − I₁)². */
export interface Slopes {
  readonly xx: number;
  readonly xy: number;
  readonly yy: number;
  readonly xt: number;
  readonly yt: number;
  readonly tt: number;
}

/** Those sums; none of the cells lies at the edge. */
export function slopes(
  a: Cells,
  b: Cells,
  { left, top, right, bottom }: { left: number; top: number; right: number; bottom: number },
): Slopes {
  const { columns } = a;
  let [xx, xy, yy, xt, yt, tt] = [0, 0, 0, 0, 0, 0];
  for (let row = top; row < bottom; row++)
    for (let column = left; column < right; column++) {
      const i = row * columns + column;
      const gx = (a.values[i + 1]! - a.values[i - 1]! + b.values[i + 1]! - b.values[i - 1]!) / 4;
      const gy =
        (a.values[i + columns]! - a.values[i - columns]! + b.values[i + columns]! - b.values[i - columns]!) / 4;
      const change = b.values[i]! - a.values[i]!;
      xx += gx * gx;
      xy += gx * gy;
      yy += gy * gy;
      xt += gx * change;
      yt += gy * change;
      tt += change * change;
    }
  return { xx, xy, yy, xt, yt, tt };
}
