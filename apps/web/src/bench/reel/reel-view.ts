import { linearScale, type LinearScale } from '../../ui/linear-scale.ts';
import { create } from 'zustand';

export type X = LinearScale;

/** The stretch of the reel in sight, in frames; the whole of it without one. */
export const useReelView = create<{ readonly from: number | undefined; readonly span: number | undefined }>(() => ({
  from: undefined,
  span: undefined,
}));

export const EDGE = 12;
/** Never closer than this many frames across. */
const CLOSEST = 24;

/** Frames to pixels, for a reel that ends at `end`. */
export function reelScale(
  end: number,
  width: number,
  { from, span }: { from: number | undefined; span: number | undefined },
): X {
  const [first, frames] =
    from === undefined || span === undefined || span >= end
      ? [0, end]
      : [Math.max(0, Math.min(from, end - span)), span];
  return linearScale([first, first + frames], [EDGE, width - EDGE]);
}

/** Closer or wider by a factor, keeping what is at frame `at` where it is. */
export function zoomReel(factor: number, at: number, end: number): void {
  const { from = 0, span = end } = useReelView.getState();
  const next = Math.max(Math.min(CLOSEST, end), Math.min(end, span * factor));
  if (next >= end) return useReelView.setState({ from: undefined, span: undefined });
  const first = at - ((at - from) * next) / span;
  useReelView.setState({ from: Math.max(0, Math.min(end - next, first)), span: next });
}

export function scrollReel(frames: number, end: number): void {
  const { from, span } = useReelView.getState();
  if (from === undefined || span === undefined) return;
  useReelView.setState({ from: Math.max(0, Math.min(end - span, from + frames)) });
}

/** Brings a frame into sight: while playing a page at a time, otherwise just. */
export function seeFrame(frame: number, end: number): void {
  const { from, span } = useReelView.getState();
  if (from === undefined || span === undefined || (frame >= from && frame < from + span)) return;
  const next = frame >= from + span ? frame - span * 0.05 : frame - span * 0.95;
  useReelView.setState({ from: Math.max(0, Math.min(end - span, next)) });
}

export const seeAll = () => useReelView.setState({ from: undefined, span: undefined });
