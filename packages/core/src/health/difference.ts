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

const CELL = 4;

/** A block is this many cells wide and high. */
const BLOCK = 6;

const STRONGEST = 5;

/** Reduces a picture's luma (8 bit, `width × height`, the first plane of its data). */
export function reduceLuma(data: Uint8Array, width: number, height: number): Reduced {
  const columns = Math.max(1, Math.floor(width / CELL));
  const rows = Math.max(1, Math.floor(height / CELL));
  const values = new Float32Array(columns * rows);
  const sums = new Int32Array(columns);
  for (let row = 0; row < rows; row++) {
    sums.fill(0);
    for (let y = row * CELL; y < Math.min(height, (row + 1) * CELL); y++) addLine(sums, data, y * width, width);
    for (let column = 0; column < columns; column++) values[row * columns + column] = sums[column]! / (CELL * CELL);
  }
  const histogram = new Float32Array(32);
  for (const value of values) histogram[value >> 3]! += 1 / values.length;
  const fine = { columns, rows, values };
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
 */
export function unlike(a: Reduced, b: Reduced): number {
  let least = 1;
  // What one scale explains well needs no other; the rough one is a sixteenth of the fine one's work.
  for (const scale of ['rough', 'coarse', 'fine'] as const) {
    least = Math.min(least, unmatched(a[scale], b[scale], REACH[scale]));
    if (least < WELL_EXPLAINED) break;
  }
  return least;
}

const summed = new WeakMap<Cells, Float64Array>();

/** Sums of all cells above and to the left, one row and column more than there are (Crow, "Summed-area tables for texture mapping", 1984). */
function sumsOf(cells: Cells): Float64Array {
  const known = summed.get(cells);
  if (known) return known;
  const { columns, rows, values } = cells;
  const sums = new Float64Array((columns + 1) * (rows + 1));
  for (let row = 0; row < rows; row++) {
    let line = 0;
    for (let column = 0; column < columns; column++) {
      line += values[row * columns + column]!;
      sums[(row + 1) * (columns + 1) + column + 1] = sums[row * (columns + 1) + column + 1]! + line;
    }
  }
  summed.set(cells, sums);
  return sums;
}

function unmatched(a: Cells, b: Cells, reach: number): number {
  const { columns, rows } = b;
  const [height, width] = [Math.min(PART, rows), Math.min(PART, columns)];
  const count = width * height;
  const part = new Float32Array(count);
  const [sumsA, sumsB] = [sumsOf(a), sumsOf(b)];
  const meanAt = (sums: Float64Array, left: number, top: number) => {
    const [above, below] = [top * (columns + 1) + left, (top + height) * (columns + 1) + left];
    return (sums[below + width]! - sums[below]! - sums[above + width]! + sums[above]!) / count;
  };
  let [left, contrast] = [0, 0];
  for (let top = 0; top + height <= rows; top += height)
    for (let start = 0; start + width <= columns; start += width) {
      const mean = meanAt(sumsB, start, top);
      let own = 0;
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const value = b.values[(top + y) * columns + start + x]! - mean;
          part[y * width + x] = value;
          own += value < 0 ? -value : value;
        }
      let best = own;
      for (let dy = -reach; dy <= reach; dy++) {
        const from = top + dy;
        if (from < 0 || from + height > rows) continue;
        for (let dx = -reach; dx <= reach; dx++) {
          const at = start + dx;
          if (at < 0 || at + width > columns) continue;
          const other = meanAt(sumsA, at, from);
          let apart = 0;
          for (let y = 0; y < height && apart < best; y++)
            for (let x = 0; x < width; x++) {
              const off = a.values[(from + y) * columns + at + x]! - other - part[y * width + x]!;
              apart += off < 0 ? -off : off;
            }
          if (apart < best) best = apart;
        }
      }
      left += Math.max(0, best - GRAIN * count);
      contrast += own;
    }
  return left / (contrast + GRAIN * 2 * b.values.length);
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
