import { isGroup } from '@idle-bend/core/model';
import { resolveClip } from '@idle-bend/core/resolve';
import { frameOfPosition } from '@idle-bend/core/sampling';
import { straightMap } from '@idle-bend/core/time-map';
import { useMemo } from 'react';
import { useFootage } from '../motion.ts';
import { smallOf, type Small } from '../strips.ts';
import { LEFT, TOP, type Places } from './places.ts';
import { type BenchClip } from '../../session/bench-state.ts';
import { drawnBy } from '../../ui/drawn-by.ts';

/** The source's own pictures up the side; of a group, what is in it at those times. */
function usePictures({ project, clip, source }: BenchClip): (frame: number) => Small | undefined {
  const footage = useFootage();
  return useMemo((): ((frame: number) => Small | undefined) => {
    if (!footage) return () => undefined;
    if (!isGroup(source)) return (frame) => smallOf(footage, source.id, frame);
    const show = resolveClip(project, { ...clip, map: straightMap(source.frames, 0, source.frames), end: 'hold' });
    return (frame) => {
      const shown = show(frame);
      return shown && smallOf(footage, shown.source.id, frameOfPosition(shown.source, shown.position));
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- of the project and the clip only what is in the group matters
  }, [footage, source, project.sources]);
}

function FilmstripPart({ bench, places }: { bench: BenchClip; places: Places }) {
  const { y } = places.scales;
  const pictureOf = usePictures(bench);
  const [low, high] = y.domain() as [number, number];
  const cell = 41;
  const rows = Math.max(2, Math.floor((places.chartBottom - TOP) / (cell + 4)));
  const rowHeight = (places.chartBottom - TOP) / rows;
  return (
    <g aria-hidden>
      {Array.from({ length: rows }, (_, i) => {
        const middle = TOP + rowHeight * (i + 0.5);
        const frame = Math.max(
          0,
          Math.min(bench.source.frames - 1, Math.round(frameOfPosition(bench.source, y.invert(middle)))),
        );
        if (frame < low - 1 || frame > high + 1) return null;
        const small = pictureOf(frame);
        return (
          <g key={i}>
            {small && (
              <svg
                x={8}
                y={middle - cell / 2 + 1}
                width={62}
                height={cell - 4}
                viewBox={`${small.index * 62} 0 62 ${cell - 4}`}
                preserveAspectRatio="none"
              >
                <image href={small.address} width={small.count * 62} height={cell - 4} preserveAspectRatio="none" />
              </svg>
            )}
            <text x={LEFT - 6} y={middle + 3.5} textAnchor="end" className="fill-faint font-mono text-[10px]">
              {String(frame).padStart(4, '0')}
            </text>
          </g>
        );
      })}
    </g>
  );
}

export const Filmstrip = drawnBy(
  'filmstrip',
  ({ bench: { source, project }, places }) => [source, isGroup(source) && project.sources, places],
  FilmstripPart,
);
