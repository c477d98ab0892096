import type { Project } from '@idle-bend/core/model';
import { useBench } from '../../ui/use-session.ts';

/** Shares of the picture that screens leave in sight: of pictures, and of text. */
const SAFE = [0.9, 0.8] as const;

/** While a title's settings are open: how near the edges it may be. */
export function SafeAreas({ project }: { project: Project }) {
  const isOpen = useBench(({ selection }) => {
    if (selection.kind !== 'accents') return false;
    const { accents } = project.reel;
    return (accents.find(({ id }) => id === selection.id) ?? accents[0])?.look.kind === 'title';
  });
  if (!isOpen) return null;
  const { width, height } = project.reel;
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      className="pointer-events-none absolute inset-0 h-full w-full"
      data-testid="safe-areas"
      aria-hidden
    >
      {SAFE.map((share) => (
        <rect
          key={share}
          x={(width * (1 - share)) / 2}
          y={(height * (1 - share)) / 2}
          width={width * share}
          height={height * share}
          fill="none"
          stroke="white"
          strokeOpacity={0.6}
          strokeDasharray="6 5"
          vectorEffect="non-scaling-stroke"
        />
      ))}
    </svg>
  );
}
