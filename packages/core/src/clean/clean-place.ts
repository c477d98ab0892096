import { moveVertex, type VertexDrag } from '../time-map/edit.js';
import type { TimeMap, Vertex } from '../time-map/time-map.js';
import { realFrames } from './real-frames.js';

/** Along a reach whose speed stays, places are tried in steps of so many to a timeline frame. */
const STEPS = 4;

/** No more places than this are tried either way, on either scale. */
const MOST = 12;

/**
 * Where a vertex that is dragged to `to` would leave most real frames, of the places within `reach` of it (timeline frames, source frames): of
 * those with as many, the nearest. `undefined` where none is better than whole frames next to `to`.
 */
export function cleanPlace(
  map: TimeMap,
  index: number,
  to: Vertex,
  reach: Vertex,
  drag: VertexDrag = 'free',
): Vertex | undefined {
  const real = (place: Vertex) => realFrames(moveVertex(map, index, place, drag)).real;
  const plain = { t: Math.round(to.t), s: Math.round(to.s) };
  const steps = drag === 'free' ? 1 : STEPS;
  const times = near(to.t, reach.t, steps);
  const positions = drag === 'free' ? near(to.s, reach.s, 1) : [plain.s];
  const away = ({ t, s }: Vertex) => ((t - to.t) / reach.t) ** 2 + (drag === 'free' ? ((s - to.s) / reach.s) ** 2 : 0);
  const places = times
    .flatMap((t) => positions.map((s) => ({ t, s })))
    .filter((place) => away(place) <= 1)
    .map((place) => ({ place, real: real(place), away: away(place) }));
  const best = places.reduce<(typeof places)[number] | undefined>(
    (a, b) => (a && (a.real > b.real || (a.real === b.real && a.away <= b.away)) ? a : b),
    undefined,
  );
  return best && best.real > real(plain) ? best.place : undefined;
}

/** Multiples of a step that lie within reach of a value. */
function near(value: number, reach: number, steps: number): number[] {
  const middle = Math.round(value * steps);
  const most = Math.min(MOST, Math.floor(reach * steps));
  return Array.from({ length: 2 * most + 1 }, (_, i) => (middle - most + i) / steps);
}
