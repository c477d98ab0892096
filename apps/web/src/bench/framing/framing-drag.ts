import { setFraming } from '@idle-bend/core/edit';
import { FITTED, isGroup, MAX_SCALE, MIN_SCALE, type Clip, type Framing, type Project } from '@idle-bend/core/model';
import type { PointerEvent as Press, WheelEvent } from 'react';
import { makeDrag } from '../make-drag.ts';
import { editDuringGesture, endGesture } from '../../session/session.ts';
import { type BenchClip } from '../../session/bench-state.ts';
import { useBench } from '../../ui/use-session.ts';

/** Within this share of the reel's size the middle of the picture is caught by the reel's. */
const CATCH = 0.015;
const caught = (share: number) => (Math.abs(share) < CATCH ? 0 : share);

function reframe(project: Project, clipId: string, change: (framing: Framing) => Partial<Framing>): Project {
  const clip = project.reel.items.find((item): item is Clip => item.kind === 'clip' && item.id === clipId);
  const framing = clip?.framing ?? FITTED;
  return setFraming(project, clipId, { ...framing, ...change(framing) });
}

/** The wheel's turns that belong together are one gesture, which ends when it rests. */
const REST_MILLISECONDS = 400;
let turned = 1;
let resting: ReturnType<typeof setTimeout> | undefined;

function scaleBy(clipId: string, factor: number): void {
  clearTimeout(resting);
  turned *= factor;
  const limited = (scale: number) => Math.round(Math.min(MAX_SCALE, Math.max(MIN_SCALE, scale)) * 1000) / 1000;
  editDuringGesture((before) => reframe(before, clipId, ({ scale }) => ({ scale: limited(scale * turned) })));
  resting = setTimeout(() => {
    turned = 1;
    endGesture();
  }, REST_MILLISECONDS);
}

/** While its framing is looked at, a clip's picture is dragged in its frame, and scaled by the wheel; otherwise none. */
export function useFramingDrag({ clip, source, project }: BenchClip) {
  const open = useBench((s) => s.clipPage === 'framing' && s.selection.kind === 'clip' && s.picked.length === 0);
  const drag = makeDrag<DOMRect>({
    hint: 'Moves the picture in the reel’s frame · Alt lets go of the middle',
    move: (box, { dx, dy, event }) => {
      const snap = event.altKey ? (share: number) => share : caught;
      editDuringGesture((before) =>
        reframe(before, clip.id, ({ x, y }) => ({ x: snap(x + dx / box.width), y: snap(y + dy / box.height) })),
      );
    },
  });
  if (!open || isGroup(source)) return undefined;
  const { width, height } = project.reel;
  /** The reel's picture on the screen, which may be narrower than the place it has. */
  const shownBox = (element: Element): DOMRect => {
    const { x, y, width: w, height: h } = element.getBoundingClientRect();
    const scale = Math.min(w / width, h / height);
    return new DOMRect(x, y, width * scale, height * scale);
  };
  return {
    onPointerDown: (event: Press<Element>) => drag(shownBox(event.currentTarget)).onPointerDown(event),
    onWheel: ({ deltaY }: WheelEvent) => scaleBy(clip.id, Math.exp(-deltaY / 600)),
  };
}
