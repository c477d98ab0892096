import { type AffineSet, type Matrix, solveLinear } from './linear.js';

/** A smooth function with its gradient and a positive semi-definite stand-in for its Hessian. */
export interface Smooth {
  value(u: Float64Array): number;
  gradient(u: Float64Array): Float64Array;
  hessian(u: Float64Array): Matrix;
}

export interface Box {
  readonly low: Float64Array;
  readonly high: Float64Array;
  /** What counts as a unit for each unknown. */
  readonly scale: Float64Array;
}

const place = ({ particular, basis }: AffineSet, z: Float64Array) =>
  particular.map((p, i) => basis.reduce((sum, column, j) => sum + column[i]! * z[j]!, p));

/** NᵀHN and Nᵀg for the columns N of a basis. */
function reduced(basis: Matrix, h: Matrix, g: Float64Array): { h: Float64Array[]; g: Float64Array } {
  const hn = basis.map((column) => Float64Array.from(h, (row) => row.reduce((sum, x, j) => sum + x * column[j]!, 0)));
  const dot = (a: Float64Array, b: Float64Array) => a.reduce((sum, x, i) => sum + x * b[i]!, 0);
  return {
    h: basis.map((column) => Float64Array.from(hn, (other) => dot(column, other))),
    g: Float64Array.from(basis, (column) => dot(column, g)),
  };
}

/** Damped Newton steps for `f` over z, where `f` is Infinity outside its domain; z is changed in place. True when it has come to rest. */
function newton(
  f: (z: Float64Array) => number,
  derivatives: (z: Float64Array) => { h: Float64Array[]; g: Float64Array },
  z: Float64Array,
  done: () => boolean = () => false,
): boolean {
  for (let iteration = 0; iteration < 120 && !done(); iteration++) {
    const { h, g } = derivatives(z);
    const ridge = 1e-12 * Math.max(1e-12, ...h.map((row, i) => Math.abs(row[i]!)));
    h.forEach((row, i) => (row[i]! += ridge));
    const step = solveLinear(
      h,
      g.map((x) => -x),
    );
    if (!step) return false;
    const slope = step.reduce((sum, x, i) => sum + x * g[i]!, 0);
    if (!(slope < -1e-16)) return true;
    const before = f(z);
    let scale = 1;
    let next = z;
    for (; scale > 1e-14; scale /= 2) {
      next = z.map((x, i) => x + scale * step[i]!);
      if (f(next) <= before + 0.1 * scale * slope) break;
    }
    if (scale <= 1e-14) return false;
    z.set(next);
    if (-slope < 1e-14 * Math.max(1, Math.abs(before))) return true;
  }
  return false;
}

/**
 * A point of the affine set strictly inside the box, or `undefined` without one: the phase-one problem of
 * Boyd & Vandenberghe, Convex Optimization, §11.4, with violations taken in each unknown's own unit.
 */
export function insidePoint(set: AffineSet, box: Box): Float64Array | undefined {
  const { basis } = set;
  const { low, high, scale } = box;
  const n = set.particular.length;
  // The last entry of z is r: every bound may be missed by r units.
  const z = new Float64Array(basis.length + 1);
  const rooms = (u: Float64Array, r: number) =>
    Array.from({ length: 2 * n }, (_, i) =>
      i < n ? (u[i]! - low[i]!) / scale[i]! + r : (high[i - n]! - u[i - n]!) / scale[i - n]! + r,
    );
  const start = rooms(set.particular, 0);
  z[basis.length] = Math.max(0, -Math.min(...start)) + 1;
  const pointOf = (x: Float64Array) => place(set, x.subarray(0, basis.length));
  const reached = () => Math.min(...rooms(pointOf(z), 0)) > 1e-6;
  for (let weight = 1; weight < 1e10 && !reached(); weight *= 8) {
    const f = (x: Float64Array) => {
      const list = rooms(pointOf(x), x[basis.length]!);
      return list.some((room) => room <= 0)
        ? Infinity
        : weight * x[basis.length]! - list.reduce((sum, room) => sum + Math.log(room), 0);
    };
    const centred = newton(
      f,
      (x) => phaseOneDerivatives(set, box, rooms(pointOf(x), x[basis.length]!), weight),
      z,
      reached,
    );
    // On the central path the least r is no lower than this (ibid., §11.2.2): above 0 there is no such point.
    if (centred && z[basis.length]! - (2 * n) / weight > 1e-9) return undefined;
  }
  return Math.min(...rooms(pointOf(z), 0)) > 0 ? pointOf(z) : undefined;
}

function phaseOneDerivatives(
  { basis, particular }: AffineSet,
  { scale }: Box,
  rooms: readonly number[],
  weight: number,
) {
  const n = particular.length;
  const m = basis.length + 1;
  const g = new Float64Array(m);
  const h = Array.from({ length: m }, () => new Float64Array(m));
  g[m - 1] = weight;
  rooms.forEach((room, i) => {
    const reach = i % n;
    const sign = (i < n ? 1 : -1) / scale[reach]!;
    const row = Float64Array.from({ length: m }, (_, j) => (j === m - 1 ? 1 : sign * basis[j]![reach]!));
    for (let a = 0; a < m; a++) {
      g[a]! -= row[a]! / room;
      for (let b = 0; b < m; b++) h[a]![b]! += (row[a]! * row[b]!) / (room * room);
    }
  });
  return { h, g };
}

/** The least of `f` over the affine set inside the box, from a point strictly inside, by a logarithmic barrier (ibid., §11.3). */
export function leastInside(f: Smooth, set: AffineSet, box: Box, from: Float64Array): Float64Array {
  const { basis } = set;
  if (basis.length === 0) return from;
  const local: AffineSet = { particular: from, basis };
  const z = new Float64Array(basis.length);
  for (let mu = Math.max(1e-3, f.value(from)); mu > 1e-11; mu /= 10) {
    const value = (x: Float64Array) => {
      const u = place(local, x);
      let sum = 0;
      for (let i = 0; i < u.length; i++) {
        if (!(u[i]! > box.low[i]! && u[i]! < box.high[i]!)) return Infinity;
        sum += Math.log((u[i]! - box.low[i]!) / box.scale[i]!) + Math.log((box.high[i]! - u[i]!) / box.scale[i]!);
      }
      return f.value(u) - mu * sum;
    };
    newton(
      value,
      (x) => {
        const u = place(local, x);
        const g = f.gradient(u);
        const h = f.hessian(u).map((row) => Float64Array.from(row));
        for (let i = 0; i < u.length; i++) {
          const [below, above] = [u[i]! - box.low[i]!, box.high[i]! - u[i]!];
          g[i]! += mu * (1 / above - 1 / below);
          h[i]![i]! += mu * (1 / (below * below) + 1 / (above * above));
        }
        return reduced(basis, h, g);
      },
      z,
    );
  }
  return place(local, z);
}
