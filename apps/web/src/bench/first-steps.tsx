import { Check, X } from 'lucide-react';
import { useEffect, useState, type ReactNode } from 'react';
import { firstStepsAreDone } from './first-steps-wait.ts';
import { driftsOf } from './landing/drifts.ts';
import { openGuide } from '../guide/guide-state.ts';
import { benchClips, benchStore } from '../session/bench-state.ts';
import { projectStore } from '../session/session.ts';
import { useBench, useProject } from '../ui/use-session.ts';

/** What a newcomer does first on the demo: three things, ticked as they are done, and gone for good with the third. */
export function FirstSteps() {
  const [isOver, setOver] = useState(false);
  const [landed, setLanded] = useState(false);
  const [played, setPlayed] = useState(false);
  const [changed, setChanged] = useState(false);
  const [first] = useState(() => projectStore.getState().whole);
  const document = useProject((s) => s.document);
  const clock = useBench((s) => s.clock);
  useEffect(() => {
    if (clock > 0) setPlayed(true);
  }, [clock]);
  useEffect(() => {
    if (!document || document === first) return;
    const [clip] = benchClips(document);
    const isLanded = clip !== undefined && driftsOf(clip).some((drift) => drift.tied && drift.landed);
    if (isLanded) setLanded(true);
    if (benchStore.getState().dragHint !== undefined) setChanged(true);
  }, [document, first]);
  const done = landed && played && changed;
  const close = () => {
    firstStepsAreDone();
    setOver(true);
  };
  useEffect(() => {
    if (done) firstStepsAreDone();
  }, [done]);
  if (isOver) return null;
  return (
    <aside
      aria-label="First steps"
      className="border-line bg-sheet flex h-9 shrink-0 items-center gap-4 overflow-hidden border-t px-3 text-[13px] whitespace-nowrap"
    >
      {done ? (
        <>
          <strong className="font-semibold">That is all it takes.</strong>
          <button className="text-river font-semibold hover:underline" onClick={() => openGuide()}>
            More in the guide
          </button>
        </>
      ) : (
        <ol className="flex min-w-0 flex-1 items-center gap-4 overflow-hidden">
          <Step done={landed}>
            Press the red <span className="font-mono">−6 f</span>, then <kbd className="font-mono font-semibold">T</kbd>
          </Step>
          <Step done={played}>
            <kbd className="font-mono font-semibold">Space</kbd> plays
          </Step>
          <Step done={changed}>Drag a speed up or down</Step>
        </ol>
      )}
      <button className="button ml-auto px-1.5 py-0.5" aria-label="No more first steps" onClick={close}>
        <X size={14} aria-hidden />
      </button>
    </aside>
  );
}

const Step = ({ done, children }: { done: boolean; children: ReactNode }) => (
  <li className={`flex items-center gap-1.5 ${done ? 'text-moss' : ''}`}>
    <span
      className={`grid size-4 place-items-center rounded-full border ${done ? 'border-moss bg-moss text-sheet' : 'border-faint'}`}
      role="img"
      aria-label={done ? 'done' : 'to do'}
    >
      {done && <Check size={11} aria-hidden />}
    </span>
    <span>{children}</span>
  </li>
);
