import type { Blur } from '../model/blur.js';

/**
 * How long the shutter is open, in timeline frames, at a speed (1 = 100 %). Footage has its own blur, which is short when it is sped
 * up: by default only what that took away is added.
 */
export function exposureAt(blur: Blur, speed: number): number {
  const share = blur.kind === 'shutter' ? blur.angle / 360 : blur.kind === 'smear' ? blur.strength / 2 : 0;
  return blur.kind !== 'none' && blur.always ? share : share * Math.max(0, 1 - 1 / Math.abs(speed));
}
