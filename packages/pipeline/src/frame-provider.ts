import type { Frame, FrameFormat } from '@idle-bend/core/frame';

/**
 * Where source pixels come from: the browser's decoder on a proxy, the server's on the original. The one thing that
 * differs between preview and export.
 */
export interface FrameProvider {
  readonly format: FrameFormat;
  /** How many frames the source has; they are numbered from 0 on its constant grid. */
  readonly frameCount: number;
  /**
   * The wanted source frames, in the order asked. They belong to the provider and stay as they are until the next call.
   * Throws an error naming the frame when one cannot be decoded.
   */
  frames(wanted: readonly number[]): Promise<readonly Frame[]>;
}
