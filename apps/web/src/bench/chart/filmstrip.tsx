import { frameOfPosition } from '@idle-bend/core';
import { stripUrl } from '../../api.ts';
import type { BenchClip } from '../bench-store.ts';
import { LEFT, TOP, type Places } from './places.ts';

/** How the filmstrip's pictures are chosen, and of which file they are. */
export interface Strip {
  readonly step: number;
  readonly count: number;
  readonly revision: string;
}

export function Filmstrip({ bench, strip, places }: { bench: BenchClip; strip: Strip | undefined; places: Places }) {
  const { y } = places.scales;
  const [low, high] = y.domain() as [number, number];
  const cell = 41;
  const rows = Math.max(2, Math.floor((places.chartBottom - TOP) / (cell + 4)));
  const rowHeight = (places.chartBottom - TOP) / rows;
  return (
    <g aria-hidden>
      {Array.from({ length: rows }, (_, i) => {
        const middle = TOP + rowHeight * (i + 0.5);
        const frame = Math.max(0, Math.min(bench.source.frames - 1, Math.round(frameOfPosition(bench.source, y.invert(middle)))));
        if (frame < low - 1 || frame > high + 1) return null;
        const index = strip ? Math.min(strip.count - 1, Math.floor(frame / strip.step)) : 0;
        return (
          <g key={i}>
            {strip && (
              <svg x={8} y={middle - cell / 2 + 1} width={62} height={cell - 4} viewBox={`${index * 62} 0 62 ${cell - 4}`} preserveAspectRatio="none">
                <image href={stripUrl(bench.source.id, strip.revision)} width={strip.count * 62} height={cell - 4} preserveAspectRatio="none" />
              </svg>
            )}
            <text x={LEFT - 6} y={middle + 3.5} textAnchor="end" className="fill-faint font-mono text-[10px]">
              {String(frame).padStart(4, '0')}
            </text>
          </g>
        );
      })}
    </g>
  );
}
