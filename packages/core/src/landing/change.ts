import type { Smooth } from '../foundation/barrier.js';

export interface ChangeTerms {
  /** How long each free reach lasts, timeline frames. */
  readonly frames: Float64Array;
  /** Its speed before, as a magnitude. */
  readonly before: Float64Array;
  /** Pairs of free reaches that follow one another. */
  readonly neighbours: readonly (readonly [number, number])[];
  /** Free reaches next to one whose speed is kept. */
  readonly besideKept: readonly number[];
  /** Weight of smoothness against smallness, timeline frames. */
  readonly smoothing: number;
}

/**
 * How much speeds u change, and how unevenly: with rᵢ = log(uᵢ/beforeᵢ), Σ framesᵢ·rᵢ² + smoothing·Σ(rᵢ₊₁ − rᵢ)², the
 * change of a kept reach being 0. Nothing changed costs nothing.
 */
export function speedChange({ frames, before, neighbours, besideKept, smoothing }: ChangeTerms): Smooth {
  const n = frames.length;
  // In r the cost is quadratic: its matrix does not depend on u.
  const quadratic = Array.from({ length: n }, (_, i) => {
    const row = new Float64Array(n);
    row[i] = 2 * frames[i]!;
    return row;
  });
  for (const [a, b] of neighbours) {
    quadratic[a]![a]! += 2 * smoothing;
    quadratic[b]![b]! += 2 * smoothing;
    quadratic[a]![b]! -= 2 * smoothing;
    quadratic[b]![a]! -= 2 * smoothing;
  }
  for (const i of besideKept) quadratic[i]![i]! += 2 * smoothing;
  const ratios = (u: Float64Array) => u.map((x, i) => Math.log(x / before[i]!));
  const slopes = (r: Float64Array) => {
    const product = new Float64Array(n);
    for (let i = 0; i < n; i++) {
      const row = quadratic[i]!;
      for (let j = 0; j < n; j++) product[i]! += row[j]! * r[j]!;
    }
    return product;
  };
  return {
    value: (u) => {
      const r = ratios(u);
      return slopes(r).reduce((sum, g, i) => sum + (g * r[i]!) / 2, 0);
    },
    gradient: (u) => slopes(ratios(u)).map((g, i) => g / u[i]!),
    // The part that bends down far from the start is left out where it would make the step go uphill.
    hessian: (u) => {
      const g = slopes(ratios(u));
      return quadratic.map((row, i) =>
        row.map((q, j) => q / (u[i]! * u[j]!) + (i === j ? Math.max(0, -g[i]!) / (u[i]! * u[i]!) : 0)),
      );
    },
  };
}
