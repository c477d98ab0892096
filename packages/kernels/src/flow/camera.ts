import type { CameraMotion } from '@idle-bend/core';
import type { PairFlow } from './flow.js';

/** Motion vectors looked at, at most about this many across. */
const ACROSS = 64;
const ROUNDS = 8;
/** Vectors off the common motion by no more than this share of the picture's width, and a tenth of the motion, belong to it. */
const CLOSE = 0.0015;

/**
 * The dominant motion of a pair: the shift, growth and turn about the picture's centre that most of its trusted vectors follow,
 * by iteratively reweighted least squares with Geman–McClure weights (S. Geman and D. McClure, "Statistical Methods for
 * Tomographic Image Reconstruction", 1987), so that what moves by itself does not count.
 */
export function cameraMotion(pair: PairFlow): CameraMotion {
  const { width, height, forward } = pair[0]!;
  const step = Math.max(1, Math.floor(width / ACROSS));
  const points: { x: number; y: number; u: number; v: number; trust: number }[] = [];
  for (let y = step >> 1; y < height; y += step)
    for (let x = step >> 1; x < width; x += step) {
      const i = y * width + x;
      const trust = forward.trust[i]!;
      if (trust > 0.3)
        points.push({
          x: (x - (width - 1) / 2) / width,
          y: (y - (height - 1) / 2) / width,
          u: forward.flow[2 * i]! / width,
          v: forward.flow[2 * i + 1]! / width,
          trust,
        });
    }
  const all = Math.ceil((width - (step >> 1)) / step) * Math.ceil((height - (step >> 1)) / step);
  if (points.length < 8) return { x: 0, y: 0, push: 0, roll: 0, sure: 0 };
  const middle = (values: number[]) => values.sort((a, b) => a - b)[values.length >> 1]!;
  let fit = { x: middle(points.map((p) => p.u)), y: middle(points.map((p) => p.v)), grow: 0, turn: 0 };
  const off = (p: (typeof points)[number]) => Math.hypot(p.u - fit.x - fit.grow * p.x + fit.turn * p.y, p.v - fit.y - fit.turn * p.x - fit.grow * p.y);
  for (let round = 0; round < ROUNDS; round++) {
    const scale = Math.max(CLOSE, 1.5 * middle(points.map(off)));
    fit = weighted(points.map((p) => ({ ...p, weight: p.trust / (1 + (off(p) / scale) ** 2) ** 2 })));
  }
  const near = CLOSE + 0.1 * Math.hypot(fit.x, fit.y);
  return { x: fit.x, y: fit.y, push: fit.grow, roll: (fit.turn * 180) / Math.PI, sure: points.filter((p) => off(p) <= near).length / all };
}

/** u = x₀ + g·x − r·y, v = y₀ + r·x + g·y in least squares: with the means taken out, growth and turn stand alone. */
function weighted(points: readonly { x: number; y: number; u: number; v: number; weight: number }[]) {
  const sum = (of: (p: (typeof points)[number]) => number) => points.reduce((total, p) => total + p.weight * of(p), 0);
  const total = sum(() => 1);
  const [mx, my, mu, mv] = [sum((p) => p.x) / total, sum((p) => p.y) / total, sum((p) => p.u) / total, sum((p) => p.v) / total];
  const spread = sum((p) => (p.x - mx) ** 2 + (p.y - my) ** 2);
  if (spread === 0) return { x: mu, y: mv, grow: 0, turn: 0 };
  const grow = sum((p) => (p.x - mx) * (p.u - mu) + (p.y - my) * (p.v - mv)) / spread;
  const turn = sum((p) => (p.x - mx) * (p.v - mv) - (p.y - my) * (p.u - mu)) / spread;
  return { x: mu - grow * mx + turn * my, y: mv - turn * mx - grow * my, grow, turn };
}
