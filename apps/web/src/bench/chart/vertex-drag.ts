import { cleanPlace } from '@idle-bend/core/clean';
import { reelBeats } from '@idle-bend/core/reel';
import { positionOfFrame } from '@idle-bend/core/sampling';
import { moveVertex, type VertexDrag } from '@idle-bend/core/time-map';
import { makeDrag } from '../make-drag.ts';
import type { Places } from './places.ts';
import { editDuringGesture } from '../../session/session.ts';
import { benchStore, type BenchClip } from '../../session/bench-state.ts';
import { current, editMap } from '../../session/command.ts';

/** How near, in pixels, a cue or a moment catches what is dragged. */
const CATCH_PIXELS = 7;

/** The nearest of `marks` within reach. */
function caught(dragged: number, marks: readonly number[], pixelsPerFrame: number): number | undefined {
  const near = marks.filter((m) => Math.abs(m - dragged) * pixelsPerFrame <= CATCH_PIXELS);
  return near.length > 0 ? near.reduce((a, b) => (Math.abs(a - dragged) <= Math.abs(b - dragged) ? a : b)) : undefined;
}

/** While the clip's end is dragged: how long it is now, and what of the source that asks for. */
function framesNeeded(): string {
  const { clip, slope } = current()!;
  const [first, last] = [clip.map.vertices[0]!, clip.map.vertices.at(-1)!];
  const short = (n: number) => String(Math.round(n * 10) / 10);
  return `${short(last.t)} frames · at 100 % they need ${short(last.t * slope)} source frames, there are ${short(Math.abs(last.s - first.s))} · Shift keeps the speed, Alt goes free`;
}

/** Dragging a vertex: caught by cues across, moments up, and whole frames. */
export function vertexDrag({ clip, source, start: clipStart, project }: BenchClip, { scales: { x, y } }: Places) {
  const across = x(1) - x(0);
  const up = y(1) - y(0);
  return makeDrag<{ index: number }>({
    hint: 'Caught by cues, moments, clean speeds and frames · Shift keeps the speed before, Ctrl the speed after, Alt goes free',
    holdScales: true,
    move: ({ index }, { dx, dy, event }) => {
      editDuringGesture((before) =>
        editMap(before, clip.id, (map) => {
          const from = map.vertices[index]!;
          const dragged = { t: from.t + dx / across, s: from.s + dy / up };
          const marks = [...project.reel.cues, ...reelBeats(project)];
          const cues = marks.map((c) => Math.round(c.frame) - clipStart);
          const moments = source.moments.map((m) => positionOfFrame(source, m.frame));
          const how: VertexDrag = event.shiftKey ? 'left' : event.ctrlKey || event.metaKey ? 'right' : 'free';
          if (event.altKey) return moveVertex(map, index, dragged, how);
          const mark = { t: caught(dragged.t, cues, across), s: caught(dragged.s, moments, Math.abs(up)) };
          const near = { t: CATCH_PIXELS / across, s: CATCH_PIXELS / Math.abs(up) };
          const clean =
            mark.t === undefined && mark.s === undefined ? cleanPlace(map, index, dragged, near, how) : undefined;
          const to = clean ?? { t: mark.t ?? Math.round(dragged.t), s: mark.s ?? Math.round(dragged.s) };
          return moveVertex(map, index, to, how);
        }),
      );
      if (index === clip.map.vertices.length - 1) benchStore.setState({ dragHint: framesNeeded() });
    },
  });
}
