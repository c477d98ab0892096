import type { CameraMotion } from '@idle-bend/core/motion';
import type { PairFlow } from './flow.js';

/** Motion vectors looked at, at most about this many across. */
const ACROSS = 40;
const ROUNDS = 8;
/** Vectors off the common motion by no more than this share of the picture's width, and a tenth of the motion, belong to it. */
const CLOSE = 0.0015;

/** A shift, and growth and turn about the centre: u = x + grow · px − turn · py, v = y + turn · px + grow · py. */
interface Fit {
  readonly x: number;
  readonly y: number;
  readonly grow: number;
  readonly turn: number;
}

/** Places, motion and trust of trusted points, in widths of the picture; place (0, 0) is its centre. */
interface Points {
  readonly count: number;
  readonly px: Float64Array;
  readonly py: Float64Array;
  readonly u: Float64Array;
  readonly v: Float64Array;
  readonly trust: Float64Array;
}

/**
 * The dominant motion of a pair: the shift, growth and turn about the picture's centre that most of its trusted vectors follow,
 * by iteratively reweighted least squares with Geman–McClure weights (S. Geman and D. McClure, "Statistical Methods for
 * Tomographic Image Reconstruction", 1987), so that what moves by itself does not count.
 */
export function cameraMotion(pair: PairFlow): CameraMotion {
  const { points, looked } = trustedPoints(pair);
  const { count } = points;
  if (count < 8) return { x: 0, y: 0, push: 0, roll: 0, sure: 0 };
  const off = new Float64Array(count);
  const weight = new Float64Array(count);
  let fit: Fit = { x: median(points.u), y: median(points.v), grow: 0, turn: 0 };
  for (let round = 0; round < ROUNDS; round++) {
    distances(points, fit, off);
    const scale = Math.max(CLOSE, 1.5 * median(off));
    for (let i = 0; i < count; i++) weight[i] = points.trust[i]! / (1 + (off[i]! / scale) ** 2) ** 2;
    fit = leastSquares(points, weight);
  }
  const near = CLOSE + 0.1 * Math.hypot(fit.x, fit.y);
  const along = distances(points, fit, off).reduce((sum, d) => sum + (d <= near ? 1 : 0), 0);
  return { x: fit.x, y: fit.y, push: fit.grow, roll: (fit.turn * 180) / Math.PI, sure: along / looked };
}

function trustedPoints(pair: PairFlow): { points: Points; looked: number } {
  const { width, height, forward } = pair[0]!;
  const step = Math.max(1, Math.floor(width / ACROSS));
  const chosen: number[] = [];
  let looked = 0;
  for (let y = step >> 1; y < height; y += step)
    for (let x = step >> 1; x < width; x += step, looked++)
      if (forward.trust[y * width + x]! > 0.3) chosen.push(y * width + x);
  const all = (value: (i: number) => number) => Float64Array.from(chosen, value);
  const points = {
    count: chosen.length,
    px: all((i) => ((i % width) - (width - 1) / 2) / width),
    py: all((i) => (Math.floor(i / width) - (height - 1) / 2) / width),
    u: all((i) => forward.flow[2 * i]! / width),
    v: all((i) => forward.flow[2 * i + 1]! / width),
    trust: all((i) => forward.trust[i]!),
  };
  return { points, looked };
}

const median = (values: Float64Array): number => values.toSorted()[values.length >> 1]!;

/** How far each point's motion is from the fit, written to `off`. */
function distances({ count, px, py, u, v }: Points, { x, y, grow, turn }: Fit, off: Float64Array): Float64Array {
  const { sqrt } = Math;
  for (let i = 0; i < count; i++) {
    const du = u[i]! - x - grow * px[i]! + turn * py[i]!;
    const dv = v[i]! - y - turn * px[i]! - grow * py[i]!;
    off[i] = sqrt(du * du + dv * dv);
  }
  return off;
}

/** With the means taken out, growth and turn stand alone. */
function leastSquares({ count, px, py, u, v }: Points, weight: Float64Array): Fit {
  let [total, sx, sy, su, sv, same, across, spread] = [0, 0, 0, 0, 0, 0, 0, 0];
  for (let i = 0; i < count; i++) {
    const w = weight[i]!;
    total += w;
    sx += w * px[i]!;
    sy += w * py[i]!;
    su += w * u[i]!;
    sv += w * v[i]!;
    same += w * (px[i]! * u[i]! + py[i]! * v[i]!);
    across += w * (px[i]! * v[i]! - py[i]! * u[i]!);
    spread += w * (px[i]! ** 2 + py[i]! ** 2);
  }
  const [mx, my, mu, mv] = [sx / total, sy / total, su / total, sv / total];
  const room = spread / total - mx * mx - my * my;
  if (!(room > 0)) return { x: mu, y: mv, grow: 0, turn: 0 };
  const grow = (same / total - mx * mu - my * mv) / room;
  const turn = (across / total - mx * mv + my * mu) / room;
  return { x: mu - grow * mx + turn * my, y: mv - turn * mx - grow * my, grow, turn };
}
