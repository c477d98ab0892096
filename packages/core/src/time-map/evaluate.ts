import { type EaseCurve, easeCurve } from './ease.js';
import { bendWindow, reachSlope, type TimeMap } from './time-map.js';

/** A stretch of the timeline with one formula. */
export interface Piece {
  readonly from: number;
  readonly to: number;
  /** The vertex the formula is anchored at. */
  readonly t: number;
  readonly s: number;
  /** Reach: rise/run. Bend: the speeds on both sides, in source frames per timeline frame. */
  readonly shape:
    | { readonly kind: 'reach'; readonly rise: number; readonly run: number }
    | {
        readonly kind: 'bend';
        readonly before: number;
        readonly after: number;
        readonly width: number;
        readonly curve: EaseCurve;
      };
}

const compiled = new WeakMap<TimeMap, readonly Piece[]>();

/** The map as pieces in time order, covering the whole clip without gaps. Kept for as long as the map lives. */
export function pieces(map: TimeMap): readonly Piece[] {
  let list = compiled.get(map);
  if (!list) compiled.set(map, (list = compile(map)));
  return list;
}

function compile(map: TimeMap): Piece[] {
  const list: Piece[] = [];
  const { vertices, bends } = map;
  for (let i = 0; i < vertices.length - 1; i++) {
    const a = vertices[i]!;
    const b = vertices[i + 1]!;
    const from = bendWindow(map, i).to;
    const next = bendWindow(map, i + 1);
    if (next.from > from || list.length === 0)
      list.push({
        from,
        to: Math.max(from, next.from),
        t: a.t,
        s: a.s,
        shape: { kind: 'reach', rise: b.s - a.s, run: b.t - a.t },
      });
    const bend = bends[i + 1]!;
    if (bend.widthFrames > 0 && i + 1 < vertices.length - 1)
      list.push({
        ...next,
        t: b.t,
        s: b.s,
        shape: {
          kind: 'bend',
          before: reachSlope(map, i),
          after: reachSlope(map, i + 1),
          width: bend.widthFrames,
          curve: easeCurve(bend.ease),
        },
      });
  }
  return list;
}

/** The piece in force at t; at a boundary the later one, before the start the first, after the end the last. */
function pieceAt(list: readonly Piece[], t: number): Piece {
  let low = 0;
  let high = list.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (list[middle]!.from <= t) low = middle;
    else high = middle - 1;
  }
  return list[low]!;
}

/**
 * Position inside a bend: with v₀, v₁ the speeds on both sides and u the place in the window,
 * s(t) = s_i + v₀(t − t_i) + (v₁ − v₀)·w·∫₀ᵘE. By the equal-area rule both ends meet their reaches.
 */
function piecePosition(piece: Piece, t: number): number {
  const { shape } = piece;
  if (shape.kind === 'reach') return piece.s + ((t - piece.t) * shape.rise) / shape.run;
  const u = (t - piece.from) / shape.width;
  return piece.s + shape.before * (t - piece.t) + (shape.after - shape.before) * shape.width * shape.curve.area(u);
}

function pieceSlope(piece: Piece, t: number): number {
  const { shape } = piece;
  if (shape.kind === 'reach') return shape.rise / shape.run;
  const u = Math.min(1, Math.max(0, (t - piece.from) / shape.width));
  return shape.before + (shape.after - shape.before) * shape.curve.value(u);
}

/** Source position, in source frames, at timeline time t (timeline frames). Outside the clip its end reaches go on. */
export function positionAt(map: TimeMap, t: number): number {
  const list = pieces(map);
  return piecePosition(pieceAt(list, t), t);
}

/** ds/dt at t, in source frames per timeline frame; at a hard vertex that of the reach after it. */
export function slopeAt(map: TimeMap, t: number): number {
  return pieceSlope(pieceAt(pieces(map), t), t);
}

/** Speed as a ratio, 1 = 100 %: slope over the natural slope k₀. */
export function speedAt(map: TimeMap, t: number, k0: number): number {
  return slopeAt(map, t) / k0;
}

/** Positions of `out.length` frames from `firstFrame` on, one timeline frame apart, written into `out`. */
export function positionsInto(map: TimeMap, firstFrame: number, out: Float64Array): Float64Array {
  const list = pieces(map);
  let index = list.indexOf(pieceAt(list, firstFrame));
  for (let i = 0; i < out.length; i++) {
    const t = firstFrame + i;
    while (index + 1 < list.length && list[index + 1]!.from <= t) index++;
    out[i] = piecePosition(list[index]!, t);
  }
  return out;
}
