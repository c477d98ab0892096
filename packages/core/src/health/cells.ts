/** Side of the square cells whose means a picture is looked at by, samples; coding noise moves these little. */
const CELL = 4;

/** A picture that fits into this has cells of that side; of a larger one they are larger, so that as much is seen in either. */
const USUAL = { width: 960, height: 540 };

/** How a picture is divided into cells: their side in samples, and how many there are across and down. What is left at its edges does not count. */
export interface CellLayout {
  readonly side: number;
  readonly columns: number;
  readonly rows: number;
}

export function cellsOf(width: number, height: number): CellLayout {
  const side = Math.max(CELL, Math.round(CELL * Math.max(width / USUAL.width, height / USUAL.height)));
  return { side, columns: Math.max(1, Math.floor(width / side)), rows: Math.max(1, Math.floor(height / side)) };
}
