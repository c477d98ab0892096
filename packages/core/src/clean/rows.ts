import { affineSolutions } from '../foundation/linear.js';

/** What must hold of some unknowns, or is to be small: their combination `of` less the number `is`. */
export interface Row {
  readonly of: Float64Array;
  readonly is: number;
}

/** The best point on some rows, the directions they leave open, at right angles by what they do to the aims, and how far it is from those. */
export interface Node {
  readonly at: Float64Array;
  readonly basis: readonly Float64Array[];
  readonly cost: number;
}

/** Whether a node's rows leave no choice of an intercept. */
export const isKnown = ({ basis }: Node, i: number): boolean => basis.every((along) => Math.abs(along[i]!) < 1e-12);

/** What it costs a node to have an intercept at a value. */
export function costAt({ at, basis, cost }: Node, i: number, value: number): number {
  const reach = basis.reduce((sum, along) => sum + along[i]! ** 2, 0);
  return cost + (value - at[i]!) ** 2 / reach;
}

/** The best point of a node with an intercept at a value: the shortest way there, and the directions that leave it there (a Householder reflection). */
export function withIntercept(node: Node, i: number, value: number): Node {
  const { at, basis } = node;
  const reach = basis.reduce((sum, along) => sum + along[i]! ** 2, 0);
  const there = Float64Array.from(at);
  for (const along of basis) addTo(there, along, ((value - at[i]!) * along[i]!) / reach);
  there[i] = value;
  const mirror = basis.map((along) => along[i]!);
  mirror[0]! += Math.sign(mirror[0]! || 1) * Math.sqrt(reach);
  const size = mirror.reduce((sum, x) => sum + x * x, 0);
  const sum = new Float64Array(at.length);
  basis.forEach((along, n) => addTo(sum, along, mirror[n]!));
  const left = basis.slice(1).map((along, n) => {
    const turned = Float64Array.from(along);
    addTo(turned, sum, (-2 * mirror[n + 1]!) / size);
    turned[i] = 0;
    return turned;
  });
  return { at: there, basis: left, cost: costAt(node, i, value) };
}

/** The point on the rows whose aims are nearest, by least squares. */
export function nearestOn(rows: readonly Row[], aims: readonly Row[], count: number): Node | undefined {
  const set = affineSolutions(
    rows.map(({ of }) => of),
    rows.map(({ is }) => is),
    count,
  );
  if (!set) return undefined;
  // Directions of length 1 and at right angles, measured by what they do to the aims: then the nearest point is a sum of shadows.
  const basis: Float64Array[] = [];
  const shadows: Float64Array[] = [];
  for (const direction of set.basis) {
    const along = Float64Array.from(direction);
    const shadow = new Float64Array(aims.length);
    for (let n = 0; n < shadow.length; n++) shadow[n] = dot(aims[n]!.of, along);
    basis.forEach((other, n) => {
      const share = dot(shadows[n]!, shadow);
      addTo(along, other, -share);
      addTo(shadow, shadows[n]!, -share);
    });
    const length = Math.sqrt(dot(shadow, shadow));
    if (length < 1e-9) continue;
    basis.push(along.map((x) => x / length));
    shadows.push(shadow.map((x) => x / length));
  }
  const at = Float64Array.from(set.particular);
  const miss = new Float64Array(aims.length);
  for (let n = 0; n < miss.length; n++) miss[n] = aims[n]!.is - dot(aims[n]!.of, at);
  basis.forEach((along, n) => addTo(at, along, dot(shadows[n]!, miss)));
  let cost = 0;
  for (const { of, is } of aims) cost += (dot(of, at) - is) ** 2;
  return { at, basis, cost };
}

/** Adds so much of one to the other. */
function addTo(sum: Float64Array, part: Float64Array, share: number): void {
  for (let i = 0; i < sum.length; i++) sum[i]! += share * part[i]!;
}

function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += a[i]! * b[i]!;
  return sum;
}
