import { frameOfPosition } from '@idle-bend/core/sampling';
import { percentText } from '@idle-bend/core/time';
import { positionAt, speedAt } from '@idle-bend/core/time-map';
import { inUnits, useUnits } from '../units.ts';
import { LETTER, TOP, type Places } from './places.ts';
import { type BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';

/** What the clip does at the timeline frame under the pointer: when, which source frame, how fast. */
export function PointerReadout({ bench, places }: { bench: BenchClip; places: Places }) {
  const at = useBench((s) => s.pointerAt);
  const units = useUnits((s) => s.units);
  if (at === undefined || at >= bench.frames) return null;
  const { clip, source, project, start, slope } = bench;
  const position = frameOfPosition(source, positionAt(clip.map, at));
  const words = `${inUnits(start + at, project.reel.rate, units)} · ${position.toFixed(2)} · ${percentText(speedAt(clip.map, at, slope))}`;
  const width = LETTER * words.length;
  const { x, y } = places.scales;
  const place = y(positionAt(clip.map, at));
  // Below the chart, among its times, so that it covers neither the curve nor what stands in it.
  const toLeft = x(at) > places.right - 230;
  return (
    <g pointerEvents="none">
      <line x1={x(at)} x2={x(at)} y1={TOP} y2={places.speedBottom} stroke="var(--faint)" strokeDasharray="1 3" />
      <circle cx={x(at)} cy={place} r={3} fill="var(--faint)" />
      <rect
        x={x(at) + (toLeft ? -12 - width : 4)}
        y={places.chartBottom + 1}
        width={width + 8}
        height={14}
        fill="var(--shoal)"
      />
      <text
        x={x(at) + (toLeft ? -8 : 8)}
        y={places.chartBottom + 12}
        textAnchor={toLeft ? 'end' : 'start'}
        className="fill-ink font-mono text-[11px]"
        data-testid="pointer-readout"
      >
        {words}
      </text>
    </g>
  );
}
