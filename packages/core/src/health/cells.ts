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
  const counts = new Int32Array(32);
  for (let i = 0; i < fine.values.length; i++) counts[fine.values[i]! >> 3]!++;
  const coarse = halved(fine);
  const histogram = Float32Array.from(counts, (count) => count / fine.values.length);
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
  if (columns < 2 || rows < 2) return { columns, rows, values };
  const [across, down] = [columns >> 1, rows >> 1];
  const half = new Float32Array(across * down);
  for (let row = 0; row < down; row++)
    for (let column = 0; column < across; column++) {
      const at = 2 * row * columns + 2 * column;
      half[row * across + column] =
        (values[at]! + values[at + 1]! + values[at + columns]! + values[at + columns + 1]!) / 4;
    }
  return { columns: across, rows: down, values: half };
}
