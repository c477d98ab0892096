import { nearestEvenSpeed } from '@idle-bend/core/cadence';
import { InvalidInput } from '@idle-bend/core/foundation';
import { reachSlope, setReachSpeed } from '@idle-bend/core/time-map';
import { makeDrag } from '../make-drag.ts';
import { editDuringGesture } from '../../session/session.ts';
import { type BenchClip } from '../../session/bench-state.ts';
import { editMap } from '../../session/command.ts';
import { useBench } from '../../ui/use-session.ts';

const PIXELS_PER_DOUBLING = 60;
/** How near, in octaves, an even speed catches a drag. */
const CATCH_OCTAVES = 0.05;
const MAX_DRAG_SPEED = 100;

/** Dragging a reach's speed up or down, caught by even speeds and whole percents. */
export function useSpeedDrag({ clip, slope, source, project: { reel } }: BenchClip) {
  const keep = useBench((s) => s.keep);
  const hint =
    keep === 'content'
      ? 'Keeps the content: the length gives, what follows slides'
      : 'Keeps the slot: the content after it slips';
  return makeDrag<{ index: number }>({
    hint: `${hint} · Alt goes off the even speeds`,
    move: ({ index }, { dy, event }) =>
      editDuringGesture((project) => {
        try {
          return editMap(project, clip.id, (start) => {
            const was = reachSlope(start, index) / slope;
            const dragged = (was === 0 ? 0.05 : was) * 2 ** (-dy / PIXELS_PER_DOUBLING);
            const even = nearestEvenSpeed(dragged, source.readAs, reel.rate, CATCH_OCTAVES);
            const clean = even ?? (Math.round(dragged * 100) / 100 || Math.sign(dragged) * 0.01);
            return setReachSpeed(
              start,
              index,
              Math.max(-MAX_DRAG_SPEED, Math.min(MAX_DRAG_SPEED, event.altKey ? dragged : clean)),
              slope,
              keep,
            );
          });
        } catch (error) {
          if (error instanceof InvalidInput) return project;
          throw error;
        }
      }),
  });
}
