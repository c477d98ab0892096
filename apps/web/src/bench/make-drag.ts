import type { PointerEvent as Press } from 'react';
import { cancelGesture, endGesture } from '../session/session.ts';
import { benchStore } from '../session/bench-state.ts';

interface DragStep {
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
  /** After a drag that moved and was not taken back. */
  readonly done?: (what: T) => void;
  /** After every press, however it ended. */
  readonly over?: () => void;
}

/**
 * A pointer handler for a drag that is one undo; Escape puts everything back. A press without movement is a click. What is dragged, and on
 * what scale, is what it was at the press: playing may bring another clip to the bench meanwhile.
 */
export function makeDrag<T>({ hint, holdScales = false, move, done, over: ended }: Drag<T>) {
  return (what: T) => ({
    onPointerDown: (press: Press) => {
      if (press.button !== 0) return;
      press.stopPropagation();
      press.currentTarget.setPointerCapture(press.pointerId);
      const { clientX, clientY, pointerId } = press;
      let moved = false;
      // Heard by the window: what is dragged may be drawn again, or go, while it is dragged, and the drag must end all the same.
      const hearing = new AbortController();
      const { signal } = hearing;
      const over = (finish: () => void) => {
        hearing.abort();
        benchStore.setState({ dragHint: undefined, scalesHeld: false });
        finish();
        ended?.();
      };
      const hear = (name: 'pointermove' | 'pointerup' | 'pointercancel', then: (event: PointerEvent) => void) =>
        window.addEventListener(name, (event) => event.pointerId === pointerId && then(event), {
          capture: true,
          signal,
        });
      hear('pointermove', (event) => {
        const [dx, dy] = [event.clientX - clientX, event.clientY - clientY];
        if (!moved && Math.hypot(dx, dy) < 3) return;
        if (!moved) benchStore.setState({ dragHint: hint, scalesHeld: holdScales });
        moved = true;
        move(what, { dx, dy, event });
      });
      hear('pointerup', () => {
        over(endGesture);
        if (moved) done?.(what);
      });
      hear('pointercancel', () => over(cancelGesture));
      window.addEventListener('keydown', (event) => event.key === 'Escape' && over(cancelGesture), { signal });
    },
  });
}
