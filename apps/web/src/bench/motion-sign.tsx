import { motionWords, type SideMotion } from '@idle-bend/core/motion';

/** A small sign for how a picture as a whole moves: an arrow its way, chevrons out or in for a push, a bow for a roll; nothing where it rests. */
export function MotionSign({ motion, x, y, size = 5 }: { motion: SideMotion; x: number; y: number; size?: number }) {
  const path = pathOf(motion, size);
  if (!path) return null;
  const turned =
    motion.kind === 'shift'
      ? `rotate(${motion.degrees!.toFixed(1)})`
      : motion.kind === 'roll' && motion.perFrame < 0
        ? 'scale(-1 1)'
        : '';
  return (
    <path
      d={path}
      transform={`translate(${x.toFixed(1)} ${y.toFixed(1)}) ${turned}`}
      fill="none"
      stroke="var(--river)"
      strokeWidth={1.5}
      strokeLinecap="round"
      strokeLinejoin="round"
      data-motion={motion.kind}
      data-degrees={motion.degrees?.toFixed(0)}
    >
      <title>{motionWords(motion)}</title>
    </path>
  );
}

function pathOf({ kind, perFrame }: SideMotion, r: number): string | undefined {
  const h = r * 0.55;
  if (kind === 'shift') return `M${-r},0H${r}M${r - h},${-h}L${r},0L${r - h},${h}`;
  // Outward where it grows, inward where it shrinks.
  const [tip, back] = perFrame > 0 ? [r, r - h] : [r - h, r];
  if (kind === 'push') return `M${-back},${-h}L${-tip},0L${-back},${h}M${back},${-h}L${tip},0L${back},${h}M0,0h0`;
  if (kind === 'roll')
    return `M${-r},${r * 0.4}A${r},${r} 0 0 1 ${r},${r * 0.4}M${r - h * 1.2},${r * 0.1}L${r},${r * 0.4}L${r + h * 0.5},${-r * 0.35}`;
  return undefined;
}
