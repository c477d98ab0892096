import type { Advice } from '@idle-bend/core/advice';
import { X } from 'lucide-react';
import { useState } from 'react';
import { adviceKey, useAdvice } from './use-advice.ts';
import { benchStore, goTo, type BenchClip } from '../../session/bench-state.ts';
import { changeMap } from '../../session/command.ts';

/** What will be seen in the clip and could be mended: a press on the sentence goes there, one on the remedy mends it. The first is in sight, the others a press away. */
export function AdviceList({ bench }: { bench: BenchClip }) {
  const [all, setAll] = useState(false);
  const advice = useAdvice(bench);
  if (advice.length === 0) return null;
  return (
    <div className="border-line bg-sheet rounded-lg border px-3 py-1.5 text-[13px]">
      <ul className="flex flex-col gap-1.5" aria-label="Advice">
        {(all ? advice : advice.slice(0, 1)).map((entry) => (
          <Entry key={entry.id} bench={bench} advice={entry} />
        ))}
      </ul>
      {advice.length > 1 && (
        <button className="text-faint hover:text-ink mt-0.5 text-xs" aria-expanded={all} onClick={() => setAll(!all)}>
          {all ? 'only the first' : `and ${advice.length - 1} more`}
        </button>
      )}
    </div>
  );
}

function Entry({ bench, advice }: { bench: BenchClip; advice: Advice }) {
  const { frame, sentence, remedy } = advice;
  const dismiss = () =>
    benchStore.setState(({ dismissed }) => ({ dismissed: [...dismissed, adviceKey(bench.clip, advice)] }));
  return (
    <li className="flex items-start gap-2">
      <p className="min-w-0 flex-1">
        <button className="text-left hover:underline" onClick={() => goTo(frame, bench.frames)}>
          {sentence}
        </button>{' '}
        {remedy && (
          <button className="text-river font-semibold hover:underline" onClick={() => changeMap(remedy.apply)}>
            {remedy.label}
          </button>
        )}
      </p>
      <button className="text-faint hover:text-ink mt-0.5" aria-label="Dismiss this advice" onClick={dismiss}>
        <X size={14} aria-hidden />
      </button>
    </li>
  );
}
