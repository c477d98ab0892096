import type { KeyboardEvent } from 'react';
import { makeDrag } from '../make-drag.ts';
import { pickRange } from '../speed/range-commands.ts';
import { benchStore } from '../../session/bench-state.ts';
import { current } from '../../session/command.ts';
import { TOP, type Places } from './places.ts';
import { useBench } from '../../ui/use-session.ts';
import { drawnBy } from '../../ui/drawn-by.ts';

/** Arrows move an end of the range by a frame. */
function moveEnd(event: KeyboardEvent, side: 'from' | 'to'): void {
  const bench = current();
  const { range } = benchStore.getState();
  if (!bench || !range || event.ctrlKey || (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight')) return;
  event.preventDefault();
  const by = event.key === 'ArrowLeft' ? -1 : 1;
  const [from, to] = [range.from + (side === 'from' ? by : 0), range.to + (side === 'to' ? by : 0)];
  if (to > from) pickRange(from, to - 1, bench.frames);
}

/** The picked stretch, over the chart and all that stands under it. */
function RangeBandPart({ places }: { places: Places }) {
  const range = useBench((s) => s.range);
  if (!range) return null;
  const { x } = places.scales;
  const [left, right] = [x(range.from), x(range.to)];
  const drag = makeDrag<'from' | 'to'>({
    hint: 'Moves this end of the range, frame by frame',
    move: (side, { dx }) => {
      const bench = current();
      if (!bench) return;
      const by = dx / (x(1) - x(0));
      // As it was when the drag began: this is drawn again only with the range.
      const dragged = range[side] + by;
      if (side === 'from') pickRange(Math.min(dragged, range.to - 1), range.to - 1, bench.frames);
      else pickRange(range.from, Math.max(dragged, range.from + 1) - 1, bench.frames);
    },
  });
  return (
    <g pointerEvents="none">
      <rect
        x={left}
        y={TOP}
        width={Math.max(1, right - left)}
        height={places.speedBottom - TOP}
        fill="var(--brass)"
        opacity={0.12}
      />
      {[left, right].map((at, i) => (
        <line
          key={i}
          x1={at}
          x2={at}
          y1={TOP}
          y2={places.speedBottom}
          stroke="var(--brass)"
          strokeWidth={1.4}
          strokeDasharray="6 4"
        />
      ))}
      {(['from', 'to'] as const).map((side) => (
        <rect
          key={side}
          x={(side === 'from' ? left : right) - 5}
          y={TOP}
          width={10}
          height={26}
          rx={3}
          fill="var(--sheet)"
          stroke="var(--brass)"
          pointerEvents="all"
          className="cursor-ew-resize"
          role="slider"
          tabIndex={0}
          aria-label={side === 'from' ? 'Start of the range' : 'End of the range'}
          aria-valuenow={range[side]}
          onMouseDown={(e) => e.preventDefault()}
          onKeyDown={(e) => moveEnd(e, side)}
          {...drag(side)}
        />
      ))}
    </g>
  );
}

export const RangeBand = drawnBy('range band', ({ places }) => [places], RangeBandPart);
