import { ACTIONS } from './actions.ts';
import { useBench } from '../ui/use-session.ts';
import { drawnBy } from '../ui/drawn-by.ts';

const HINTED = ACTIONS.filter((a) => a.hint !== undefined);

/** Under the chart: the keys that matter most, and while dragging what the drag keeps. */
function HintLinePart() {
  const drag = useBench((s) => s.dragHint);
  return (
    <p
      className="border-line text-faint flex h-8 shrink-0 items-center gap-4 overflow-hidden border-t px-3 text-xs whitespace-nowrap"
      role="status"
    >
      {drag ? (
        <span className="text-ink">{drag}</span>
      ) : (
        HINTED.map(({ name, shown, hint }) => (
          <span key={name}>
            <kbd className="text-ink mr-1 font-mono font-semibold">{shown}</kbd>
            {hint}
          </span>
        ))
      )}
    </p>
  );
}

export const HintLine = drawnBy('hint line', () => [], HintLinePart);
