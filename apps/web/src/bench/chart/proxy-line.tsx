import { isGroup } from '@idle-bend/core/model';
import { frameOfPosition } from '@idle-bend/core/sampling';
import { usePieces } from '../../footage/pieces.ts';
import type { BenchClip } from '../../session/bench-state.ts';
import { useFootageOf } from '../motion.ts';
import { LEFT, TOP, type Places } from './places.ts';

/** Pixels it is drawn by. */
const STEP = 2;

/** While the proxy of the source is made: beside the source's frames, which of them have theirs already. */
export function ProxyLine({ bench: { source }, places }: { bench: BenchClip; places: Places }) {
  const footage = useFootageOf(source.id);
  const stretches = usePieces(footage);
  if (isGroup(source) || !stretches) return null;
  const { y } = places.scales;
  const isThere = (at: number) => {
    const frame = Math.round(frameOfPosition(source, y.invert(at)));
    return stretches.some(([first, end]) => frame >= first && frame < end);
  };
  let there = '';
  for (let at = TOP; at < places.chartBottom; at += STEP)
    if (isThere(at + STEP / 2)) there += `M0,${at}V${Math.min(at + STEP, places.chartBottom)}`;
  const count = stretches.reduce((sum, [first, end]) => sum + end - first, 0);
  const words = `${count} of ${source.frames} frames have their proxy`;
  return (
    <g transform={`translate(${LEFT - 2.5} 0)`} strokeWidth={4} role="img" aria-label={words} data-testid="proxy-line">
      <title>{words}; the others are shown from the original</title>
      <path d={`M0,${TOP}V${places.chartBottom}`} stroke="var(--line)" />
      <path d={there} stroke="var(--river)" />
    </g>
  );
}
