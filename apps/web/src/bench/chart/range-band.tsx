import { TOP, type Places } from './places.ts';
import { useBench } from '../../ui/use-session.ts';
import { drawnBy } from '../../ui/drawn-by.ts';

/** The picked stretch, over the chart and all that stands under it. */
function RangeBandPart({ places }: { places: Places }) {
  const range = useBench((s) => s.range);
  if (!range) return null;
  const { x } = places.scales;
  const [left, right] = [x(range.from), x(range.to)];
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
    </g>
  );
}

export const RangeBand = drawnBy('range band', ({ places }) => [places], RangeBandPart);
