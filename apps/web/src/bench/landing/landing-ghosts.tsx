import { useEffect, useState } from 'react';
import { LEFT, type Places, TOP } from '../chart/places.ts';
import { curvePath } from '../chart/scales.ts';
import type { BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';
import { waysToLand } from './commands.ts';

/** So long nothing may change before both ways are worked out, milliseconds. */
const QUIET_MS = 150;

interface Ghosts {
  readonly of: BenchClip['project'];
  readonly momentId: string;
  readonly ways: readonly { readonly name: string; readonly words: string; readonly path: string }[];
}

/** What landing the selected moment would make of the curve, both ways, with what each costs in real frames. */
export function LandingGhosts({ bench, places }: { bench: BenchClip; places: Places }) {
  const momentId = useBench((s) => (s.selection.kind === 'moment' && s.clock === 0 ? s.selection.id : undefined));
  const isOffered = useBench((s) => s.otherWay?.of === bench.project);
  const isDragged = useBench((s) => s.dragHint !== undefined);
  const [ghosts, setGhosts] = useState<Ghosts>();
  const isAsked = momentId !== undefined && !isOffered && !isDragged;
  useEffect(() => {
    if (!isAsked) return;
    const timer = setTimeout(() => {
      const ways = waysToLand(bench, momentId).flatMap(({ name, real, project }) => {
        const item = project.reel.items.find(({ id }) => id === bench.clip.id);
        if (item?.kind !== 'clip') return [];
        return [{ name, words: `${real.after} of ${real.of} real`, path: curvePath(item.map, places.scales) }];
      });
      setGhosts({ of: bench.project, momentId, ways });
    }, QUIET_MS);
    return () => clearTimeout(timer);
  }, [isAsked, momentId, bench, places.scales]);
  if (!isAsked || ghosts?.of !== bench.project || ghosts.momentId !== momentId) return null;
  return (
    <g pointerEvents="none" data-testid="landing-ghosts">
      {ghosts.ways.map(({ name, words, path }, i) => (
        <g key={name}>
          <path
            d={path}
            fill="none"
            stroke={i === 0 ? 'var(--moss)' : 'var(--faint)'}
            strokeWidth={1.6}
            strokeDasharray={i === 0 ? '7 4' : '2 4'}
          />
          <text
            x={LEFT + 14}
            y={TOP + 20 + 17 * i}
            className={`${i === 0 ? 'fill-moss' : 'fill-faint'} font-mono text-[12px]`}
          >
            {i === 0 ? 'T' : 'T T'} · {name}: {words}
          </text>
        </g>
      ))}
    </g>
  );
}
