import { setReelRange } from '@idle-bend/core/edit';
import { reelFrames } from '@idle-bend/core/reel';
import { makeDrag } from '../make-drag.ts';
import { caughtFrame } from './catch.ts';
import { RULER } from './layout.ts';
import type { X } from './reel-view.ts';
import { editDuringGesture } from '../../session/session.ts';
import { type BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';
import { drawnBy } from '../../ui/drawn-by.ts';

/** The reel's range on its ruler; its ends can be dragged. */
function ReelRangePart({ bench: { project }, x, height }: { bench: BenchClip; x: X; height: number }) {
  const looped = useBench((s) => s.reelLoop);
  const pixel = x(1) - x(0);
  const drag = makeDrag<'from' | 'to'>({
    hint: 'Moves the end of the reel’s range · Alt lets go of cues and beats',
    move: (end, { dx, event }) =>
      editDuringGesture((before) => {
        const range = before.reel.range!;
        const moved = range[end] + dx / pixel;
        const at = Math.max(0, event.altKey ? Math.round(moved) : caughtFrame(before, moved, pixel));
        const last = Math.max(reelFrames(before), range.to);
        return setReelRange(
          before,
          end === 'from'
            ? { ...range, from: Math.min(range.to - 1, at) }
            : { ...range, to: Math.min(last, Math.max(range.from + 1, at)) },
        );
      }),
  });
  const { range } = project.reel;
  if (!range) return null;
  const [left, right] = [x(range.from), x(range.to)];
  return (
    <g data-testid="reel-range" data-from={range.from} data-to={range.to}>
      <rect
        x={left}
        y={0}
        width={Math.max(1, right - left)}
        height={RULER}
        fill="var(--river)"
        fillOpacity={0.16}
        pointerEvents="none"
      />
      <rect
        x={left}
        y={RULER - 3}
        width={Math.max(1, right - left)}
        height={3}
        fill="var(--river)"
        pointerEvents="none"
      />
      {looped && (
        <rect
          x={left}
          y={RULER}
          width={Math.max(1, right - left)}
          height={height - RULER}
          fill="var(--river)"
          fillOpacity={0.05}
          pointerEvents="none"
        />
      )}
      {(['from', 'to'] as const).map((end) => (
        <g key={end} className="cursor-ew-resize" data-testid={`reel-range-${end}`} {...drag(end)}>
          <path
            d={
              end === 'from' ? `M${left},2h5M${left},2v14M${left},16h5` : `M${right},2h-5M${right},2v14M${right},16h-5`
            }
            fill="none"
            stroke="var(--river)"
            strokeWidth={2}
          />
          <rect x={(end === 'from' ? left : right) - 6} y={0} width={12} height={RULER} fill="transparent" />
        </g>
      ))}
    </g>
  );
}

export const ReelRange = drawnBy(
  'reel range',
  ({ bench, x, height }) => [bench.project.reel.range, x, height],
  ReelRangePart,
);
