import { positionAt } from '@idle-bend/core/time-map';
import { LEFT, type Places } from './places.ts';
import { type BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';

export function Playhead({ bench, places }: { bench: BenchClip; places: Places }) {
  const { x, y } = places.scales;
  const k = Math.min(
    useBench((s) => s.k),
    bench.frames - 1,
  );
  const position = positionAt(bench.clip.map, k);
  return (
    <g pointerEvents="none">
      <line x1={x(k)} x2={x(k)} y1={0} y2={places.speedBottom} stroke="var(--vermilion)" strokeWidth={1.6} />
      <line x1={LEFT} x2={x(k)} y1={y(position)} y2={y(position)} stroke="var(--vermilion)" strokeDasharray="2 3" />
      <circle cx={x(k)} cy={y(position)} r={6} fill="none" stroke="var(--vermilion)" strokeWidth={2} />
    </g>
  );
}
