import type { Arena } from './arena.js';

/** The border of a plane, in samples; as in the assembly. */
const BORDER = 16;

/** 12-bit samples in 16 bits, with a border; `at` is the address of (0, 0), `stride` in samples. */
export interface Plane {
  readonly at: number;
  readonly stride: number;
  readonly width: number;
  readonly height: number;
}

export function takePlane(arena: Arena, width: number, height: number): Plane {
  const stride = ((width + 7) & ~7) + 2 * BORDER;
  const start = arena.take((stride * (height + 2 * BORDER) + 16) * 2);
  return { at: start + (BORDER * stride + BORDER) * 2, stride, width, height };
}

/** A picture's width or height at a pyramid level. */
export const sizeAt = (size: number, level: number): number =>
  level === 0 ? size : sizeAt((size + 1) >> 1, level - 1);
