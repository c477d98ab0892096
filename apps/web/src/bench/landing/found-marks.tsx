import { findMoments, FOUND_NAMES } from '@idle-bend/core/landing';
import { positionOfFrame } from '@idle-bend/core/sampling';
import { useEffect, useMemo } from 'react';
import type { BenchClip } from '../../session/bench-state.ts';
import type { Places } from '../chart/places.ts';
import { useFootageOf } from '../motion.ts';
import { useHeard } from '../sound/use-sounds.ts';
import { foundStore, SHOWN, visitFound } from './found.ts';

/** Frames that may hit, as open diamonds on the curve: the likeliest is the largest. */
export function FoundMarks({ bench, places }: { bench: BenchClip; places: Places }) {
  const { project, clip, source, frames } = bench;
  const hits = useFootageOf(source.id)?.health?.hits;
  const onsets = useHeard(source.id)?.onsets;
  const list = useMemo(
    () => (hits ? findMoments(project, clip, { hits, onsets: onsets ?? [] }) : undefined),
    [project, clip, hits, onsets],
  );
  useEffect(() => foundStore.setState({ found: list && { clipId: clip.id, list } }), [clip.id, list]);
  const { x, y } = places.scales;
  return (
    <g data-testid="found-moments">
      {list?.slice(0, SHOWN).map((found, i) => {
        const { frame, shownAt, kind } = found;
        const [left, top, size] = [x(shownAt), y(positionOfFrame(source, frame)), i === 0 ? 6 : 4.5];
        return (
          <path
            key={frame}
            d={`M${left - size},${top}l${size},${-size}l${size},${size}l${-size},${size}z`}
            fill="var(--paper)"
            stroke="var(--river)"
            strokeWidth={1.4}
            className="cursor-pointer"
            onPointerDown={(e) => (e.stopPropagation(), visitFound(clip.id, found, frames))}
          >
            <title>
              {FOUND_NAMES[kind]}, source frame {frame}: M marks it
            </title>
          </path>
        );
      })}
    </g>
  );
}
