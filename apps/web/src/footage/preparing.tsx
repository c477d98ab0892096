import type { Footage, PictureFacts } from '@idle-bend/core/api';
import { useProgress } from '../shell/use-server-events.ts';
import { usePieces } from './pieces.ts';

/** How far a proxy has come: which parts of the clip have theirs, and why it may stand still. */
export function Preparing({ footage, picture }: { footage: Footage; picture: PictureFacts }) {
  const progress = useProgress((s) => s.of[footage.id]);
  const isBusy = useProgress((s) => s.isForegroundBusy);
  const stretches = usePieces(footage) ?? [];
  const { frames, estimate } = picture;
  const percent = (n: number) => `${(n / frames) * 100}%`;
  if (estimate?.isCounted === false) {
    // Where reading does not tell they are decoded, which takes long enough to say how far it is.
    const counted = progress && Math.round((progress.done / progress.total) * 100);
    return (
      <p className="text-faint my-2 text-xs">
        Counting its frames, of which this kind of file keeps no list{counted ? `: ${counted} %` : ''}. It can be bent
        meanwhile; what is marked stays at its time.
      </p>
    );
  }
  const done = progress?.done ?? stretches.reduce((sum, [first, end]) => sum + end - first, 0);
  return (
    <>
      <div
        className="bg-shoal relative my-2 h-1.5 overflow-hidden rounded"
        role="progressbar"
        aria-valuenow={Math.round((done / frames) * 100)}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-label={`Preparing ${footage.name}`}
      >
        {stretches.map(([first, end]) => (
          <div
            key={first}
            className="bg-river absolute inset-y-0"
            data-testid="piece"
            style={{ left: percent(first), width: percent(end - first) }}
          />
        ))}
      </div>
      <p className="text-faint text-xs">
        {isBusy
          ? 'Its proxy waits while a reel plays or renders or files are taken in; it can be bent meanwhile.'
          : `Preparing its proxy, ${Math.round((done / frames) * 100)} %; it can be bent meanwhile.`}
      </p>
    </>
  );
}
