import { easeCurve, type Ease } from '@idle-bend/core/time-map';
import { useMemo } from 'react';

/** A shape as a picture: speed over the bend, falling where the bend slows down. */
export function EaseDrawing({ ease, falls }: { ease: Ease; falls: boolean }) {
  const path = useMemo(() => easePath(ease, falls, 44, 26, 4), [ease, falls]);
  return (
    <svg viewBox="0 0 44 26" className="mx-auto block h-7 w-full" aria-hidden>
      <path d={path} fill="none" stroke="var(--river)" strokeWidth={2.2} strokeLinecap="round" />
    </svg>
  );
}

/** The path of an ease in a box, `edge` pixels in from its borders. */
export function easePath(ease: Ease, falls: boolean, width: number, height: number, edge: number): string {
  const { value } = easeCurve(ease);
  return Array.from({ length: 33 }, (_, i) => {
    const u = i / 32;
    const rise = falls ? 1 - value(u) : value(u);
    return `${i === 0 ? 'M' : 'L'}${(edge + u * (width - 2 * edge)).toFixed(1)},${(height - edge - rise * (height - 2 * edge)).toFixed(1)}`;
  }).join('');
}
