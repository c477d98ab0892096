import type { PointerEvent } from 'react';
import {
  type AccentTime,
  accentTimes,
  flickerSpots,
  isTransition,
  pullTransition,
  putAccents,
} from '@idle-bend/core/accent';
import type { AccentSet, Project } from '@idle-bend/core/model';
import { makeDrag } from '../make-drag.ts';
import { CUE_Y } from '../reel/layout.ts';
import type { X } from '../reel/reel-view.ts';
import { editDuringGesture } from '../../session/session.ts';
import { select } from '../../session/bench-state.ts';
import { drawnBy } from '../../ui/drawn-by.ts';
import { landingPlaces } from '../../session/bench-clip.ts';

/** Closer than this, in pixels, accents are not drawn one by one. */
const CLOSEST = 2;
/** How wide the handle beside either end of a bar is, pixels. */
const HANDLE = 7;

/** Accents as small stars under the cues' line; vermilion where there are more flashes than is safe. */
function AccentsPart({ project, x }: { project: Project; x: X }) {
  const spots = flickerSpots(project);
  const [low, high] = x.range() as [number, number];
  let last = -Infinity;
  return accentTimes(project).map(({ set, at, frame, lead, frames }) => {
    if (set.on.kind === 'range')
      return (
        <Bar key={set.id} set={set} left={x(at)} right={x(at + frames)} pull={pullRange({ set, pixel: x(1) - x(0) })} />
      );
    const place = x(at);
    if (place < low || place > high || place - last < CLOSEST) return null;
    last = place;
    const harmful = set.look.kind === 'flash' && spots.some(({ from, to }) => at >= from - 0.5 && at <= to + 0.5);
    const y = CUE_Y + 5.5;
    if (isTransition(set) && frames > 0)
      return <Transition key={`${set.id} ${at}`} set={set} x={x} frame={frame} lead={lead} frames={frames} />;
    return (
      <path
        key={`${set.id} ${at}`}
        d={`M${place},${y - 4}L${place + 1.3},${y - 1.3}L${place + 4},${y}L${place + 1.3},${y + 1.3}L${place},${y + 4}L${place - 1.3},${y + 1.3}L${place - 4},${y}L${place - 1.3},${y - 1.3}Z`}
        fill={harmful ? 'var(--vermilion)' : 'var(--brass)'}
        className="cursor-pointer"
        data-accent={set.look.kind}
        onPointerDown={(event) => open(event, set)}
      >
        <title>{set.name}</title>
      </path>
    );
  });
}

function open(event: PointerEvent, { id }: AccentSet): void {
  if (event.button !== 0) return;
  event.stopPropagation();
  select({ kind: 'accents', id });
}

type End = 'from' | 'to';

/** A transition: a bar over the frames it takes, either side of its cut. */
function Transition({
  set,
  x,
  frame,
  lead,
  frames,
}: { set: AccentSet; x: X } & Omit<AccentTime, 'set' | 'at' | 'second'>) {
  const from = frame - lead;
  const pull = (end: End) =>
    drag({
      end,
      change: (dx) => {
        const moved = dx / (x(1) - x(0));
        return pullTransition(set, end, end === 'from' ? lead - moved : frames - lead + moved);
      },
    });
  return <Bar set={set} left={x(from)} right={x(from + frames)} pull={pull} />;
}

/** The ends of what goes on over a stretch are frames of the reel. */
const pullRange =
  ({ set, pixel }: { set: AccentSet; pixel: number }) =>
  (end: End) =>
    drag({
      end,
      change: (dx) => {
        const on = set.on as Extract<AccentSet['on'], { kind: 'range' }>;
        const at = Math.round(on[end] + dx / pixel);
        const [least, most] = end === 'from' ? [0, on.to - 1] : [on.from + 1, Infinity];
        return { ...set, on: { ...on, [end]: Math.max(least, Math.min(most, at)) } };
      },
    });

const drag = makeDrag<{ end: End; change: (dx: number) => AccentSet }>({
  hint: 'Makes it longer or shorter · one undo',
  move: ({ change }, { dx }) => editDuringGesture((before) => putAccents(before, change(dx))),
});

interface BarProps {
  readonly set: AccentSet;
  readonly left: number;
  readonly right: number;
  readonly pull: (end: End) => ReturnType<typeof drag>;
}

/** A bar as long as an accent is; its ends can be pulled. */
function Bar({ set, left, right, pull }: BarProps) {
  return (
    <g data-accent={set.look.kind}>
      <rect
        x={left}
        y={CUE_Y + 4}
        width={Math.max(2, right - left)}
        height={3.5}
        rx={1.5}
        fill="var(--brass)"
        fillOpacity={0.7}
        className="cursor-pointer"
        onPointerDown={(event) => open(event, set)}
      >
        <title>{set.name}</title>
      </rect>
      {(['from', 'to'] as const).map((end) => (
        <rect
          key={end}
          data-end={end}
          x={end === 'from' ? left - HANDLE : right}
          y={CUE_Y}
          width={HANDLE}
          height={11}
          fill="transparent"
          className="cursor-ew-resize"
          {...pull(end)}
        >
          <title>
            {set.name}: {end === 'from' ? 'begins' : 'ends'} here
          </title>
        </rect>
      ))}
    </g>
  );
}

export const Accents = drawnBy(
  'accents',
  ({ project, x }) => {
    const { accents, items } = project.reel;
    return [accents, accents.length > 0 && items, ...landingPlaces(project), x];
  },
  AccentsPart,
);
