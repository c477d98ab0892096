import type { KeyboardEvent } from 'react';
import { bendWindow, easeCurve, setBend } from '@idle-bend/core/time-map';
import { makeDrag } from '../make-drag.ts';
import { LENS_HEIGHT, TOP, type Places } from './places.ts';
import { editDuringGesture } from '../../session/session.ts';
import { select, type BenchClip } from '../../session/bench-state.ts';
import { movedBend, widenBend } from '../clip/commands.ts';
import { changeMap, editMap } from '../../session/command.ts';
import { useBench } from '../../ui/use-session.ts';
import { drawnBy } from '../../ui/drawn-by.ts';

/** Arrows move the handle outward or inward by a frame of width. */
function resize(event: KeyboardEvent, index: number, side: 'from' | 'to'): void {
  const outward = side === 'from' ? 'ArrowLeft' : 'ArrowRight';
  if (event.ctrlKey || (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight')) return;
  event.preventDefault();
  select({ kind: 'vertex', index });
  widenBend(event.key === outward ? 1 : -1);
}

/** Arrows move the bend by a frame. */
function slideByKey(event: KeyboardEvent, index: number): void {
  if (event.ctrlKey || (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight')) return;
  event.preventDefault();
  const by = event.key === 'ArrowLeft' ? -1 : 1;
  changeMap((map) => movedBend(map, index, Math.round(map.vertices[index]!.t) + by));
}

function LensesPart({ bench, places }: { bench: BenchClip; places: Places }) {
  const { map } = bench.clip;
  const { x } = places.scales;
  const selection = useBench((s) => s.selection);
  const middle = places.lensY + LENS_HEIGHT / 2;
  const drag = makeDrag<{ index: number; side: 'from' | 'to' }>({
    hint: 'Moves nothing outside the bend · Alt goes between frames',
    holdScales: true,
    move: ({ index, side }, { dx, event }) =>
      editDuringGesture((project) =>
        editMap(project, bench.clip.id, (start) => {
          const { ease, widthFrames } = start.bends[index]!;
          const { mean } = easeCurve(ease);
          const { t } = start.vertices[index]!;
          const edge = bendWindow(start, index)[side] + dx / (x(1) - x(0));
          const share = side === 'from' ? 1 - mean : mean;
          const dragged = share > 0 ? Math.max(0, (side === 'from' ? t - edge : edge - t) / share) : widthFrames;
          return setBend(start, index, { widthFrames: event.altKey ? dragged : Math.round(dragged) });
        }),
      ),
  });
  const slide = makeDrag<number>({
    hint: 'Moves the bend; its panel says what that keeps · Alt goes between frames',
    holdScales: true,
    move: (index, { dx, event }) =>
      editDuringGesture((project) =>
        editMap(project, bench.clip.id, (start) => {
          const dragged = start.vertices[index]!.t + dx / (x(1) - x(0));
          return movedBend(start, index, event.altKey ? dragged : Math.round(dragged));
        }),
      ),
  });
  return (
    <g>
      <text x={8} y={middle + 4} className="fill-faint font-mono text-[11px]">
        bends
      </text>
      {map.vertices.map((v, i) => {
        if (i === 0 || i === map.vertices.length - 1) return null;
        const { from, to } = bendWindow(map, i);
        const chosen = selection.kind === 'vertex' && selection.index === i;
        const [a, b] = [x(from), x(to)];
        const tall = 7;
        const slides = slide(i);
        return (
          <g key={i}>
            {chosen && (
              <rect
                x={a}
                y={TOP}
                width={Math.max(1, b - a)}
                height={places.chartBottom - TOP}
                fill="var(--river-mid)"
                opacity={0.28}
                pointerEvents="none"
              />
            )}
            <path
              d={
                b - a > 3
                  ? `M${a},${middle}Q${(a + b) / 2},${middle - 2 * tall} ${b},${middle}Q${(a + b) / 2},${middle + 2 * tall} ${a},${middle}`
                  : `M${x(v.t)},${middle - 6}l4,6l-4,6l-4,-6z`
              }
              fill={chosen ? 'var(--river)' : 'var(--river-mid)'}
              className="cursor-grab"
              role="slider"
              tabIndex={0}
              aria-label={`Place of bend ${i}`}
              aria-valuenow={Math.round(v.t)}
              // A press leaves the keys with the bench.
              onMouseDown={(e) => e.preventDefault()}
              onFocus={() => select({ kind: 'vertex', index: i })}
              onKeyDown={(e) => slideByKey(e, i)}
              onPointerDown={(e) => {
                slides.onPointerDown(e);
                e.stopPropagation();
                select({ kind: 'vertex', index: i });
              }}
            />
            {(['from', 'to'] as const).map((side) => (
              <rect
                key={side}
                x={(side === 'from' ? Math.min(a, x(v.t) - 5) : Math.max(b, x(v.t) + 5)) - 5}
                y={places.lensY + 1}
                width={10}
                height={LENS_HEIGHT - 2}
                rx={3}
                fill={chosen ? 'var(--sheet)' : 'transparent'}
                stroke={chosen ? 'var(--river)' : 'none'}
                className="cursor-ew-resize"
                role="slider"
                tabIndex={0}
                aria-label={`Width of bend ${i}, ${side === 'from' ? 'start' : 'end'}`}
                aria-valuenow={Math.round(map.bends[i]!.widthFrames)}
                onFocus={() => select({ kind: 'vertex', index: i })}
                onKeyDown={(e) => resize(e, i, side)}
                {...drag({ index: i, side })}
              />
            ))}
          </g>
        );
      })}
    </g>
  );
}

export const Lenses = drawnBy('bends', ({ bench, places }) => [bench.clip, places], LensesPart);
