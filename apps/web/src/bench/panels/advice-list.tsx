import { adviseClip } from '@idle-bend/core';
import { X } from 'lucide-react';
import { useMemo } from 'react';
import { goTo, useBench, type BenchClip } from '../bench-store.ts';
import { changeMap } from '../edits.ts';

const MOST_SHOWN = 3;

/** What will be seen in the clip and could be mended: a press on the sentence goes there, one on the remedy mends it. */
export function AdviceList({ bench }: { bench: BenchClip }) {
  const { project, clip, frames } = bench;
  const dismissed = useBench((s) => s.dismissed);
  const advice = useMemo(() => adviseClip(project, clip), [project, clip]).filter((a) => !dismissed.includes(`${clip.id} ${a.id}`));
  if (advice.length === 0) return null;
  return (
    <ul className="flex flex-col gap-2" aria-label="Advice">
      {advice.slice(0, MOST_SHOWN).map(({ id, frame, sentence, remedy }) => (
        <li key={id} className="border-line bg-sheet flex items-start gap-2 rounded-lg border px-3 py-2 text-sm">
          <div className="min-w-0 flex-1">
            <button className="text-left hover:underline" onClick={() => goTo(frame, frames)}>
              {sentence}
            </button>
            {remedy && (
              <button className="text-river mt-0.5 block font-semibold hover:underline" onClick={() => changeMap(remedy.apply)}>
                {remedy.label}
              </button>
            )}
          </div>
          <button
            className="text-faint hover:text-ink"
            aria-label="Dismiss this advice"
            onClick={() => useBench.setState({ dismissed: [...dismissed, `${clip.id} ${id}`] })}
          >
            <X size={14} aria-hidden />
          </button>
        </li>
      ))}
      {advice.length > MOST_SHOWN && <li className="text-faint text-xs">and {advice.length - MOST_SHOWN} more</li>}
    </ul>
  );
}
