import { mapDuration, positionAt, type TimeMap } from '@idle-bend/core/time-map';
import { useMemo } from 'react';

/** A whole curve as a small picture: timeline across, source up. */
export function CurveDrawing({ map }: { map: TimeMap }) {
  const path = useMemo(() => {
    const at = Array.from({ length: 49 }, (_, i) => positionAt(map, (mapDuration(map) * i) / 48));
    const [low, high] = [Math.min(...at), Math.max(...at)];
    return at
      .map(
        (s, i) =>
          `${i === 0 ? 'M' : 'L'}${(4 + (i / 48) * 46).toFixed(1)},${(30 - ((s - low) / (high - low || 1)) * 26).toFixed(1)}`,
      )
      .join('');
  }, [map]);
  return (
    <svg viewBox="0 0 54 34" className="mx-auto block h-8 w-full" aria-hidden>
      <path d={path} fill="none" stroke="var(--river)" strokeWidth={2.2} strokeLinecap="round" strokeLinejoin="round" />
    </svg>
  );
}
