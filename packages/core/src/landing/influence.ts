import { easeCurve } from '../time-map/ease.js';
import { bendWindow, reachCount, type TimeMap } from '../time-map/time-map.js';

/**
 * How much each reach's slope counts in the source consumed up to time t: with vertex times and bend windows fixed,
 * s(t) = s₀ + Σᵢ influence[i]·slopeᵢ. Straight from the definition of a bend: inside its window the slope is
 * (1−E)·before + E·after, whose integral is the two reaches' plus (after − before)·w·∫E.
 * @returns one number of timeline frames for each reach
 */
export function influence(map: TimeMap, t: number): Float64Array {
  const out = new Float64Array(reachCount(map));
  for (let i = 0; i < out.length; i++) {
    const [a, b] = [map.vertices[i]!.t, map.vertices[i + 1]!.t];
    out[i] = Math.min(Math.max(t, a), b) - a;
  }
  for (let i = 1; i < out.length; i++) {
    const { widthFrames, ease } = map.bends[i]!;
    const { from, to } = bendWindow(map, i);
    if (widthFrames === 0 || t <= from || t >= to) continue;
    const share = widthFrames * easeCurve(ease).area((t - from) / widthFrames);
    // Up to t the reach before counts until t (past its own end), save for what the ease hands over.
    out[i - 1] = t - map.vertices[i - 1]!.t - share;
    out[i] = share;
  }
  return out;
}
