import fc from 'fast-check';
import { describe, expect, test } from '@jest/globals';
import { insidePoint, leastInside, type Smooth } from './barrier.js';
import { affineSolutions, solveLinear } from './linear.js';

const entry = fc.integer({ min: -9, max: 9 });

const times = (rows: readonly Float64Array[], x: Float64Array) =>
  rows.map((row) => row.reduce((sum, a, j) => sum + a * x[j]!, 0));

describe('linear equations', () => {
  test('known answers, one that needs its rows exchanged among them', () => {
    expect(solveLinear([Float64Array.of(0, 2), Float64Array.of(3, 1)], [4, 5])).toEqual(Float64Array.of(1, 2));
    expect(solveLinear([Float64Array.of(1, 2), Float64Array.of(2, 4)], [1, 2])).toBeUndefined();
  });

  test('what is solved solves', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(entry, { minLength: 4, maxLength: 4 }), { minLength: 4, maxLength: 4 }),
        fc.array(entry, { minLength: 4, maxLength: 4 }),
        (a, b) => {
          const rows = a.map((row) => Float64Array.from(row));
          const x = solveLinear(rows, b);
          fc.pre(x !== undefined && x.every((v) => Math.abs(v) < 1e4));
          times(rows, x).forEach((value, i) => expect(value).toBeCloseTo(b[i]!, 6));
        },
      ),
    );
  });

  test('all solutions: a particular one, and directions that change nothing', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(entry, { minLength: 5, maxLength: 5 }), { minLength: 1, maxLength: 3 }),
        fc.array(entry, { minLength: 5, maxLength: 5 }),
        (a, x) => {
          const rows = a.map((row) => Float64Array.from(row));
          const set = affineSolutions(rows, times(rows, Float64Array.from(x)), 5);
          fc.pre(set !== undefined && set.particular.every((v) => Math.abs(v) < 1e4));
          expect(set.basis.length).toBeGreaterThanOrEqual(5 - rows.length);
          times(rows, set.particular).forEach((value, i) =>
            expect(value).toBeCloseTo(times(rows, Float64Array.from(x))[i]!, 5),
          );
          for (const direction of set.basis)
            for (const value of times(rows, direction))
              expect(Math.abs(value)).toBeLessThan(1e-6 * Math.max(1, ...direction.map(Math.abs)));
        },
      ),
    );
    expect(affineSolutions([Float64Array.of(1, 1), Float64Array.of(2, 2)], [1, 3], 2)).toBeUndefined();
  });
});

describe('the least inside a box', () => {
  const square: Smooth = {
    value: (u) => u.reduce((sum, x, i) => sum + (x - i - 1) ** 2, 0),
    gradient: (u) => u.map((x, i) => 2 * (x - i - 1)),
    hessian: (u) => Array.from(u, (_, i) => Float64Array.from(u, (_x, j) => (i === j ? 2 : 0))),
  };
  const box = (low: number, high: number, n: number) => ({
    low: new Float64Array(n).fill(low),
    high: new Float64Array(n).fill(high),
    scale: new Float64Array(n).fill(1),
  });

  test('on a line through the plane: the foot of the perpendicular, or the corner the box leaves', () => {
    const line = affineSolutions([Float64Array.of(1, 1)], [5], 2)!;
    const free = leastInside(square, line, box(0.01, 100, 2), insidePoint(line, box(0.01, 100, 2))!);
    expect(free[0]).toBeCloseTo(2, 5);
    expect(free[1]).toBeCloseTo(3, 5);
    const tight = box(0.01, 2.7, 2);
    const bounded = leastInside(square, line, tight, insidePoint(line, tight)!);
    expect(bounded[1]).toBeCloseTo(2.7, 4);
    expect(bounded[0]).toBeCloseTo(2.3, 4);
  });

  test('where the line misses the box there is no point', () => {
    const line = affineSolutions([Float64Array.of(1, 1)], [5], 2)!;
    expect(insidePoint(line, box(0.01, 2, 2))).toBeUndefined();
    expect(insidePoint(line, box(2.6, 9, 2))).toBeUndefined();
    expect(insidePoint(line, box(2.4, 2.6, 2))).toBeDefined();
  });
});
