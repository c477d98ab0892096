import type { PointerEvent } from 'react';
import { accentTimes, flickerSpots } from '@idle-bend/core/accent';
import type { AccentSet, Project } from '@idle-bend/core/model';
import { CUE_Y } from '../reel/layout.ts';
import type { X } from '../reel/reel-view.ts';
import { select } from '../../session/bench-state.ts';
import { drawnBy } from '../../ui/drawn-by.ts';
import { landingPlaces } from '../../session/bench-clip.ts';

/** Closer than this, in pixels, accents are not drawn one by one. */
const CLOSEST = 2;

/** Accents as small stars under the cues' line; vermilion where there are more flashes than is safe. */
function AccentsPart({ project, x }: { project: Project; x: X }) {
  const spots = flickerSpots(project);
  const [low, high] = x.range() as [number, number];
  let last = -Infinity;
  return accentTimes(project).map(({ set, at, frames }) => {
    if (set.on.kind === 'range') return <Stretch key={set.id} set={set} left={x(at)} right={x(at + frames)} />;
    const place = x(at);
    if (place < low || place > high || place - last < CLOSEST) return null;
    last = place;
    const harmful = set.look.kind === 'flash' && spots.some(({ from, to }) => at >= from - 0.5 && at <= to + 0.5);
    const y = CUE_Y + 5.5;
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

/** What goes on over a stretch: a bar as long as that. */
function Stretch({ set, left, right }: { set: AccentSet; left: number; right: number }) {
  return (
    <rect
      x={left}
      y={CUE_Y + 4}
      width={Math.max(2, right - left)}
      height={3.5}
      rx={1.5}
      fill="var(--brass)"
      fillOpacity={0.7}
      className="cursor-pointer"
      data-accent={set.look.kind}
      onPointerDown={(event) => open(event, set)}
    >
      <title>{set.name}</title>
    </rect>
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
