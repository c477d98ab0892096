import { useRef, type PointerEvent } from 'react';
import { cancelGesture, endGesture } from '../shell/project-store.ts';
import { useBench } from './bench-store.ts';

export interface DragStep {
  /** Pixels since the drag began. */
  readonly dx: number;
  readonly dy: number;
  readonly event: PointerEvent;
}

export interface Drag<T> {
  /** Said in the hint line while dragging: what the drag keeps and which keys change that. */
  readonly hint: string;
  /** Whether the chart's scales stay as they were when the drag began, so that what is dragged stays under the pointer. */
  readonly holdScales?: boolean;
  readonly move: (what: T, step: DragStep) => void;
}

/** Pointer handlers for a drag that is one undo; Escape puts everything back. A press without movement is a click. */
export function useDrag<T>({ hint, holdScales = false, move }: Drag<T>) {
  const drag = useRef<{ what: T; x: number; y: number; moved: boolean } | undefined>(undefined);
  const over = () => {
    drag.current = undefined;
    useBench.setState({ dragHint: undefined, scalesHeld: false });
  };
  return (what: T) => ({
    onPointerDown: (event: PointerEvent) => {
      if (event.button !== 0) return;
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      drag.current = { what, x: event.clientX, y: event.clientY, moved: false };
      const escape = (key: KeyboardEvent) => {
        if (key.key !== 'Escape' || !drag.current) return;
        over();
        cancelGesture();
      };
      addEventListener('keydown', escape);
      addEventListener('pointerup', () => removeEventListener('keydown', escape), { once: true });
    },
    onPointerMove: (event: PointerEvent) => {
      const now = drag.current;
      if (!now) return;
      const [dx, dy] = [event.clientX - now.x, event.clientY - now.y];
      if (!now.moved && Math.hypot(dx, dy) < 3) return;
      if (!now.moved) useBench.setState({ dragHint: hint, scalesHeld: holdScales });
      now.moved = true;
      move(now.what, { dx, dy, event });
    },
    onPointerUp: () => {
      if (drag.current?.moved) endGesture();
      if (drag.current) over();
    },
    onPointerCancel: () => {
      if (drag.current) cancelGesture();
      if (drag.current) over();
    },
  });
}
