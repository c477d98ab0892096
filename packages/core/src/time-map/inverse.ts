import { bisect } from '../foundation/bisect.js';
import { type Piece, pieces, positionAt, slopeAt } from './evaluate.js';
import { mapDuration, TIME_EPSILON, type TimeMap } from './time-map.js';

/** A stretch of timeline where a source moment shows; a single time when from = to. Timeline frames. */
export interface Appearance {
  readonly from: number;
  readonly to: number;
}

/** Timeline frames: much less than a part is long, much more than rounding. */
const NEARBY = 1e-6;

/**
 * Where source position s appears on the timeline: times in order, with an interval for each freeze that holds it.
 * Reverse makes the inverse many-valued, so there may be none, one or several. The clip covers 0 ≤ t ≤ its duration.
 */
export function appearances(map: TimeMap, s: number): Appearance[] {
  const found: Appearance[] = [];
  for (const piece of pieces(map)) for (const part of monotoneParts(map, piece)) addCrossing(map, part, s, found);
  return found;
}

/** Splits a piece where its speed changes sign, so that position is monotone in each part. */
function monotoneParts(map: TimeMap, piece: Piece): Appearance[] {
  const { shape, from, to } = piece;
  if (shape.kind === 'reach') return [{ from, to }];
  const marks = [from, ...shape.curve.turns.map((u) => from + u * shape.width), to];
  const cuts = [from];
  for (let i = 0; i + 1 < marks.length; i++) {
    const a = slopeInside(map, piece, marks[i]!);
    const b = slopeInside(map, piece, marks[i + 1]!);
    if (a * b < 0) cuts.push(bisect(marks[i]!, marks[i + 1]!, (t) => slopeInside(map, piece, t) * Math.sign(b)));
  }
  cuts.push(to);
  return cuts.slice(1).map((end, i) => ({ from: cuts[i]!, to: end }));
}

function slopeInside(map: TimeMap, piece: Piece, t: number): number {
  // At the end of its window a bend has reached the speed after it; slopeAt would answer for the next piece, which is the same.
  return slopeAt(map, Math.min(Math.max(t, piece.from), piece.to));
}

function addCrossing(map: TimeMap, part: Appearance, s: number, found: Appearance[]): void {
  const a = positionAt(map, part.from) - s;
  const b = positionAt(map, part.to) - s;
  const tolerance = 1e-9 * Math.max(1, Math.abs(s));
  if (Math.abs(a) <= tolerance && Math.abs(b) <= tolerance) return add(found, part.from, part.to);
  if (Math.abs(a) <= tolerance) return add(found, part.from, part.from);
  if (Math.abs(b) <= tolerance) return add(found, part.to, part.to);
  if (a * b > 0) return;
  const missing = (x: number) => (positionAt(map, x) - s) * Math.sign(b);
  // On a straight part the root lies next to where the line says.
  const likely = part.from + ((part.to - part.from) * a) / (a - b);
  const [low, high] = [Math.max(part.from, likely - NEARBY), Math.min(part.to, likely + NEARBY)];
  const isNear = missing(low) < 0 && missing(high) > 0;
  const t = isNear ? bisect(low, high, missing) : bisect(part.from, part.to, missing);
  add(found, t, t);
}

function add(found: Appearance[], from: number, to: number): void {
  const last = found[found.length - 1];
  if (last && from - last.to <= TIME_EPSILON * 10)
    found[found.length - 1] = { from: last.from, to: Math.max(last.to, to) };
  else found.push({ from, to });
}

/**
 * The whole timeline frames at which source frame `frame` is nearest to being shown exactly, at most one for each appearance; of a freeze that
 * is its first still frame.
 */
export function framesShowing(map: TimeMap, frame: number): number[] {
  const last = Math.ceil(mapDuration(map) - TIME_EPSILON) - 1;
  const nearest = appearances(map, frame).map(({ from, to }) => {
    const still = Math.ceil(from - TIME_EPSILON);
    return to - from > TIME_EPSILON && still <= to ? still : Math.ceil(from - 0.5);
  });
  return [...new Set(nearest)].filter((k) => k >= 0 && k <= last);
}
