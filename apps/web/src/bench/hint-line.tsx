import { ACTIONS } from './actions.ts';
import { useBench } from './bench-store.ts';

const HINTED = ACTIONS.filter((a) => a.hinted);
const SHORT: Readonly<Record<string, string>> = {
  '[': 'narrow',
  ']': 'widen',
  F: 'original',
  H: 'hold',
  T: 'land on the cue',
  R: 'reverse',
  M: 'moment',
  C: 'cue',
  B: 'bend',
  '/': 'all actions',
};

/** Under the chart: the keys that matter most, and while dragging what the drag keeps. */
export function HintLine() {
  const drag = useBench((s) => s.dragHint);
  return (
    <p className="border-line text-faint flex h-8 shrink-0 items-center gap-4 overflow-hidden border-t px-3 text-xs whitespace-nowrap" role="status">
      {drag ? (
        <span className="text-ink">{drag}</span>
      ) : (
        HINTED.map(({ name, shown }) => (
          <span key={name}>
            <kbd className="text-ink mr-1 font-mono font-semibold">{shown}</kbd>
            {SHORT[shown!] ?? name.toLowerCase()}
          </span>
        ))
      )}
    </p>
  );
}
