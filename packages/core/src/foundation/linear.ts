/** Dense linear algebra for a handful of unknowns: Gaussian elimination with partial pivoting (Golub & Van Loan, Matrix Computations, §3.4). */

export type Matrix = readonly Float64Array[];

/** Solves A·x = b; `undefined` when A is singular to working precision. A is n×n, b has n entries; neither is changed. */
export function solveLinear(a: Matrix, b: ArrayLike<number>): Float64Array | undefined {
  const n = a.length;
  const rows = a.map((row, i) => Float64Array.from([...row, b[i]!]));
  for (let column = 0; column < n; column++) {
    let pivot = column;
    for (let i = column + 1; i < n; i++) if (Math.abs(rows[i]![column]!) > Math.abs(rows[pivot]![column]!)) pivot = i;
    const top = rows[pivot]!;
    if (Math.abs(top[column]!) < 1e-13) return undefined;
    [rows[column], rows[pivot]] = [top, rows[column]!];
    for (let i = column + 1; i < n; i++) {
      const factor = rows[i]![column]! / top[column]!;
      if (factor !== 0) for (let j = column; j <= n; j++) rows[i]![j]! -= factor * top[j]!;
    }
  }
  const x = new Float64Array(n);
  for (let i = n - 1; i >= 0; i--) {
    let sum = rows[i]![n]!;
    for (let j = i + 1; j < n; j++) sum -= rows[i]![j]! * x[j]!;
    x[i] = sum / rows[i]![i]!;
  }
  return x;
}

/** The solutions of A·x = b as `particular + basis·z`. */
export interface AffineSet {
  readonly particular: Float64Array;
  /** Columns that span the null space; empty when the solution is the only one. */
  readonly basis: Matrix;
}

/**
 * All solutions of A·x = b (m×n) by reduction to echelon form with complete row choice; `undefined` without any.
 * The basis is the one of the free unknowns: each is 1 in its own column.
 */
export function affineSolutions(a: Matrix, b: ArrayLike<number>, n: number): AffineSet | undefined {
  const rows = a.map((row, i) => {
    const both = new Float64Array(n + 1);
    both.set(row);
    both[n] = b[i]!;
    return both;
  });
  let scale = 1e-300;
  for (const row of a) for (let j = 0; j < n; j++) scale = Math.max(scale, Math.abs(row[j]!));
  const pivots: number[] = [];
  let rank = 0;
  for (let column = 0; column < n && rank < rows.length; column++) {
    let pivot = rank;
    for (let i = rank + 1; i < rows.length; i++)
      if (Math.abs(rows[i]![column]!) > Math.abs(rows[pivot]![column]!)) pivot = i;
    if (Math.abs(rows[pivot]![column]!) < 1e-11 * scale) continue;
    [rows[rank], rows[pivot]] = [rows[pivot]!, rows[rank]!];
    const top = rows[rank]!;
    const lead = top[column]!;
    for (let j = column; j <= n; j++) top[j]! /= lead;
    for (let i = 0; i < rows.length; i++) {
      const row = rows[i]!;
      const factor = row[column]!;
      if (i !== rank && factor !== 0) for (let j = column; j <= n; j++) row[j]! -= factor * top[j]!;
    }
    pivots.push(column);
    rank++;
  }
  let largest = 1;
  for (let i = 0; i < b.length; i++) largest = Math.max(largest, Math.abs(b[i]!));
  for (let i = rank; i < rows.length; i++) if (Math.abs(rows[i]![n]!) > 1e-9 * largest) return undefined;
  const particular = new Float64Array(n);
  pivots.forEach((column, i) => (particular[column] = rows[i]![n]!));
  const basis: Float64Array[] = [];
  for (let free = 0; free < n; free++) {
    if (pivots.includes(free)) continue;
    const direction = new Float64Array(n);
    direction[free] = 1;
    for (let i = 0; i < rank; i++) direction[pivots[i]!] = -rows[i]![free]!;
    basis.push(direction);
  }
  return { particular, basis };
}
