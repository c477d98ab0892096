import { positionOfFrame } from '@idle-bend/core/sampling';
import { driftsOf } from './commands.ts';
import type { Places } from '../chart/places.ts';
import { select, type BenchClip } from '../../session/bench-state.ts';

/** Where a tied moment's line meets its cue's: a ring, moss and whole when the curve passes through, vermilion and broken when not. */
export function LandingRings({ bench, places }: { bench: BenchClip; places: Places }) {
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
