import { couldBeLater, surenessOf, type BeatSection } from '@idle-bend/core/beats';
import { lazy, Suspense } from 'react';
import { hearOtherHalf } from './other-half.ts';

const SurenessChart = lazy(() => import('./sureness-chart.tsx'));

const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, '0')}`;

interface Props {
  readonly sections: readonly BeatSection[];
}

/** Says where the beats that were heard could be half a beat later; nothing where they are sure. */
export function OtherHalf({ sections }: Props) {
  const later = couldBeLater(sections);
  if (later.length === 0) return null;
  const isWhole = later.length === 1 && later[0]!.from === 0 && later[0]!.to === sections.at(-1)!.to;
  const where = later.map(({ from, to }) => `${clock(from)}–${clock(to)}`).join(', ');
  return (
    <p className="flex items-center gap-2 text-xs">
      <span>Could be half a beat later{isWhole ? '' : `: ${where}`}.</span>
      <button className="button ml-auto shrink-0 px-2 text-xs" onClick={hearOtherHalf}>
        Hear the other <kbd className="font-mono opacity-70">Shift N</kbd>
      </button>
    </p>
  );
}

/** How sure the beats are that were heard, and their tempo, over the sound. `here` is a second of the file. */
export function Sureness({ sections, here }: Props & { readonly here: number }) {
  if (sections.length === 0) return null;
  return (
    <section aria-label="How sure the beats are">
      <div className="text-faint flex items-baseline gap-3 text-xs">
        <span className="text-river">beats a minute</span>
        <span className="text-brass ml-auto">sure, {Math.round(100 * surenessOf(sections))} % over all</span>
      </div>
      <Suspense fallback={<div className="h-21" />}>
        <SurenessChart sections={sections} here={here} />
      </Suspense>
    </section>
  );
}
