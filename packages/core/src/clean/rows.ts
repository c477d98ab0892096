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
export function isKnown({ basis }: Node, i: number): boolean {
  for (const along of basis) if (Math.abs(along[i]!) >= 1e-12) return false;
  return true;
}

/** The square of how far the directions a node leaves open reach along an intercept. */
function reachOf(basis: readonly Float64Array[], i: number): number {
  let reach = 0;
  for (const along of basis) reach += along[i]! * along[i]!;
  return reach;
}

/** What it costs a node to have an intercept at a value. */
export const costAt = (node: Node, i: number, value: number): number =>
  node.cost + (value - node.at[i]!) ** 2 / reachOf(node.basis, i);

/** The best point of a node with an intercept at a value: the shortest way there, and the directions that leave it there (a Householder reflection). */
export function withIntercept(node: Node, i: number, value: number): Node {
  const { at, basis } = node;
  const reach = reachOf(basis, i);
  const there = at.slice();
  for (const along of basis) addTo(there, along, ((value - at[i]!) * along[i]!) / reach);
  there[i] = value;
  const mirror = new Float64Array(basis.length);
  for (let n = 0; n < basis.length; n++) mirror[n] = basis[n]![i]!;
  mirror[0]! += Math.sign(mirror[0]! || 1) * Math.sqrt(reach);
  const size = dot(mirror, mirror);
  const sum = new Float64Array(at.length);
  for (let n = 0; n < basis.length; n++) addTo(sum, basis[n]!, mirror[n]!);
  const left: Float64Array[] = [];
  for (let n = 1; n < basis.length; n++) {
    const turned = basis[n]!.slice();
    addTo(turned, sum, (-2 * mirror[n]!) / size);
    turned[i] = 0;
    left.push(turned);
  }
  return { at: there, basis: left, cost: node.cost + (value - at[i]!) ** 2 / reach };
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
    const along = direction.slice();
    const shadow = new Float64Array(aims.length);
    for (let n = 0; n < shadow.length; n++) shadow[n] = dot(aims[n]!.of, along);
    basis.forEach((other, n) => {
      const share = dot(shadows[n]!, shadow);
      addTo(along, other, -share);
      addTo(shadow, shadows[n]!, -share);
    });
    const length = Math.sqrt(dot(shadow, shadow));
    if (length < 1e-9) continue;
    for (let i = 0; i < along.length; i++) along[i]! /= length;
    for (let i = 0; i < shadow.length; i++) shadow[i]! /= length;
    basis.push(along);
    shadows.push(shadow);
  }
  const at = set.particular;
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
