import type { Footage } from '@idle-bend/core/api';
import { motionStretches, motionWords } from '@idle-bend/core/motion';
import { useMemo } from 'react';
import { MotionSign } from '../bench/motion-sign.tsx';
import { useMotion } from '../bench/motion.ts';

const WIDTH = 240;
const HEIGHT = 18;
/** Stretches get room by their length, each for its sign at least. */
const LEAST = 16;

/** How the picture as a whole moves through the film, stretch by stretch, as signs in the order of its frames. */
export function MotionStrip({ footage }: { footage: Footage }) {
  const { motion } = useMotion(footage.id, false);
  const stretches = useMemo(() => (motion ? motionStretches(motion) : []), [motion]);
  if (stretches.length === 0) return null;
  const frames = stretches.at(-1)!.to;
  const words = stretches.map((each) => `${motionWords(each)}, frames ${each.from} to ${each.to}`).join('; ');
  if (stretches.every(({ kind }) => kind === 'still' || kind === 'unclear'))
    return (
      <p className="text-faint text-xs" data-tip={words}>
        {stretches.every(({ kind }) => kind === 'still')
          ? 'The camera stands still.'
          : 'No common motion of the picture.'}
      </p>
    );
  const x = (frame: number) => (frame / frames) * WIDTH;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="mt-1 h-[18px] w-full max-w-[240px]"
      role="img"
      aria-label={`The picture ${words}`}
    >
      <line x1={0} x2={WIDTH} y1={HEIGHT - 1} y2={HEIGHT - 1} stroke="var(--line)" />
      {stretches.map((each) => (
        <g key={each.from}>
          <line x1={x(each.from)} x2={x(each.from)} y1={HEIGHT - 5} y2={HEIGHT - 1} stroke="var(--line)" />
          {x(each.to) - x(each.from) >= LEAST && (
            <MotionSign motion={each} x={x((each.from + each.to) / 2)} y={8} size={6} />
          )}
        </g>
      ))}
    </svg>
  );
}
