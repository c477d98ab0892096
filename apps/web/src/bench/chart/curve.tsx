import { percentText } from '@idle-bend/core/time';
import { positionsInto, reachSlope } from '@idle-bend/core/time-map';
import { useMemo } from 'react';
import { LEFT, TOP, type Places } from './places.ts';
import { curvePath } from './scales.ts';
import { useSpeedDrag } from './speed-drag.ts';
import { vertexDrag } from './vertex-drag.ts';
import { editSpeed } from '../speed/type-speed.ts';
import { select, type BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';
import { drawnBy } from '../../ui/drawn-by.ts';
import { valuesOf, landingPlaces } from '../../session/bench-clip.ts';

function CurvePart({ bench, places }: { bench: BenchClip; places: Places }) {
  const { clip, frames, slope } = bench;
  const { x, y } = places.scales;
  const { map } = clip;
  const selection = useBench((s) => s.selection);
  const path = useMemo(() => curvePath(map, places.scales), [map, places.scales]);
  const every = Math.max(1, Math.ceil(3 / (x(1) - x(0))));
  const dots = useMemo(() => {
    const positions = positionsInto(map, 0, new Float64Array(frames));
    let inside = '';
    for (let k = 0; k < frames; k += every) inside += `M${x(k).toFixed(1)},${y(positions[k]!).toFixed(1)}h0`;
    return inside;
  }, [map, frames, every, x, y]);

  const dragVertex = vertexDrag(bench, places);
  const dragSpeed = useSpeedDrag(bench);

  return (
    <g>
      <path d={path} fill="none" stroke="var(--river)" strokeWidth={2.4} />
      <path d={dots} fill="none" stroke="var(--sheet)" strokeWidth={1.6} strokeLinecap="round" pointerEvents="none" />
      {map.vertices.slice(0, -1).map((v, i) => {
        const next = map.vertices[i + 1]!;
        const speed = reachSlope(map, i) / slope;
        const [cx, cy] = [(x(v.t) + x(next.t)) / 2, (y(v.s) + y(next.s)) / 2];
        const chosen = selection.kind === 'reach' && selection.index === i;
        const label = percentText(speed);
        const half = label.length * 3.9 + 8;
        return (
          <g key={i}>
            <line
              x1={x(v.t)}
              y1={y(v.s)}
              x2={x(next.t)}
              y2={y(next.s)}
              stroke="transparent"
              strokeWidth={12}
              className="cursor-pointer"
              onPointerDown={(e) => (e.stopPropagation(), select({ kind: 'reach', index: i }))}
              onDoubleClick={(e) => (e.stopPropagation(), editSpeed(i))}
            />
            {(x(next.t) - x(v.t) > half || chosen) && (
              <g
                tabIndex={0}
                role="button"
                aria-label={`Reach ${i + 1}, ${label}`}
                className="cursor-ns-resize"
                onFocus={() => select({ kind: 'reach', index: i })}
                {...dragSpeed({ index: i })}
                onClick={() => select({ kind: 'reach', index: i })}
                onDoubleClick={(e) => (e.stopPropagation(), editSpeed(i))}
                onKeyDown={(e) => e.key === 'Enter' && (e.stopPropagation(), editSpeed(i))}
                transform={`translate(${Math.min(places.right - half - 2, Math.max(LEFT + half + 2, cx + 4))},${Math.min(places.chartBottom - 14, Math.max(TOP + 14, cy + 20))})`}
              >
                <rect
                  x={-half}
                  y={-10}
                  width={half * 2}
                  height={20}
                  rx={10}
                  fill={chosen ? 'var(--river)' : 'var(--ink)'}
                />
                <text textAnchor="middle" y={4} className="fill-paper font-mono text-[12px]">
                  {label}
                </text>
              </g>
            )}
          </g>
        );
      })}
      {map.vertices.map((v, i) => {
        const chosen = selection.kind === 'vertex' && selection.index === i;
        const inner = i > 0 && i < map.vertices.length - 1;
        return (
          <circle
            key={i}
            cx={x(v.t)}
            cy={y(v.s)}
            r={chosen ? 7 : 5.5}
            fill="var(--sheet)"
            stroke={chosen ? 'var(--vermilion)' : 'var(--river)'}
            strokeWidth={2.4}
            className="cursor-move"
            tabIndex={0}
            role="button"
            aria-label={
              inner ? `Bend ${i} at frame ${Math.round(v.t)}` : i === 0 ? 'Start of the clip' : 'End of the clip'
            }
            onFocus={() => select({ kind: 'vertex', index: i })}
            {...dragVertex({ index: i })}
          />
        );
      })}
    </g>
  );
}

export const Curve = drawnBy(
  'curve',
  ({ bench, places }) => [...valuesOf(bench), ...landingPlaces(bench.project), places],
  CurvePart,
);
