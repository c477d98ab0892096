import { percentText } from '@idle-bend/core/time';
import { bendWindow, mapDuration, reachSlope, speedAt } from '@idle-bend/core/time-map';
import { useMemo } from 'react';
import { LEFT, type Places } from './places.ts';
import { useSpeedDrag } from './speed-drag.ts';
import { editSpeed } from '../speed/type-speed.ts';
import { select, type BenchClip } from '../../session/bench-state.ts';
import { drawnBy } from '../../ui/drawn-by.ts';
import { valuesOf } from '../../session/bench-clip.ts';

const SPEED_MARKS = [4, 2, 1, 0.5, 0.25, 0.1];

function SpeedPart({ bench, places }: { bench: BenchClip; places: Places }) {
  const { clip, slope } = bench;
  const end = mapDuration(clip.map);
  const { x } = places.scales;
  const { speed, speedTop, speedBottom } = places;
  const path = useMemo(() => {
    const points: string[] = [];
    const step = Math.max(0.25, end / 1200);
    for (let t = 0; t <= end + 1e-9; t += step)
      points.push(`${x(t).toFixed(1)},${speed.place(speedAt(clip.map, Math.min(t, end - 1e-9), slope)).toFixed(1)}`);
    return points.join('L');
  }, [clip.map, slope, end, x, speed]);
  const dragSpeed = useSpeedDrag(bench);
  return (
    <g>
      <text x={8} y={speedTop + 12} className="fill-faint font-mono text-[11px]">
        speed
      </text>
      <rect
        x={LEFT}
        y={speedTop}
        width={places.right - LEFT}
        height={speedBottom - speedTop}
        fill="var(--paper)"
        stroke="var(--line)"
      />
      <rect
        x={LEFT}
        y={speed.stillTop}
        width={places.right - LEFT}
        height={speed.stillBottom - speed.stillTop}
        fill="var(--shoal)"
      />
      {SPEED_MARKS.map((v) => (
        <g key={v}>
          <line
            x1={LEFT}
            x2={places.right}
            y1={speed.place(v)}
            y2={speed.place(v)}
            stroke={v === 1 ? 'var(--ink)' : 'var(--line)'}
            strokeWidth={v === 1 ? 1.2 : 0.8}
          />
          <text x={LEFT - 6} y={speed.place(v) + 3.5} textAnchor="end" className="fill-faint font-mono text-[10px]">
            {percentText(v)}
          </text>
        </g>
      ))}
      <text
        x={LEFT - 6}
        y={(speed.stillTop + speed.stillBottom) / 2 + 3.5}
        textAnchor="end"
        className="fill-faint font-mono text-[10px]"
      >
        still
      </text>
      <text
        x={LEFT - 6}
        y={(speed.stillBottom + speedBottom) / 2 + 3.5}
        textAnchor="end"
        className="fill-faint font-mono text-[10px]"
      >
        reverse
      </text>
      <path
        d={`M${path}L${x(end)},${speed.place(0)}L${LEFT},${speed.place(0)}Z`}
        fill="var(--river-pale)"
        opacity={0.75}
        pointerEvents="none"
      />
      <path d={`M${path}`} fill="none" stroke="var(--river)" strokeWidth={2.2} pointerEvents="none" />
      {clip.map.vertices.slice(0, -1).map((_, i) => {
        const from = x(bendWindow(clip.map, i).to);
        const to = x(bendWindow(clip.map, i + 1).from);
        const place = speed.place(reachSlope(clip.map, i) / slope);
        return (
          <line
            key={i}
            x1={from}
            x2={Math.max(from + 2, to)}
            y1={place}
            y2={place}
            stroke="transparent"
            strokeWidth={14}
            className="cursor-ns-resize"
            data-reach={i}
            {...dragSpeed({ index: i })}
            onClick={() => select({ kind: 'reach', index: i })}
            onDoubleClick={(e) => (e.stopPropagation(), editSpeed(i))}
          />
        );
      })}
    </g>
  );
}

export const Speed = drawnBy('speed', ({ bench, places }) => [...valuesOf(bench), places], SpeedPart);
