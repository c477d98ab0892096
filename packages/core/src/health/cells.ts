/** Side of the square cells whose means a picture is looked at by, samples; coding noise moves these little. */
export const CELL = 4;

/** How many cells a picture has across and down: what is left at its edges does not count. */
export const cellsOf = (width: number, height: number): { readonly columns: number; readonly rows: number } => ({
  columns: Math.max(1, Math.floor(width / CELL)),
  rows: Math.max(1, Math.floor(height / CELL)),
});
