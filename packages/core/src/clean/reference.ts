import { reachCount, reachSlope, type TimeMap } from '../time-map/time-map.js';

/** Where vertices would best lie, and the slopes there are to be between them, which need not be those between the vertices. */
export interface Reference extends TimeMap {
  readonly slopes: readonly number[];
}

/** Slopes closer than this are one speed; a vertex between them only marks a place. */
const SAME_SLOPE = 1e-9;

/** Whether the lines of two reaches whose slopes differ by this cross. */
export const isCrossing = (jump: number): boolean => Math.abs(jump) >= SAME_SLOPE;

export const slopesOf = (map: TimeMap): number[] =>
  Array.from({ length: reachCount(map) }, (_, i) => reachSlope(map, i));

/** Source positions there are. */
export interface Room {
  readonly from: number;
  readonly to: number;
}

/** Whether a source position lies outside what there is, farther than it did. */
export function isOutside(s: number, was: number, { from, to }: Room): boolean {
  const by = (position: number) => Math.max(from - position, position - to, 0);
  return by(s) > by(was) + 1e-9;
}
