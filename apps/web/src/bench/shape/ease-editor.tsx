import { InvalidInput } from '@idle-bend/core/foundation';
import { setBend, type BezierEase } from '@idle-bend/core/time-map';
import type { KeyboardEvent } from 'react';
import { makeDrag } from '../make-drag.ts';
import { easePath } from './ease-drawing.tsx';
import { editDuringGesture } from '../../session/session.ts';
import { type BenchClip } from '../../session/bench-state.ts';
import { changeMap, editMap } from '../../session/command.ts';

const WIDTH = 400;
const HEIGHT = 96;
const EDGE = 16;
const ACROSS = WIDTH - 2 * EDGE;
const UP = HEIGHT - 2 * EDGE;
const HUNDREDTH = 0.01;

type Handle = 0 | 1;

/** The ease with one of its handles moved; x stays in 0…1. */
function withHandle([x1, y1, x2, y2]: BezierEase, handle: Handle, x: number, y: number): BezierEase {
  const place: [number, number] = [Math.min(1, Math.max(0, round(x))), round(y)];
  return handle === 0 ? [...place, x2, y2] : [x1, y1, ...place];
}
const round = (n: number) => Math.round(n / HUNDREDTH) * HUNDREDTH;

/** A shape of one's own: the two handles of its curve, dragged or moved by arrow keys. */
export function EaseEditor({
  bench,
  index,
  ease,
  falls,
}: {
  bench: BenchClip;
  index: number;
  ease: BezierEase;
  falls: boolean;
}) {
  const at = (x: number, y: number) => ({ x: EDGE + x * ACROSS, y: HEIGHT - EDGE - (falls ? 1 - y : y) * UP });
  const drag = makeDrag<{ handle: Handle; from: BezierEase }>({
    hint: 'Moves nothing outside the bend',
    move: ({ handle, from }, { dx, dy }) =>
      editDuringGesture((project) => {
        const [x, y] = [from[handle * 2]!, from[handle * 2 + 1]!];
        const dragged = withHandle(from, handle, x + dx / ACROSS, y + ((falls ? 1 : -1) * dy) / UP);
        try {
          return editMap(project, bench.clip.id, (map) => setBend(map, index, { ease: dragged }));
        } catch (error) {
          if (error instanceof InvalidInput) return project;
          throw error;
        }
      }),
  });
  const nudge = (handle: Handle) => (event: KeyboardEvent) => {
    const way = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, falls ? -1 : 1],
      ArrowDown: [0, falls ? 1 : -1],
    }[event.key];
    if (!way || event.ctrlKey) return;
    event.preventDefault();
    event.stopPropagation();
    const dragged = withHandle(
      ease,
      handle,
      ease[handle * 2]! + way[0]! * HUNDREDTH,
      ease[handle * 2 + 1]! + way[1]! * HUNDREDTH,
    );
    changeMap((map) => setBend(map, index, { ease: dragged }));
  };
  const ends = [at(0, 0), at(1, 1)];
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="border-line bg-sheet block w-full touch-none rounded-lg border"
      role="group"
      aria-label="Own shape"
    >
      <rect x={EDGE} y={EDGE} width={ACROSS} height={UP} fill="none" stroke="var(--line)" />
      <path d={easePath(ease, falls, WIDTH, HEIGHT, EDGE)} fill="none" stroke="var(--river)" strokeWidth={2.4} />
      {([0, 1] as const).map((handle) => {
        const place = at(ease[handle * 2]!, ease[handle * 2 + 1]!);
        return (
          <g key={handle}>
            <line
              x1={ends[handle]!.x}
              y1={ends[handle]!.y}
              x2={place.x}
              y2={place.y}
              stroke="var(--brass)"
              strokeWidth={1.4}
            />
            <circle
              cx={place.x}
              cy={place.y}
              r={6}
              fill="var(--sheet)"
              stroke="var(--brass)"
              strokeWidth={2.2}
              className="cursor-move"
              tabIndex={0}
              role="slider"
              aria-label={handle === 0 ? 'Handle of the start' : 'Handle of the end'}
              aria-valuenow={Math.round(ease[handle * 2]! * 100)}
              aria-valuetext={`${ease[handle * 2]!.toFixed(2)} across, ${ease[handle * 2 + 1]!.toFixed(2)} up`}
              onKeyDown={nudge(handle)}
              {...drag({ handle, from: ease })}
            />
          </g>
        );
      })}
    </svg>
  );
}
