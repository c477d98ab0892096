import { createStore } from 'zustand/vanilla';

/** The canvas that shows the frame at the playhead, while the bench is open. */
export const canvasStore = createStore<{ readonly canvas: HTMLCanvasElement | undefined }>(() => ({
  canvas: undefined,
}));
