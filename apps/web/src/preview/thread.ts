import type { ToPreview } from './messages.ts';

let thread: Worker | undefined;

/** Starts the preview's thread for a canvas; `tellPreview` speaks to it until it ends. */
export function startPreview(): Worker {
  thread = new Worker(new URL('./preview.worker.ts', import.meta.url), { type: 'module' });
  return thread;
}

export function endPreview(which: Worker): void {
  which.terminate();
  if (thread === which) thread = undefined;
}

/** Says something to the preview; without one it is lost, and asked again by whoever needs it when the next one starts. */
export function tellPreview(message: ToPreview, transfer: Transferable[] = []): void {
  thread?.postMessage(message, transfer);
}
