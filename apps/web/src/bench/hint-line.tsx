import { ACTIONS, type Action } from './actions.ts';
import { useBench } from '../ui/use-session.ts';
import { drawnBy } from '../ui/drawn-by.ts';

const HINTED = ACTIONS.filter((a) => a.hint !== undefined);

/** Under the chart: the keys that matter most, as many as there is room for and the way to all of them; while dragging what the drag keeps. */
function HintLinePart() {
  const drag = useBench((s) => s.dragHint);
  return (
    <div className="border-line text-faint flex h-8 shrink-0 items-center gap-4 border-t px-3 text-xs whitespace-nowrap">
      <span className="text-ink empty:-mr-4" role="status">
        {drag}
      </span>
      {!drag && (
        <>
          <span className="flex h-8 min-w-0 flex-1 flex-wrap items-center gap-x-4 overflow-hidden">
            {HINTED.slice(0, -1).map((action) => (
              <Hint key={action.name} {...action} />
            ))}
          </span>
          <Hint {...HINTED.at(-1)!} />
        </>
      )}
    </div>
  );
}

const Hint = ({ name, shown, hint, run }: Action) => (
  // The keys do the same, and stay with the bench.
  <button
    className="hover:text-river h-8 shrink-0"
    data-tip={name}
    tabIndex={-1}
    onMouseDown={(event) => event.preventDefault()}
    onClick={run}
  >
    <kbd className="text-ink font-mono font-semibold">{shown}</kbd> {hint}
  </button>
);

export const HintLine = drawnBy('hint line', () => [], HintLinePart);
