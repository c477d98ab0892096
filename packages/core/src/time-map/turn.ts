import { InvalidInput } from '../foundation/errors.js';
import { positionAt } from './evaluate.js';
import { bendWindow, fittedMap, reachSlope, type TimeMap } from './time-map.js';

/** True where the direction changes at an interior vertex: forward into reverse or back. */
export function isTurn(map: TimeMap, index: number): boolean {
  return index > 0 && index < map.vertices.length - 1 && reachSlope(map, index - 1) * reachSlope(map, index) < 0;
}

/** The source position at which a rounded turn really turns: short of its vertex, because rounding cuts the corner. */
export function turnsAt(map: TimeMap, index: number): number {
  if (!isTurn(map, index)) throw new InvalidInput('turn', `vertex ${index} is not where the clip changes direction`);
  const { from, to } = bendWindow(map, index);
  if (to === from) return map.vertices[index]!.s;
  const upward = reachSlope(map, index - 1) > 0 ? 1 : -1;
  // One extreme in the window (an overshooting shape has its highest among the samples): golden sections around the best.
  const height = (t: number) => upward * positionAt(map, t);
  const samples = Array.from({ length: 65 }, (_, i) => from + ((to - from) * i) / 64);
  const best = samples.reduce((a, b) => (height(b) > height(a) ? b : a));
  let [low, high] = [Math.max(from, best - (to - from) / 64), Math.min(to, best + (to - from) / 64)];
  const ratio = (Math.sqrt(5) - 1) / 2;
  for (let i = 0; i < 90 && high - low > 1e-12; i++) {
    const [a, b] = [high - ratio * (high - low), low + ratio * (high - low)];
    if (height(a) > height(b)) high = b;
    else low = a;
  }
  return positionAt(map, (low + high) / 2);
}

/**
 * Moves a turn so that the rounded curve turns exactly at source position `source` (the vertex's own by default). Both
 * speeds stay: the way there and back grows longer, and what follows slides. Throws `InvalidInput` where that would leave
 * no room.
 */
export function reachTurn(map: TimeMap, index: number, source = map.vertices[index]!.s): TimeMap {
  let reached = map;
  // Where the bend has to narrow for the new place it cuts less, so the rest is made up again; it never takes many rounds.
  for (let round = 0; round < 30; round++) {
    const missing = source - turnsAt(reached, index);
    if (Math.abs(missing) <= 1e-9 * Math.max(1, Math.abs(source))) return reached;
    reached = moveTurn(reached, index, missing);
  }
  throw new InvalidInput('turn', `the bend has no room to turn at source ${source.toFixed(2)}; narrow it first`);
}

function moveTurn(map: TimeMap, index: number, bySource: number): TimeMap {
  const later = bySource / reachSlope(map, index - 1);
  const slide = later - bySource / reachSlope(map, index);
  return fittedMap(
    map.vertices.map((v, i) =>
      i < index ? v : i === index ? { t: v.t + later, s: v.s + bySource } : { t: v.t + slide, s: v.s },
    ),
    map.bends,
  );
}
