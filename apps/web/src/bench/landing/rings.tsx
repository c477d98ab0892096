import { positionOfFrame } from '@idle-bend/core/sampling';
import { driftsOf } from './drifts.ts';
import type { Places } from '../chart/places.ts';
import { select, type BenchClip } from '../../session/bench-state.ts';
import { drawnBy } from '../../ui/drawn-by.ts';
import { valuesOf } from '../../session/bench-clip.ts';

/** Where a tied moment's line meets its cue's: a ring, moss and whole when the curve passes through, vermilion and broken when not. */
function LandingRingsPart({ bench, places }: { bench: BenchClip; places: Places }) {
  const { x, y } = places.scales;
  return (
    <g>
      {driftsOf(bench)
        .filter((d) => d.tied)
        .map(({ moment, cue, landed }) => (
          <circle
            key={moment.id}
            cx={x(Math.round(cue.frame) - bench.start)}
            cy={y(positionOfFrame(bench.source, moment.frame))}
            r={10}
            fill="transparent"
            stroke={landed ? 'var(--moss)' : 'var(--vermilion)'}
            strokeWidth={3}
            strokeDasharray={landed ? undefined : '4 3'}
            className="cursor-pointer"
            onPointerDown={(e) => (e.stopPropagation(), select({ kind: 'moment', id: moment.id }))}
          />
        ))}
    </g>
  );
}

export const LandingRings = drawnBy(
  'landings',
  ({ bench, places }) => [...valuesOf(bench), bench.project.reel.cues, places],
  LandingRingsPart,
);
