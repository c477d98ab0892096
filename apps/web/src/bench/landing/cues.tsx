import { CUE_Y } from '../reel/layout.ts';
import type { X } from '../reel/reel-view.ts';
import { select, type BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';
import { drawnBy } from '../../ui/drawn-by.ts';

function CuesPart({ bench, x }: { bench: BenchClip; x: X }) {
  const selection = useBench((s) => s.selection);
  const [low, high] = x.range() as [number, number];
  const { cues } = bench.project.reel;
  return (
    <g>
      <line x1={low} x2={high} y1={CUE_Y} y2={CUE_Y} stroke="var(--brass-pale)" pointerEvents="none" />
      {cues.map((cue, i) => {
        const at = x(cue.frame);
        if (at < low - 8 || at > high + 8) return null;
        const chosen = selection.kind === 'cue' && selection.id === cue.id;
        const next = cues[i + 1];
        const room = Math.min(next ? x(next.frame) - at : Infinity, high - at + 60) - 16;
        const toLeft = at > high - 70;
        return (
          <g
            key={cue.id}
            data-cue={cue.id}
            className="cursor-pointer"
            onPointerDown={(e) => (e.stopPropagation(), select({ kind: 'cue', id: cue.id }))}
          >
            <circle
              cx={at}
              cy={CUE_Y}
              r={chosen ? 6 : 4.5}
              fill="var(--brass)"
              stroke={chosen ? 'var(--ink)' : 'none'}
              strokeWidth={1.5}
            />
            {room > cue.name.length * 6.7 || chosen ? (
              <text
                x={at + (toLeft ? -9 : 9)}
                y={CUE_Y + (cue.beat ? -6 : 4)}
                textAnchor={toLeft ? 'end' : 'start'}
                className="fill-brass font-mono text-[11px]"
              >
                {cue.name}
              </text>
            ) : (
              <title>{cue.name}</title>
            )}
          </g>
        );
      })}
    </g>
  );
}

export const Cues = drawnBy('cues', ({ bench, x }) => [bench.project.reel.cues, x], CuesPart);
