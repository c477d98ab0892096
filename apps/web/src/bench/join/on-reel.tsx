import type { Project } from '@idle-bend/core/model';
import { peakSpeeds, placeOf } from '@idle-bend/core/reel';
import { percentText } from '@idle-bend/core/time';
import { CLIP_BOTTOM } from '../reel/layout.ts';
import type { X } from '../reel/reel-view.ts';
import { select } from '../../session/bench-state.ts';
import { goToFrame } from '../../session/command.ts';
import { useBench } from '../../ui/use-session.ts';
import { drawnBy } from '../../ui/drawn-by.ts';

const HEIGHT = 11;

/** Ramp joins: a hill under the cut, as wide as both ramps, that is pressed to change them. */
function JoinsPart({ project, x }: { project: Project; x: X }) {
  const chosen = useBench((s) => (s.selection.kind === 'join' ? s.selection.id : undefined));
  return project.reel.joins.map((join) => {
    const cut = placeOf(project, join.after)?.start;
    if (cut === undefined) return null;
    const [left, top, right] = [x(cut - join.into), x(cut), x(cut + join.outOf)];
    const [first, second] = peakSpeeds(join);
    return (
      <path
        key={join.id}
        d={`M${left},${CLIP_BOTTOM}Q${(left + top) / 2},${CLIP_BOTTOM} ${top},${CLIP_BOTTOM - HEIGHT}Q${(top + right) / 2},${CLIP_BOTTOM} ${right},${CLIP_BOTTOM}Z`}
        fill="var(--river)"
        fillOpacity={join.before === chosen ? 0.95 : 0.6}
        stroke="var(--sheet)"
        className="cursor-pointer"
        role="button"
        aria-label="Ramp join"
        data-join={join.id}
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          event.stopPropagation();
          goToFrame(Math.max(0, cut - 1));
          select({ kind: 'join', id: join.before });
        }}
      >
        <title>{`Ramp join: ${first === second ? percentText(first) : `${percentText(first)} and ${percentText(second)}`} at the cut`}</title>
      </path>
    );
  });
}

export const Joins = drawnBy(
  'joins',
  ({ project, x }) => [project.reel.joins, project.reel.joins.length > 0 && project.reel.items, x],
  JoinsPart,
);
