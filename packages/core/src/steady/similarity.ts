import type { Similarity } from '../model/steady.js';
import type { CameraMotion } from '../motion/source-motion.js';

export const IDENTITY: Similarity = { scale: 1, angle: 0, x: 0, y: 0 };

/** What is seen goes so from one frame to the next. */
export const ofCamera = ({ x, y, push, roll }: CameraMotion): Similarity => ({
  scale: 1 + push,
  angle: (roll * Math.PI) / 180,
  x,
  y,
});

export function moved({ scale, angle, x, y }: Similarity, px: number, py: number): readonly [number, number] {
  const [cos, sin] = [scale * Math.cos(angle), scale * Math.sin(angle)];
  return [cos * px - sin * py + x, sin * px + cos * py + y];
}

/** First `a`, then `b`. */
export function after(a: Similarity, b: Similarity): Similarity {
  const [x, y] = moved(b, a.x, a.y);
  return { scale: a.scale * b.scale, angle: a.angle + b.angle, x, y };
}

export function inverse(s: Similarity): Similarity {
  const back = { scale: 1 / s.scale, angle: -s.angle, x: 0, y: 0 };
  const [x, y] = moved(back, s.x, s.y);
  return { ...back, x: -x, y: -y };
}

/** Part of the way from doing nothing to `s`. */
export const partOf = ({ scale, angle, x, y }: Similarity, share: number): Similarity => ({
  scale: scale ** share,
  angle: angle * share,
  x: x * share,
  y: y * share,
});
