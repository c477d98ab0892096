import type { DroppedRepeats } from '@idle-bend/core/model';
import type { FrameIndex } from '../probe/frame-index.js';
import { inspectHealth } from './inspect-health.js';
import type { OpenedSource } from '../probe/source.js';

/** A repeat is coded in less than this share of what the frames around it take. */
const SMALL = 0.3;
const AROUND = 6;

/**
 * Whether a file may hold repeated frames, by the sizes of its packets alone: a repeat costs next to nothing where frames are coded by
 * their difference, and as much to the byte as the one before it where they are not. May be wrong in saying so, which costs a look.
 */
export function mayRepeat({ sizes, keys }: Pick<FrameIndex, 'sizes' | 'keys'>): boolean {
  if (!sizes) return true;
  if (keys.length === sizes.length) return sizes.some((bytes, n) => n > 0 && bytes === sizes[n - 1]);
  return sizes.some((bytes, n) => {
    const around = sizes.slice(Math.max(0, n - AROUND), n + AROUND + 1).sort();
    return bytes < SMALL * around[around.length >> 1]!;
  });
}

/** A source's repeats, to be left out while time is kept; null without any. Looks at every picture only where there may be some. */
export async function findSkips(source: OpenedSource, signal?: AbortSignal): Promise<DroppedRepeats | null> {
  if (!mayRepeat(source.index)) return null;
  const { repeats } = await inspectHealth(source, undefined, signal);
  return repeats.length > 0 ? { mode: 'keep', repeats } : null;
}
