import { percentText } from '@idle-bend/core/time';
import { reachSlope } from '@idle-bend/core/time-map';
import { useMemo } from 'react';
import { curvePath } from '../chart/scales.ts';
import { LEFT, type Places, TOP } from '../chart/places.ts';
import type { BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';

/** The curve a clip could have instead, while it can still be taken. */
export function OtherLandingCurve({ bench, places }: { bench: BenchClip; places: Places }) {
  const other = useBench((s) => s.otherWay);
  const shown = other?.of === bench.project && other.clipId === bench.clip.id ? other : undefined;
  const item = shown?.project.reel.items.find(({ id }) => id === bench.clip.id);
  const map = item?.kind === 'clip' ? item.map : undefined;
  const path = useMemo(() => (map ? curvePath(map, places.scales) : ''), [map, places.scales]);
  if (!shown || !map) return null;
  const speeds = map.vertices.slice(1).map((_, i) => percentText(reachSlope(map, i) / bench.slope));
  const shownSpeeds = speeds.length > 4 ? [...speeds.slice(0, 3), '…'] : speeds;
  return (
    <g pointerEvents="none" data-testid="other-landing">
      <path d={path} fill="none" stroke="var(--faint)" strokeWidth={1.6} strokeDasharray="5 4" />
      <text x={LEFT + 14} y={TOP + 20} className="fill-faint font-mono text-[12px]">
        <tspan>
          T · {shown.name}: {shown.real.after} of {shown.real.of} real
        </tspan>
        <tspan x={LEFT + 14} dy={17}>
          {shownSpeeds.join(' · ')}
        </tspan>
      </text>
    </g>
  );
}
